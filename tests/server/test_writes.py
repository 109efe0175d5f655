"""What is written: once for each request, in short transactions, only from this server's own pages, for no other user."""

import json
import stat
from io import BytesIO
from pathlib import Path
from threading import Event, Thread
from typing import Any
from unittest.mock import patch

from django.conf import settings
from django.db import connection
from django.test import SimpleTestCase, TestCase, TransactionTestCase
from PIL import Image

from dianoia.case.job import job_of
from dianoia.diagnosis.catalogue.offered import engines
from dianoia.diagnosis.verdict.judging import judge_newest
from server.jobs.change import change_job
from server.jobs.read import add_reading
from server.jobs.results import summarised, work_out
from server.jobs.start import start_job
from server.jobs.strike import strike_reading
from server.ledger.models import Job
from server.ledger.verification import problems
from server.work import diagnosis_tasks
from tests.cases import ELEMENT, SUPPLY, case, plain_case
from tests.people import AtTheBench, Emptied, readings

JSON = "application/json"


class Repeats(AtTheBench, TestCase):
    """A request sent again because its answer was lost."""

    def send(self, path: str, body: Any, key: str = "the-same-key") -> tuple[int, Any]:
        answer = self.client.post(f"/api{path}", body, content_type=JSON, headers={"Idempotency-Key": key})
        return answer.status_code, answer.json()

    def test_a_reading_sent_twice_is_noted_once_and_answered_alike(self) -> None:
        job = start_job(case()).pk
        first, again = (self.send(f"/jobs/{job}/readings", ELEMENT) for _ in range(2))
        self.assertEqual((first, first[0], len(readings())), (again, 201, 1))
        self.assertEqual(self.send(f"/jobs/{job}/readings", ELEMENT, "another-key")[1]["place"], 1)
        self.assertEqual(self.send(f"/jobs/{job}/readings", ELEMENT)[1]["place"], 0)
        status, problem = self.send(f"/jobs/{job}/readings", SUPPLY)
        self.assertEqual((status, problem["findings"][0]["field"]), (422, "Idempotency-Key"))
        self.assertEqual(len(readings()), 2)

    def test_a_repeat_that_overtakes_its_first_is_noted_once(self) -> None:
        job = start_job(case()).job

        def meanwhile(*_: Any) -> Any:
            with patch("server.work.diagnosis_tasks.judge_newest", judging):
                add_reading(job, case(ELEMENT).readings[0], "the-same-key")
            return judging(*_)

        judging = judge_newest
        with patch("server.work.diagnosis_tasks.judge_newest", meanwhile):
            taken = add_reading(job, case(ELEMENT).readings[0], "the-same-key")
        self.assertEqual((taken.place, len(readings())), (0, 1))

    def test_a_job_sent_twice_is_one_job(self) -> None:
        for path, body in (
            ("/jobs", {"codes": "P0057", "vehicle": {"label": "Bus 4"}}),
            ("/jobs/import", plain_case(ELEMENT)),
        ):
            first, again = (self.send(path, body, f"key-of-{path}") for _ in range(2))
            self.assertEqual((first[0], first[1]["id"]), (201, again[1]["id"]))
        self.assertEqual(Job.objects.count(), 2)
        for path, body in (
            ("/jobs", {"codes": "P0058", "vehicle": {"label": "Bus 4"}}),
            ("/jobs/import", plain_case(SUPPLY)),
            ("/jobs/import", plain_case()),
            ("/jobs/import", plain_case(ELEMENT, SUPPLY)),
        ):
            status, problem = self.send(path, body, f"key-of-{path}")
            self.assertEqual((status, problem["findings"][0]["field"]), (422, "Idempotency-Key"), body)
        self.assertEqual(Job.objects.count(), 2)

    def test_a_photo_sent_twice_is_kept_once(self) -> None:
        job, picture, other = start_job(case(ELEMENT)).job, BytesIO(), BytesIO()
        Image.new("RGB", (40, 30), "red").save(picture, "PNG")
        Image.new("RGB", (40, 30), "blue").save(other, "PNG")

        def sent(data: BytesIO, step: str = "heat") -> int:
            return self.client.post(f"/api/jobs/{job.pk}/steps/{step}/photos", data.getvalue(), content_type="image/png",
                                    headers={"Idempotency-Key": "the-same-key"}).status_code  # fmt: skip

        self.assertEqual([sent(picture), sent(picture), sent(other)], [201, 201, 422])
        self.assertEqual(job.photos.count(), 1)

    def test_counts_out_of_step_with_the_ledger_are_mended_by_the_next_write(self) -> None:
        job = start_job(case(ELEMENT)).pk
        for entries, lines in ((0, 0), (9, 9)):
            Job.objects.filter(pk=job).update(entries=entries, lines=lines)
            with self.assertLogs("server", "ERROR"):
                self.assertEqual(self.send(f"/jobs/{job}/readings", SUPPLY, f"key-of-{entries}")[0], 201)
        self.assertEqual(Job.objects.values_list("entries", "lines").get(pk=job), (4, 3))
        self.assertEqual(list(problems()), [])

    def test_a_strike_sent_twice_changes_nothing(self) -> None:
        job = start_job(case(ELEMENT)).pk
        for _ in range(2):
            self.assertEqual(self.send(f"/jobs/{job}/readings/0/strike", {"reason": "wrong pin"})[0], 200)


