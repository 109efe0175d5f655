"""Repairs at the server: steps ticked off, jobs closed, papers set."""

import json
from io import BytesIO, StringIO
from pathlib import Path
from types import SimpleNamespace
from typing import Any
from unittest.mock import patch

from django.core.management import call_command
from django.test import TestCase
from PIL import Image

from dianoia.case.load import case_from_plain
from dianoia.case.workshop import Workshop
from dianoia.repair.types import Repair
from server.jobs import customers
from server.jobs.customers import CustomerChange
from server.jobs.read import add_reading
from server.jobs.start import start_job
from server.jobs.stored import case_of, find_job
from server.jobs.workshop import set_workshop
from server.ledger.models import Job
from server.ledger.verification import problems
from server.papers import paper
from tests.cases import ELEMENT, OPEN_ELEMENT, STEADY, SUPPLY, case, demo_case
from tests.people import AtTheBench, author, readings

DONE = {"measure": "act", "action": "replace-sensor", "value": "done"}


class HandedOver(AtTheBench, TestCase):
    """A repaired job on its way out."""

    def setUp(self) -> None:
        super().setUp()
        self.job = start_job(case(*OPEN_ELEMENT, DONE, sensor=STEADY), by=author("Ana")).job

    def post(self, path: str, body: dict[str, Any]) -> Any:
        return self.client.post(f"/api/jobs/{self.job.pk}/{path}", json.dumps(body), content_type="application/json")

    def test_an_unproven_job_is_closed_with_a_reason_only_and_the_next_reading_opens_it(self) -> None:
        refused = self.post("close", {})
        self.assertEqual((refused.status_code, refused.json()["findings"][0]["field"]), (422, "reason"))
        view = self.post("close", {"reason": " back on Monday "}).json()
        closed = view["verdict"]["repair"]["closed"]
        self.assertEqual((closed["by"], closed["reason"]), ("Ana", "back on Monday"))
        self.assertEqual(Job.objects.get(pk=self.job.pk).summary["stage"], "closed")
        self.post("readings", SUPPLY)
        again = self.client.get(f"/api/jobs/{self.job.pk}").json()["verdict"]["repair"]
        self.assertEqual((again["state"], again["closed"]), ("done", None))
        self.assertEqual(list(problems()), [])

    def test_a_job_without_a_fault_is_closed_without_a_reason_and_one_that_is_not_settled_is_not(self) -> None:
        found = start_job(demo_case("09"), by=author("Ana")).job
        for decision, status in (("no-fault-now", 200), ("keep-testing", 422)):
            repair = Repair()
            verdict = SimpleNamespace(repair=repair, decision=decision)
            worked = SimpleNamespace(view=SimpleNamespace(verdict=verdict), case=case_of(found))
            with patch("server.jobs.close.worked_out", return_value=worked):
                answer = self.client.post(f"/api/jobs/{found.pk}/close", "{}", content_type="application/json")
            self.assertEqual(answer.status_code, status, decision)

    def test_what_became_of_repairs_is_counted_by_whether_they_waited(self) -> None:
        for start in ("10", "11"):
            start_job(demo_case(start), by=author("Ana"))
        told = self.client.get("/api/workshop").json()["outcomes"]
        figures = [(item["when"], item["repairs"], item["proven"], item["came_back"]) for item in told]
        self.assertEqual(figures, [("decided", 2, 1, 0), ("early", 1, 0, 1)])

    def test_the_time_is_by_the_clock_until_it_is_corrected_and_says_what_it_was_worth(self) -> None:
        job = start_job(demo_case("10"), by=author("Ana")).job
        set_workshop(Workshop(labour_per_hour=60.0, part_price=120.0, wrong_call_cost=200.0, currency="EUR"))
        told = self.client.get(f"/api/jobs/{job.pk}").json()["time"]
        self.assertEqual([told[name] for name in ("finding", "mending", "proving", "by")], [24, 6, 42, ""])
        self.assertEqual(
            told["says"], "Labour 72.00 EUR, 24.00 of it to find the fault. A sensor for 120.00 EUR was not bought."
        )
        self.assertRegex(told["unseen"], r"mends about \d of 10 vehicles: wrong calls would cost \d+\.\d\d EUR a job")
        body = json.dumps({"finding": 30, "mending": 20, "proving": 5})
        told = self.client.put(f"/api/jobs/{job.pk}/time", body, content_type="application/json").json()["time"]
        self.assertEqual([told[name] for name in ("finding", "mending", "proving", "by")], [30, 20, 5, "Ana"])
        self.assertIn("55 minutes", paper.words_of(job)["time"])

    def test_a_client_cannot_say_who_closed_it(self) -> None:
        forged = {"closed": {"by": "Nobody", "at": "", "reason": "", "readings": 8}}
        answer = self.client.patch(f"/api/jobs/{self.job.pk}", json.dumps(forged), content_type="application/json")
        self.assertEqual(answer.status_code, 422)

    def test_steps_are_ticked_taken_back_and_noted_each_as_an_entry(self) -> None:
        before = self.job.ledger.count()
        for body, entries in (
            ({"done": True}, 1),
            ({"done": True}, 1),
            ({"done": True, "note": "10 min of heat"}, 2),
            ({"done": False, "note": ""}, 3),
        ):
            self.assertEqual(self.post("steps/heat", body).status_code, 200)
            self.assertEqual(self.job.ledger.count() - before, entries, body)
        self.assertEqual(self.client.get(f"/api/jobs/{self.job.pk}").json()["ticks"][0]["by"], "Ana")
        self.assertEqual(self.post("steps/dance", {"done": True}).json()["findings"][0]["field"], "step")
        self.assertEqual(list(problems()), [])


