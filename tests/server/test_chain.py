"""Tampering shows: the database refuses it, and what was done past the database is found."""

import json
from collections.abc import Callable
from dataclasses import replace
from hashlib import sha256
from io import BytesIO, StringIO
from typing import Any
from unittest.mock import patch

from django.core.checks import run_checks
from django.core.management import CommandError, call_command
from django.db import DatabaseError, connection, transaction
from django.test import TestCase, TransactionTestCase
from PIL import Image

from dianoia.case.times import now as clock
from dianoia.repair.sheets import steps_known
from server.jobs import customers
from server.jobs.change import change_job
from server.jobs.customers import CustomerData
from server.jobs.photos import add_photo
from server.jobs.read import add_reading
from server.jobs.start import start_job
from server.jobs.stored import find_job
from server.jobs.strike import strike_reading
from server.ledger import guards
from server.ledger.chain import START, canonical, link, record
from server.ledger.entries import seal_of
from server.ledger.models import Entry, Job
from server.ledger.readings import CLOCK_AHEAD, clock_of, lines_of
from server.ledger.verification import problems
from tests.cases import BATTERY, ELEMENT, SUPPLY, case
from tests.people import AtTheBench, Emptied, author, someone

JSON = "application/json"


def sql(statement: str, *values: Any) -> None:
    with connection.cursor() as cursor:
        cursor.execute(statement, values)


class Chain(TestCase):
    """What is hashed, by hand."""

    def test_a_hash_is_of_the_hash_before_and_of_all_that_was_written(self) -> None:
        text = '[1,7,0,"strike","Ana","2026-03-14T09:30:00+00:00","{\\"line\\":0}"]'
        self.assertEqual(record(1, 7, 0, "strike", "Ana", "2026-03-14T09:30:00+00:00", canonical({"line": 0})), text)
        self.assertEqual(link(START, text), sha256(f"{START}\n{text}".encode()).hexdigest())
        self.assertEqual(canonical({"b": 1, "a": "Ω"}), '{"a":"Ω","b":1}')


class Tampering(Emptied, TransactionTestCase):
    """Each course of tampering is refused, or found."""

    def setUp(self) -> None:
        self.job = start_job(case(BATTERY, SUPPLY), by=author()).job
        add_reading(self.job, case(ELEMENT).readings[0], by=author("Beppo"))
        strike_reading(self.job, 0, "wrong pin", author())
        change_job(self.job, {"title": "Morning"}, author())
        made = BytesIO()
        Image.new("RGB", (40, 30)).save(made, "JPEG")
        add_photo(self.job, sorted(steps_known())[0], made.getvalue(), author())

    def test_a_clock_years_ahead_stamps_its_own_entries_only_and_they_are_marked(self) -> None:
        here = clock()
        with patch("server.ledger.entries.now", return_value=here.replace(here[:4], "2031", 1)):
            for _ in range(2):
                add_reading(Job.objects.get(pk=self.job.pk), case(BATTERY).readings[0], by=author())
        add_reading(Job.objects.get(pk=self.job.pk), case(SUPPLY).readings[0], by=author())
        stamped = [row.at[:4] for row in Entry.objects.order_by("number")][-3:]
        self.assertEqual(stamped, ["2031", "2031", here[:4]])
        marks = [item.clock == CLOCK_AHEAD for item in lines_of(Job.objects.get(pk=self.job.pk)).written][-3:]
        self.assertEqual(marks, [True, True, False])
        self.assertEqual(list(problems()), [])

    def test_the_database_refuses_every_way_to_change_an_entry(self) -> None:
        for statement in (
            "UPDATE jobs_entry SET body = '{}' WHERE number = 2",
            "DELETE FROM jobs_entry WHERE number = 2",
            "INSERT OR REPLACE INTO jobs_entry SELECT id, number, place, line, kind, '{}', by, at, key, hash, job_id, person_id "
            "FROM jobs_entry WHERE number = 2",
        ):
            with self.subTest(statement[:20]), self.assertRaises(DatabaseError), transaction.atomic():
                sql(statement)
        with self.assertRaises(DatabaseError), transaction.atomic():
            Job.objects.filter(pk=self.job.pk).delete()
        self.assertEqual(list(problems()), [])

    def test_what_waited_says_so(self) -> None:
        add_reading(self.job, replace(case(ELEMENT).readings[0], taken="2026-03-14T09:30:00+00:00"), by=author())
        self.assertEqual([item.later for item in lines_of(self.job).written], [False, False, False, True])

    def test_what_is_done_past_the_guards_is_found(self) -> None:
        def reorder() -> None:
            sql("UPDATE jobs_entry SET number = 900 WHERE number = 2")
            sql("UPDATE jobs_entry SET number = 2 WHERE number = 3")
            sql("UPDATE jobs_entry SET number = 3 WHERE number = 900")

        def mend_the_chain_from(number: int) -> None:
            before = Entry.objects.get(number=number - 1).hash
            for row in Entry.objects.filter(number__gte=number):
                before = link(before, record(row.number, row.job_id, row.place, row.kind, row.by, row.at, row.body))
                sql("UPDATE jobs_entry SET hash = %s WHERE number = %s", before, row.number)

        def forge_and_mend() -> None:
            body = json.loads(Entry.objects.get(number=6).body)
            sql(
                "UPDATE jobs_entry SET body = %s WHERE number = 6",
                canonical({**body, "known": {**body["known"], "title": "Noon"}}),
            )
            mend_the_chain_from(6)

        def another_trigger() -> None:
            guards.install()
            sql("DROP TRIGGER jobs_entry_no_update")
            sql("CREATE TRIGGER jobs_entry_no_update BEFORE UPDATE ON jobs_entry BEGIN SELECT 1; END")

        courses: tuple[tuple[str, Callable[[], None], str], ...] = (
            (
                "a changed byte",
                lambda: sql("UPDATE jobs_entry SET body = replace(body, 'OL', '6 ohm') WHERE line = 2"),
                "entry 4",
            ),
            ("another name", lambda: sql("UPDATE jobs_entry SET by = 'Beppo' WHERE number = 5"), "entry 5"),
            (
                "another person's account",
                lambda: sql("UPDATE jobs_entry SET person_id = %s WHERE number = 2", someone("Beppo").pk),
                "another person's",
            ),
            ("a photo exchanged", lambda: sql("UPDATE jobs_photo SET image = %s", b"another"), "is not what was taken"),
            ("a photo taken away", lambda: sql("DELETE FROM jobs_photo"), "is missing"),
            ("a trigger that lets all pass", another_trigger, "is not ours"),
            ("a removed row", lambda: sql("DELETE FROM jobs_entry WHERE number = 3"), "entry 3 is missing"),
            ("a removed end", lambda: sql("DELETE FROM jobs_entry WHERE number = 7"), "should have 7 entries"),
            ("a reordered pair", reorder, "entry 2"),
            ("the job itself", lambda: sql("UPDATE jobs_job SET header = '{}'"), "is not what its entries come to"),
            ("an entry, and the chain made anew", forge_and_mend, "is not what its entries come to"),
        )
        for why, tamper, says in courses:
            with self.subTest(why), transaction.atomic():
                point = transaction.savepoint()
                guards.lift()
                tamper()
                self.assertTrue(any(says in line for line in problems()), list(problems()))
                transaction.savepoint_rollback(point)
        self.assertEqual(list(problems()), [])

    def test_missing_guards_are_found_and_come_back_with_a_migration(self) -> None:
        guards.lift()
        self.assertIn("dianoia.E001", [item.id for item in run_checks(databases=["default"])])
        with self.assertRaises(CommandError):
            call_command("verify_ledger", stdout=StringIO())
        call_command("migrate", verbosity=0)
        said = StringIO()
        call_command("verify_ledger", stdout=said)
        self.assertIn(f"7 entries, newest hash {seal_of(self.job)}", said.getvalue())


