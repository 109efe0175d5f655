"""What is answered is on the disk; a store that cannot be written says so; copies come back whole."""

import json
import logging
import sqlite3
from contextlib import closing
from datetime import datetime, timedelta
from io import StringIO
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest.mock import Mock, patch

from django.conf import settings
from django.core.management import CommandError, call_command
from django.db import connection
from django.test import SimpleTestCase, TestCase, TransactionTestCase, override_settings

from server.jobs import customers
from server.jobs.read import add_reading
from server.jobs.results import worked_out
from server.jobs.start import start_job
from server.ledger import copies, guards, nightly
from server.ledger.entries import NOBODY
from server.ledger.models import Entry, Job
from server.ledger.store_lock import hold, is_running
from server.ledger.verification import problems, problems_of_copies, problems_of_heads
from server.logs import JsonLines
from tests.cases import BATTERY, ELEMENT, case
from tests.people import AtTheBench, BenchClient, Emptied, readings

JSON = "application/json"


class Disks(AtTheBench, TestCase):
    """The live connection, and what becomes of a write that fails."""

    def test_the_live_connection_waits_for_the_disk(self) -> None:
        with connection.cursor() as cursor:
            found = {
                name: cursor.execute(f"PRAGMA {name}").fetchone()[0]
                for name in ("synchronous", "recursive_triggers", "secure_delete")
            }
        self.assertEqual(found, {"synchronous": 2, "recursive_triggers": 1, "secure_delete": 1})

    def test_a_full_disk_and_a_store_that_cannot_be_written_are_said(self) -> None:
        job = start_job(case()).pk
        with connection.cursor() as cursor:
            pages = cursor.execute("PRAGMA page_count").fetchone()[0]
            for spoil, mend, says in (
                (f"PRAGMA max_page_count = {pages}", "PRAGMA max_page_count = 1073741823", "disk is full"),
                ("PRAGMA query_only = ON", "PRAGMA query_only = OFF", "cannot be written"),
            ):
                cursor.execute(spoil)
                try:
                    with self.assertLogs("server", "ERROR"):
                        for _ in range(60):  # the last page has some room
                            answer = self.client.post(
                                f"/api/jobs/{job}/readings", {**ELEMENT, "note": "n" * 900}, content_type=JSON
                            )
                            if answer.status_code != 201:
                                break
                finally:
                    cursor.execute(mend)
                self.assertEqual((answer.status_code, says in answer.json()["message"]), (503, True), answer.json())
                self.assertEqual(self.client.get("/api/jobs").status_code, 200)
        self.assertEqual(list(problems()), [])

    def test_the_state_of_the_store_is_asked_without_a_name(self) -> None:
        self.client.logout()
        self.assertEqual(self.client.get("/healthz").json()["ok"], True)