class Mark(AtTheBench, TestCase):
    """The workshop's mark on its papers."""

    def put(self, data: bytes) -> Any:
        return self.client.generic("PUT", "/api/workshop/mark", data, CONTENT_TYPE="image/png")

    def test_a_mark_is_kept_small_stands_on_the_papers_and_can_be_taken_away(self) -> None:
        job = start_job(demo_case("10"), by=author("Ana")).job
        made = BytesIO()
        Image.new("RGBA", (2400, 600), (20, 90, 40, 128)).save(made, "PNG")
        self.assertEqual(self.put(b"no picture").json()["findings"][0]["field"], "mark")
        self.assertEqual(paper.words_of(job)["mark"], "")
        self.assertTrue(self.put(made.getvalue()).json()["mark"])
        with Image.open(BytesIO(self.client.get("/api/workshop/mark.png").content)) as kept:
            self.assertEqual((kept.size, kept.mode), ((900, 225), "RGBA"))
        self.assertEqual(paper.words_of(job)["mark"], "mark.png")
        with_mark = paper.pdf(job, "customer")
        self.assertIsNone(self.put(b"").json()["mark"])
        self.assertGreater(len(with_mark), len(paper.pdf(job, "customer")))


class Photos(AtTheBench, TestCase):
    """Photos at the steps."""

    def setUp(self) -> None:
        super().setUp()
        self.job = start_job(case(*OPEN_ELEMENT, DONE, sensor=STEADY), by=author("Ana")).job

    def send(self, data: bytes, step: str = "heat") -> Any:
        return self.client.post(f"/api/jobs/{self.job.pk}/steps/{step}/photos", data, content_type="image/jpeg")

    def taken(self) -> bytes:
        """A large photo that says where it was taken."""
        exif = Image.Exif()
        exif[0x010F] = "A maker"
        exif.get_ifd(0x8825)[1] = "N"
        made = BytesIO()
        Image.effect_noise((2600, 1800), 60).convert("RGB").save(made, "JPEG", exif=exif)
        return made.getvalue()

    def test_a_photo_is_kept_small_and_without_its_place(self) -> None:
        numbers = self.send(self.taken()).json()[0]["photos"]
        kept = self.client.get(f"/api/photos/{numbers[0]}.jpg").content
        with Image.open(BytesIO(kept)) as photo:
            self.assertEqual((max(photo.size), dict(photo.getexif())), (1280, {}))
        self.assertNotIn(b"A maker", kept)
        self.assertEqual(self.job.ledger.latest("number").kind, "photo")
        self.assertEqual(list(problems()), [])
        self.assertGreater(len(paper.pdf(self.job, "file")), 100_000)

    def test_a_photo_of_a_reading_stays_with_it_and_is_no_step(self) -> None:
        path = f"/api/jobs/{self.job.pk}/readings/1/photos"
        numbers = self.client.post(path, self.taken(), content_type="image/jpeg").json()
        lines = len(readings(self.job))
        self.assertEqual([len(item) for item in numbers], [int(place == 1) for place in range(lines)])
        view = self.client.get(f"/api/jobs/{self.job.pk}").json()
        self.assertEqual((view["photos"], view["ticks"]), (numbers, []))
        self.assertIn(
            {"number": numbers[1][0], "of": "Reading 2"}, paper.words_of(Job.objects.get(pk=self.job.pk))["photos"]
        )
        beyond = self.client.post(
            path.replace("readings/1", f"readings/{lines}"), self.taken(), content_type="image/jpeg"
        )
        self.assertEqual(beyond.status_code, 422)
        self.assertEqual(list(problems()), [])

    def test_what_is_no_photo_is_refused_and_nothing_is_kept(self) -> None:
        for data, step in (
            (b"no photo at all", "heat"),
            (self.taken()[:3000], "heat"),
            (b"\x89PNG\r\n\x1a\n", "heat"),
            (self.taken(), "dance"),
        ):
            answer = self.send(data, step)
            self.assertEqual(answer.status_code, 422, data[:20])
        self.assertFalse(self.job.photos.exists())