class Customers(AtTheBench, TestCase):
    """Personal data stands apart, and can go."""

    def test_it_is_committed_to_and_removed_while_the_record_stays(self) -> None:
        job = start_job(case(ELEMENT)).job
        told = {"name": "Postal service", "plate": "VS 12", "vin": "W1"}
        self.assertEqual(self.client.patch(f"/api/jobs/{job.pk}/customer", told, content_type=JSON).json(), told)
        self.assertEqual(list(problems()), [])
        self.assertNotIn("Postal", "".join(Entry.objects.values_list("body", flat=True)))
        job.customer.plate = "VS 13"
        job.customer.save()
        self.assertIn("customer's data", next(iter(problems())))
        call_command("remove_customer", str(job.pk), stdout=StringIO())
        self.assertEqual(customers.customer_of(job), CustomerData())
        self.assertEqual((list(problems()), Entry.objects.filter(kind="reading").count()), ([], 1))


class Clashes(AtTheBench, TestCase):
    """Two screens change one job."""

    def change(self, job: int, seen: int, **body: Any) -> Any:
        return self.client.patch(f"/api/jobs/{job}", body, content_type=JSON, headers={"If-Match": f'"{seen}"'})

    def test_the_same_field_is_not_overwritten_and_others_are_both_kept(self) -> None:
        job = start_job(case()).pk
        seen = self.client.get(f"/api/jobs/{job}").json()["entries"]
        change_job(find_job(job), {"sensor": {"bias_v": 0.45, "family": "switching-4w"}}, author("Beppo"))
        clash = self.change(job, seen, sensor={"bias_v": 0.5})
        self.assertEqual((clash.status_code, clash.json()["by"]), (412, "Beppo"))
        self.assertEqual([item["field"] for item in clash.json()["findings"]], ["sensor.bias_v"])
        self.assertEqual(self.change(job, seen, sensor={"heater_ohms_20c": [4, 8]}, title="Morning").status_code, 200)
        sensor = self.client.get(f"/api/jobs/{job}").json()["case"]["sensor"]
        self.assertEqual((sensor["bias_v"], sensor["heater_ohms_20c"]), (0.45, [4, 8]))
        self.assertEqual(self.change(job, seen, sensor={"pins": {"1": {"colour": "grey"}}}).status_code, 200)
        now = self.client.get(f"/api/jobs/{job}/stand").json()["entries"]
        self.assertEqual(self.change(job, now, sensor={"bias_v": 0.5}).status_code, 200)
        self.assertEqual(
            self.client.patch(f"/api/jobs/{job}", {}, content_type=JSON, headers={"If-Match": "x"}).status_code, 422
        )


class Clocks(TestCase):
    """What is noted of an instrument's own time."""

    def test_a_clock_ahead_or_set_back_is_noted(self) -> None:
        before = "2026-03-14T09:30:00+00:00"
        for taken, last, says in (
            (None, None, ""), (before, None, ""), ("2026-03-14", before, ""), (before, "2026-03-14T09:31:00+00:00", ""),
            ("2098-03-14T09:30:00+00:00", None, "ahead"), (before, "2026-03-14T10:30:00+00:00", "set back"),
        ):  # fmt: skip
            with self.subTest(taken=taken, last=last):
                noted = clock_of(taken, last)
                self.assertEqual(bool(noted), bool(says))
                self.assertIn(says, noted)