class Copies(Emptied, TransactionTestCase):
    """Of the store."""

    client_class: Any = BenchClient

    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        use = override_settings(
            VAR_DIR=self.folder, BACKUPS=self.folder / "copies", BACKUPS_SECOND=str(self.folder / "second")
        )
        use.enable()
        self.addCleanup(use.disable)
        self.job = start_job(case(BATTERY)).job

    def test_a_copy_taken_while_people_work_comes_back_with_all_up_to_it(self) -> None:
        copy = copies.copy_now()
        add_reading(self.job, case(ELEMENT).readings[0])
        self.assertEqual({path.name for path in (self.folder / "second").iterdir()}, {copy.name, "heads.txt"})
        with patch("server.ledger.copies.datetime", wraps=datetime) as later:
            later.now.return_value = datetime.now() + timedelta(seconds=2)
            call_command("restore", str(copy), stdout=StringIO())
        self.assertEqual((len(readings()), list(problems())), (1, []))
        before = max(path for path in (self.folder / "copies").iterdir())
        with closing(sqlite3.connect(before)) as kept:  # what was there was copied first
            self.assertEqual(kept.execute("SELECT count(*) FROM jobs_entry WHERE kind = 'reading'").fetchone()[0], 2)

    @patch(
        "server.ledger.nightly.problems", lambda *_: problems()
    )  # Django's tests refuse a database that is named later
    def test_a_store_that_cannot_be_written_says_so_and_still_shows_its_jobs(self) -> None:
        self.assertEqual(self.client.get("/healthz").json()["writes"], "possible")
        with patch("server.web.shutil.disk_usage", return_value=Mock(free=1_000)):
            answer = self.client.get("/healthz")
            self.assertEqual((answer.status_code, answer.json()["ok"]), (503, False))
            self.assertIn("disk is full", answer.json()["writes"])
        with closing(sqlite3.connect(str(settings.DATABASES["default"]["NAME"]), isolation_level=None)) as other:
            other.execute("BEGIN IMMEDIATE")  # someone who does not let go
            self.assertEqual(self.client.get(f"/api/jobs/{self.job.pk}").status_code, 200)

    def test_what_is_removed_is_in_no_file_of_the_store_and_copies_that_hold_it_are_named(self) -> None:
        customers.keep(self.job, customers.CustomerChange(name="Zwillingsbrunn post"), NOBODY)
        copy, out = copies.copy_now(), StringIO()
        lies = Path(str(settings.DATABASES["default"]["NAME"]))
        files = [lies, lies.with_name(lies.name + "-wal")]
        self.assertTrue(any(b"Zwillingsbrunn" in path.read_bytes() for path in files if path.exists()))
        call_command("remove_customer", str(self.job.pk), stdout=out)
        self.assertFalse(any(b"Zwillingsbrunn" in path.read_bytes() for path in files if path.exists()))
        for folder in ("copies", "second"):
            self.assertIn(str(self.folder / folder / copy.name), out.getvalue())

    def test_nothing_is_put_back_under_a_running_server(self) -> None:
        copy = copies.copy_now()
        with hold(), self.assertRaisesMessage(CommandError, "stop it first"):
            call_command("restore", str(copy), stdout=StringIO())
        self.assertFalse(is_running())

    @patch(
        "server.ledger.nightly.problems", lambda *_: problems()
    )  # Django's tests refuse a database that is named later
    def test_a_chain_made_anew_shows_against_an_older_copy_and_the_noted_head(self) -> None:
        checked = nightly.verified(copies.copy_now())
        self.assertEqual((checked.problems, nightly.broken()), ((), ""))
        self.assertIn("holds", self.client.get("/healthz").json()["ledger"])
        guards.lift()
        with connection.cursor() as cursor:
            cursor.execute("UPDATE jobs_entry SET hash = %s WHERE number = 2", ["0" * 64])
        said = [*problems_of_copies(copies.copies()), *problems_of_heads(copies.heads_path())]
        self.assertEqual(len(said), 2, said)
        with patch("server.ledger.copies.datetime", wraps=datetime) as later, self.assertLogs("server.ledger.nightly"):
            later.now.return_value = datetime.now() + timedelta(seconds=2)
            self.assertGreater(len(nightly.verified(copies.copy_now()).problems), 1)
        self.assertIn("does not hold", self.client.get("/healthz").json()["ledger"])
        self.assertIn("Run manage.py verify_ledger", nightly.broken())

    def test_a_file_that_is_no_whole_copy_changes_nothing(self) -> None:
        copy = copies.copy_now()
        torn, other = self.folder / "torn.sqlite3", self.folder / "other.sqlite3"
        torn.write_bytes(copy.read_bytes()[:9000])
        with closing(sqlite3.connect(other)) as made:
            made.execute("CREATE TABLE t (a)")
        text = self.folder / "text.sqlite3"
        text.write_text("no database")
        for path in (torn, other, text, self.folder / "none.sqlite3"):
            with self.subTest(path.name), self.assertRaisesMessage(CommandError, "Nothing was changed"):
                call_command("restore", str(path), stdout=StringIO())
        self.assertEqual(Entry.objects.count(), 2)

    def files(self, *names: str) -> list[Path]:
        """Files in the folder of copies, with these names."""
        folder = self.folder / "copies"
        folder.mkdir(exist_ok=True)
        paths = [folder / name for name in names]
        for path in paths:
            path.write_bytes(b"")
        return paths

    def test_old_copies_go_the_newest_seven_and_foreign_files_stay(self) -> None:
        old = self.files(*(f"dianoia-202001{day:02d}-000000.sqlite3" for day in range(1, 11)))
        foreign = self.files(
            "dianoia-before-move.sqlite3", "dianoia-20201399-000000.sqlite3", "dianoia-20200101-0.sqlite3"
        )
        copies.copy_now()
        self.assertEqual([path.exists() for path in old], [False] * 4 + [True] * 6)
        self.assertTrue(all(path.exists() for path in foreign))

    def test_neither_foreign_names_nor_a_clock_ahead_stop_the_nightly_copy(self) -> None:
        ahead = datetime.now() + timedelta(days=400)
        self.files(
            "dianoia-before-move.sqlite3", f"dianoia-{ahead:%Y%m%d}-000000.sqlite3", "dianoia-99991231-000000.sqlite3"
        )
        self.assertIsNone(copies.newest())
        self.assertIn("there is none yet", nightly.overdue())
        self.assertEqual(nightly.overdue(), self.client.get("/healthz").json()["copies"])
        copies.copy_now()
        self.assertEqual((nightly.overdue(), self.client.get("/healthz").json()["copies"]), ("", "taken"))

    def test_a_clock_that_ran_ahead_once_leaves_the_copies_before_it(self) -> None:
        before = self.files(*(f"dianoia-202611{day:02d}-000000.sqlite3" for day in range(1, 7)))
        with patch("server.ledger.copies.datetime", wraps=datetime) as clock:
            clock.now.return_value = datetime(2027, 12, 31)
            copies.copy_now()
        self.assertTrue(all(path.exists() for path in before))

    def test_no_copy_for_a_day_and_a_half_is_said(self) -> None:
        (path,) = self.files("dianoia-20261101-120000.sqlite3")
        for hours, said in ((35.9, False), (36.1, True)):
            with (
                patch("server.ledger.nightly.datetime", wraps=datetime) as clock,
                patch("server.ledger.copies.datetime", clock),
            ):
                clock.now.return_value = datetime(2026, 11, 1, 12) + timedelta(hours=hours)
                self.assertEqual("36 h" in nightly.overdue(), said, path)

    def test_a_copy_that_fails_leaves_no_half_file(self) -> None:
        with (
            patch("server.ledger.copies.check", side_effect=copies.BadCopy("spoilt")),
            self.assertRaises(copies.BadCopy),
        ):
            copies.copy_now()
        self.assertEqual(list(Path(settings.BACKUPS).iterdir()), [])
        self.assertIsNone(copies.newest())