class Papers(AtTheBench, TestCase):
    """PDF for the customer and for the file."""

    def test_each_is_set_as_pdf_on_the_page_that_is_asked_for(self) -> None:
        job = start_job(demo_case("10"), by=author("Ana")).job
        set_workshop(Workshop(name="Depot workshop", paper="letter"))
        for which in ("customer", "file"):
            answer = self.client.get(f"/api/jobs/{job.pk}/papers/{which}.pdf?size=a4")
            self.assertEqual((answer["Content-Type"], answer.content[:5]), ("application/pdf", b"%PDF-"))
        self.assertEqual(len(paper.pictures(job, "customer")), 1, "one page")
        self.assertEqual(self.client.get(f"/api/jobs/{job.pk}/papers/secret.pdf").status_code, 422)

    def test_what_is_told_is_what_stands_and_a_removed_customer_is_gone(self) -> None:
        job = start_job(demo_case("10"), by=author("Ana")).job
        customers.keep(job, CustomerChange(name="Valley school board", plate="MV 12"), author("Ana"))
        told = paper.words_of(job, "a4")
        self.assertEqual((told["customer"], told["proven"]), ("Valley school board", True))
        self.assertEqual(told["how"][0]["before"], "no connection")
        self.assertTrue(told["how"][0]["after"])
        customers.remove(job)
        self.assertNotIn("Valley school board", json.dumps(paper.words_of(job, "a4")))

    def test_a_job_closed_as_proven_keeps_what_was_printed_until_it_is_opened_again(self) -> None:
        plain = json.loads((Path(__file__).parents[2] / "demo" / "cases" / "10-van-mended-proven.json").read_text())
        plain.pop("closed", None)
        job = start_job(case_from_plain(plain), by=author("Ana")).job
        self.client.post(f"/api/jobs/{job.pk}/close", {"reason": ""}, content_type="application/json")
        before = paper.words_of(find_job(job.pk), "a4")
        self.assertEqual(before["decided"][0]["readings"], "5 readings")
        with patch("server.papers.paper._worked_out", side_effect=AssertionError("worked out anew")):
            self.assertEqual(paper.words_of(find_job(job.pk), "a4"), before)
        self.client.post(f"/api/jobs/{job.pk}/readings", SUPPLY, content_type="application/json")
        self.assertNotEqual(paper.words_of(find_job(job.pk), "a4")["lines"], before["lines"])

    def test_what_is_read_before_fitting_stands_on_the_paper_until_it_is_fitted(self) -> None:
        job = start_job(case(ELEMENT, ELEMENT, sensor=STEADY), by=author("Ana")).job
        before = paper.words_of(job, "a4")["before"]
        self.assertIn("test lamp", before[0]["what"])
        self.assertGreater(len(paper.pdf(job, "file")), 10_000)
        add_reading(job, case(DONE).readings[0], by=author("Ana"))
        self.assertEqual(paper.words_of(find_job(job.pk), "a4")["before"], [])

    def test_jobs_that_would_not_be_proven_today_are_listed(self) -> None:
        closed = {"by": "Ana", "at": "2026-11-24T10:00:00Z", "readings": len(OPEN_ELEMENT) + 1}
        start_job(case(*OPEN_ELEMENT, DONE, sensor=STEADY, closed=closed), by=author("Ana"))
        start_job(demo_case("10"), by=author("Ana"))
        said = StringIO()
        call_command("list_unproven", stdout=said)
        self.assertIn("not shown: Again: Ohms across the heater element", said.getvalue())
        self.assertIn("1 of 2 closed jobs", said.getvalue())