class Merging(AtTheBench, TestCase):
    """Changes of a job besides its ledger."""

    def change(self, job: int, **body: Any) -> Any:
        answer = self.client.patch(f"/api/jobs/{job}", body, content_type=JSON)
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()["case"]

    def test_two_screens_that_change_different_fields_keep_both(self) -> None:
        job = start_job(case(sensor={"pins": {"1": {"colour": "grey"}}})).pk
        self.change(job, sensor={"family": "airfuel-4w"})
        self.change(job, sensor={"heater_ohms_20c": [1.9, 2.6], "pins": {"2": {"colour": "white"}}})
        sensor = self.change(job, vehicle={"engine": {"layout": "v"}})["sensor"]
        self.assertEqual(
            (sensor["family"], sensor["heater_ohms_20c"], len(sensor["pins"])), ("airfuel-4w", [1.9, 2.6], 2)
        )
        changed = self.change(job, sensor={"family": None, "pins": {"1": None}})
        self.assertEqual((changed["sensor"]["family"], list(changed["sensor"]["pins"])), (None, ["2"]))
        self.assertEqual(changed["vehicle"]["label"], "Bus 4")


class Bodies(AtTheBench, TestCase):
    """What is no document is refused, and nothing falls over."""

    def test_each_is_refused_in_words(self) -> None:
        job = start_job(case(ELEMENT)).pk
        for why, path, body in (
            ("torn", f"/jobs/{job}/readings", "{"),
            ("no text", f"/jobs/{job}/readings", b"\xff\xfe"),
            ("endless", f"/jobs/{job}", '{"sensor": {"bias_v": Infinity}}'),
            ("endless, written out", f"/jobs/{job}", '{"sensor": {"heater_amps": [1e999, 1e999]}}'),
            ("half a character", f"/jobs/{job}/readings/0/strike", '{"reason": "\\ud800\\ud800"}'),
            ("half a character in a note", f"/jobs/{job}/readings", json.dumps({**SUPPLY, "note": "\ud83d"})),
            ("a key too short", f"/jobs/{job}/readings", json.dumps(SUPPLY)),
        ):
            with self.subTest(why):
                send = self.client.patch if path.count("/") == 2 else self.client.post
                key = {"Idempotency-Key": "x"} if "key" in why else {}
                answer = send(f"/api{path}", body, content_type=JSON, headers=key)
                self.assertEqual(answer.status_code, 422, answer.content)
                self.assertTrue(answer.json()["message"])
        self.assertEqual(len(readings()), 1)

    def test_sums_have_no_endless_answer(self) -> None:
        for path in (
            "heater?ohms_20c=OL",
            "at-20?ohms=OL&celsius=20",
            "resistance?amps=0",
            "heater?ohms_20c=6&volts=0",
        ):
            self.assertEqual(self.client.get(f"/api/sums/{path}").status_code, 422, path)

    def test_numbers_beyond_any_row_are_not_there(self) -> None:
        for number in (10**30, -(10**30)):
            for path in (f"/api/jobs/{number}", f"/api/jobs/{number}/stand"):
                self.assertEqual(self.client.get(path).status_code, 404, path)

    def test_one_job_that_cannot_be_read_leaves_the_others_on_the_start_page(self) -> None:
        good, bad = start_job(case(ELEMENT)).job, start_job(case(ELEMENT)).job
        endless = {**bad.header, "sensor": {"heater_ohms_20c": [1e9, 1e9]}}
        Job.objects.filter(pk=bad.pk).update(header=endless, summary={})
        with self.assertLogs("server", "ERROR"):
            answer = self.client.get("/api/jobs")
        lines = {line["id"]: line for line in answer.json()["jobs"]}
        self.assertEqual((answer.status_code, set(lines)), (200, {good.pk, bad.pk}))
        self.assertIn("could not be worked out", lines[bad.pk]["waits_for"])
        self.assertEqual(self.client.get("/api/vehicles").status_code, 200)
        self.assertEqual(
            self.client.get(f"/api/jobs/{bad.pk}").json()["findings"][0]["field"], "sensor.heater_ohms_20c[0]"
        )

    def test_a_fault_of_the_servers_own_is_said_and_logged(self) -> None:
        job = start_job(case()).pk
        with (
            patch("server.work.diagnosis_tasks.judge_newest", side_effect=ArithmeticError("of its own")),
            self.assertLogs("server") as log,
        ):
            answer = self.client.post(f"/api/jobs/{job}/readings", ELEMENT, content_type=JSON)
        self.assertEqual((answer.status_code, len(readings())), (500, 0))
        self.assertIn("log", answer.json()["message"])
        self.assertIn("of its own", log.output[0])