class Logs(SimpleTestCase):
    """Lines for machines."""

    def test_a_line_is_json_with_its_fields_and_its_trace(self) -> None:
        try:
            raise ValueError("of its own")
        except ValueError as problem:
            record = logging.LogRecord(
                "server", logging.ERROR, "", 0, "%s failed", ("it",), (ValueError, problem, problem.__traceback__)
            )
        record.fields = {"status": 500}
        line: dict[str, Any] = json.loads(JsonLines().format(record))
        self.assertEqual((line["message"], line["level"], line["status"]), ("it failed", "error", 500))
        self.assertIn("of its own", line["trace"])


class Upgrade(Emptied, TransactionTestCase):
    """A store of an earlier version."""

    def test_readings_kept_in_rows_of_their_own_become_entries(self) -> None:
        from django.db.migrations.executor import MigrationExecutor

        before = [("jobs", "0005_archived")]
        executor = MigrationExecutor(connection)
        executor.migrate(before)
        old = executor.loader.project_state(before).apps
        header = {"format": "dianoia-case/1", "vehicle": {"label": "Bus 4"}}
        job = old.get_model("jobs", "Job").objects.create(header=header, summary={})
        old.get_model("jobs", "Code").objects.create(job=job, text="P0057", status="pending")
        for place, (body, struck) in enumerate(((BATTERY, ""), (ELEMENT, "wrong pin"))):
            old.get_model("jobs", "Reading").objects.create(job=job, place=place, body=body, struck=struck)
        call_command("migrate", verbosity=0)
        worked = worked_out(Job.objects.get(pk=job.pk))
        self.assertEqual([item.struck for item in worked.case.readings], [None, "wrong pin"])
        self.assertEqual((worked.case.codes[0].status, list(problems())), ("pending", []))
        self.assertTrue(all(item.imported for item in worked.view.written))