class ShortWrites(Emptied, AtTheBench, TransactionTestCase):
    """Nothing is worked out while the database is held."""

    def test_no_diagnosis_runs_within_a_transaction(self) -> None:
        seen: list[bool] = []

        def noting(real: Any) -> Any:
            def noted(*args: Any) -> Any:
                seen.append(connection.in_atomic_block)
                return real(*args)

            return noted

        with (
            patch("server.jobs.results.concluded", noting(diagnosis_tasks.concluded)),
            patch("server.work.diagnosis_tasks.judge_newest", noting(judge_newest)),
        ):
            job = start_job(case(ELEMENT)).job
            add_reading(job, case(SUPPLY).readings[0])
            strike_reading(job, 0, "wrong pin")
            change_job(job, {"style": "ohms-first"})
            list(summarised(Job.objects.all()))
        self.assertEqual((len(seen) >= 4, set(seen)), (True, {False}))

    def test_others_write_while_a_long_ledger_is_worked_out(self) -> None:
        job = start_job(case()).job
        real, begun, noted = work_out, Event(), Event()

        def slow(worked: Any) -> Any:
            begun.set()
            noted.wait(30)
            return real(worked)

        def import_one() -> None:
            start_job(case(ELEMENT, SUPPLY, code="P0135"))
            connection.close()

        with patch("server.jobs.start.work_out", slow):
            importing = Thread(target=import_one)
            importing.start()
            begun.wait(30)
            add_reading(job, case(ELEMENT).readings[0])
            self.assertTrue(importing.is_alive(), "the reading was noted before the import had ended")
            noted.set()
            importing.join()
        self.assertEqual(Job.objects.count(), 2)

    def test_the_engines_of_other_cases_do_not_wait(self) -> None:
        mine, other = (job_of(case(ELEMENT, code=code)) for code in ("P0057", "P0135"))
        done: list[Any] = []
        with engines.held(mine):
            waiting = Thread(target=lambda: done.append(engines.bare_engine(other)))
            waiting.start()
            waiting.join(20)
        self.assertTrue(done)


class OwnPages(AtTheBench, TestCase):
    """Who may write."""

    def test_only_json_from_a_page_of_this_server_or_from_no_page_is_taken(self) -> None:
        job = start_job(case()).pk
        for why, kind, headers, status in (
            ("no browser", JSON, {}, 201),
            ("own page", JSON, {"Origin": "http://127.0.0.1", "Sec-Fetch-Site": "same-origin"}, 201),
            ("a form's text", "text/plain", {}, 415),
            ("a form", "application/x-www-form-urlencoded", {}, 415),
            ("another origin", JSON, {"Origin": "http://elsewhere.test"}, 403),
            ("another port", JSON, {"Origin": "http://127.0.0.1:81"}, 403),
            ("a sandboxed frame", JSON, {"Origin": "null"}, 403),
            ("another site, its name hidden", JSON, {"Sec-Fetch-Site": "cross-site"}, 403),
            ("a neighbour", JSON, {"Sec-Fetch-Site": "same-site"}, 403),
        ):
            with self.subTest(why):
                before = len(readings())
                answer = self.client.generic(
                    "POST", f"/api/jobs/{job}/readings", json.dumps(ELEMENT), content_type=kind, headers=headers
                )
                self.assertEqual((answer.status_code, len(readings()) - before), (status, int(status == 201)))

    def test_every_answer_forbids_frames_and_foreign_scripts(self) -> None:
        for path in ("/api/jobs", "/"):
            answer = self.client.get(path)
            policy = answer["Content-Security-Policy"]
            self.assertIn("script-src 'self';", f"{policy};")
            self.assertIn("frame-ancestors 'none'", policy)
            self.assertEqual(answer["X-Frame-Options"], "DENY")


class OwnFiles(SimpleTestCase):
    """Jobs are nobody else's on the machine."""

    def test_data_is_for_this_user_alone_and_hosts_are_named(self) -> None:
        folder = Path(settings.VAR_DIR)
        self.assertEqual(stat.S_IMODE(folder.stat().st_mode), 0o700)
        modes = {path.name: stat.S_IMODE(path.stat().st_mode) for path in folder.iterdir() if path.is_file()}
        self.assertEqual({name: mode for name, mode in modes.items() if mode & 0o077}, {})
        self.assertNotIn("testserver", (Path(settings.BASE_DIR) / "server" / "settings.py").read_text())
