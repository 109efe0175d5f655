"""The API: jobs are stored whole or not at all, the ledger only grows, and files come out as they went in."""

import json
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest.mock import patch

from django.conf import settings
from django.core.management import call_command
from django.test import TestCase, override_settings

from server.jobs.results import worked_out
from server.jobs.stored import case_of
from server.ledger.models import Job
from tests.cases import ELEMENT, SUPPLY, plain_case
from tests.people import AtTheBench, readings


class Requests(AtTheBench, TestCase):
    """As the front end makes them."""

    def send(self, method: str, path: str, body: Any = None) -> tuple[int, Any]:
        if method == "get":
            answer = self.client.get(f"/api{path}")
            return answer.status_code, answer.json()
        text = body if isinstance(body, str) else json.dumps(body)
        answer = getattr(self.client, method)(f"/api{path}", data=text, content_type="application/json")
        return answer.status_code, answer.json()

    def new_job(self, codes: str = "P0057") -> int:
        status, view = self.send("post", "/jobs", {"codes": codes, "vehicle": {"label": "Bus 4"}})
        self.assertEqual(status, 201, view)
        return int(view["id"])

    def demo(self, start: str) -> Any:
        path = next(Path(settings.BASE_DIR, "demo", "cases").glob(f"{start}*.json"))
        return json.loads(path.read_text(encoding="utf-8"))


class Api(Requests):
    """Jobs and their readings."""

    def test_a_job_from_a_typed_code_is_ready_to_measure(self) -> None:
        status, view = self.send("get", f"/jobs/{self.new_job('p0057 pending, P0456')}")
        self.assertEqual((status, view["address"], view["verdict"]["decision"]), (200, "B2S2", "keep-testing"))
        self.assertEqual([item["status"] for item in view["case"]["codes"]], ["pending", None])
        proposed = view["verdict"]["next"]["reading"]
        points = {point["id"] for point in view["drawing"]["points"]}
        self.assertLessEqual({proposed["red"], proposed["black"]}, points)

    def test_a_reading_is_judged_and_kept(self) -> None:
        job = self.new_job()
        status, taken = self.send("post", f"/jobs/{job}/readings", ELEMENT)
        self.assertEqual((status, taken["place"], taken["judged"]["result"]), (201, 0, "fail"))
        _, view = self.send("get", f"/jobs/{job}")
        self.assertEqual(view["verdict"]["suspects"][0]["fault"], "heater-open")
        self.assertEqual(view["verdict"]["judged"], [taken["judged"]])
        self.assertEqual((view["ledger"], view["case"]["readings"]), ([taken["words"]], [taken["reading"]]))
        self.assertTrue(taken["reading"]["taken"])

    def test_the_start_page_is_never_behind_the_ledger(self) -> None:
        job = self.new_job()
        self.send("get", "/jobs")
        for place in range(2):  # nobody looks at the job in between
            self.send("post", f"/jobs/{job}/readings", (ELEMENT, SUPPLY)[place])
            (line,) = self.send("get", "/jobs")[1]["jobs"]
            self.assertEqual((line["stage"], line["readings"]), ("testing", place + 1))
        with patch(
            "server.work.diagnosis_tasks.Diagnosis", side_effect=AssertionError("worked out although nothing is new")
        ):
            self.send("get", "/jobs")

    def test_a_summary_is_not_written_over_what_came_meanwhile(self) -> None:
        number = self.new_job()
        self.send("post", f"/jobs/{number}/readings", ELEMENT)
        looked_at = Job.objects.get(pk=number)
        read = case_of(looked_at)
        self.send("post", f"/jobs/{number}/readings/0/strike", {"reason": "wrong pin"})
        struck = Job.objects.get(pk=number).summary
        with patch("server.jobs.results.case_with", return_value=read):
            worked_out(looked_at)
        self.assertEqual(Job.objects.get(pk=number).summary, struck)

    def test_a_reading_is_struck_with_a_reason_once_and_stays(self) -> None:
        job = self.new_job()
        self.send("post", f"/jobs/{job}/readings", ELEMENT)
        for body, status in (({"reason": " "}, 422), ({"reason": "wrong pin"}, 200), ({"reason": "again"}, 422)):
            self.assertEqual(self.send("post", f"/jobs/{job}/readings/0/strike", body)[0], status, body)
        self.assertEqual(self.send("post", f"/jobs/{job}/readings/7/strike", {"reason": "x"})[0], 422)
        _, view = self.send("get", f"/jobs/{job}")
        self.assertEqual(view["case"]["readings"][0]["struck"], "wrong pin")
        self.assertLess(view["verdict"]["suspects"][0]["probability"], 0.5)

    def test_bad_input_names_its_field_and_saves_nothing(self) -> None:
        job = self.new_job()
        for why, path, body, field in (
            ("no code", "/jobs", {"codes": "hello", "vehicle": {"label": "x"}}, "codes"),
            ("no vehicle", "/jobs", {"codes": "P0057"}, "vehicle"),
            ("unit", f"/jobs/{job}/readings", {**SUPPLY, "value": "6 ohm"}, "value"),
            ("seconds", f"/jobs/{job}/readings", {**SUPPLY, "at_s": "a while"}, "at_s"),
            ("key", f"/jobs/{job}/readings", {**SUPPLY, "key": "half"}, "key"),
            ("point", f"/jobs/{job}/readings", {**SUPPLY, "red": "moon"}, "red"),
            ("tag", f"/jobs/{job}/readings", {**SUPPLY, "measure": "taste"}, "measure"),
            ("unknown name", f"/jobs/{job}/readings", {**SUPPLY, "colour": "red"}, "colour"),
            ("case file", "/jobs/import", plain_case({**ELEMENT, "value": "-3"}), "readings[0].value"),
            ("too many", "/jobs/import", plain_case(*[SUPPLY] * 501), "readings"),
        ):
            with self.subTest(why):
                status, problem = self.send("post", path, body)
                self.assertEqual(status, 422)
                self.assertIn(field, [item["field"] for item in problem["findings"]], problem)
                self.assertNotRegex(problem["message"], "Input should|valid|argument")
        self.assertEqual(self.send("post", f"/jobs/{job}/readings", "{")[0], 422)
        self.assertEqual(self.send("get", "/jobs/99999")[0], 404)
        self.assertEqual((Job.objects.count(), len(readings())), (1, 0))

    def test_the_ledger_cannot_be_changed_through_a_change_of_the_job(self) -> None:
        job = self.new_job()
        self.assertEqual(self.send("patch", f"/jobs/{job}", {"readings": []})[0], 422)
        status, view = self.send(
            "patch", f"/jobs/{job}", {"style": "ohms-first", "sensor": {"heater_ohms_20c": [4, 7.5]}}
        )
        self.assertEqual((status, view["case"]["style"]), (200, "ohms-first"))
        self.assertEqual(self.send("patch", f"/jobs/{job}", {"style": "parts-first"})[0], 422)

    def test_what_if_leaves_the_job_alone(self) -> None:
        demo = self.demo("03")
        self.assertEqual(self.send("post", "/jobs/import", demo)[0], 201)
        job = Job.objects.get()
        element = next(place for place, item in enumerate(demo["readings"]) if item["measure"] == "resistance")
        status, answer = self.send("get", f"/jobs/{job.pk}/without/{element}")
        self.assertEqual((status, answer["decision"]), (200, "keep-testing"))
        self.assertEqual(len(readings(job)), len(demo["readings"]))

    def test_import_and_export_are_the_same_file(self) -> None:
        demo = self.demo("04")
        _, view = self.send("post", "/jobs/import", demo)
        _, exported = self.send("get", f"/jobs/{view['id']}/case")
        self.assertEqual(exported, demo)

    def test_demo_data_is_loaded_once_and_what_an_older_store_lacks_is_added(self) -> None:
        self.enterContext(override_settings(VAR_DIR=Path(self.enterContext(TemporaryDirectory()))))
        self.send("post", "/jobs/import", self.demo("03"))
        for _ in range(2):
            call_command("load_demo", verbosity=0, stdout=open("/dev/null", "w"))  # noqa: PTH123, SIM115
        _, answer = self.send("get", "/jobs")
        jobs = answer["jobs"]
        self.assertEqual(answer["counts"]["all"], answer["total"])
        self.assertEqual(len(jobs), len(list(Path(settings.BASE_DIR, "demo", "cases").glob("*.json"))))
        self.assertEqual({job["stage"] for job in jobs}, {"new", "testing", "decided", "mended", "closed"})

    def test_codes_are_decoded_without_a_job(self) -> None:
        answer = self.client.get("/api/codes", {"text": "P0420 P0037"}).json()
        self.assertEqual([item["code"] for item in answer], ["P0037", "P0420"])


class Workshop(Requests):
    """The settings of the workshop, and what they change."""

    def test_settings_are_kept_and_nothing_is_changed_by_a_bad_one(self) -> None:
        status, view = self.send("get", "/workshop")
        self.assertEqual((status, view["settings"]["tools"]), (200, None))
        self.assertIn("plug", view["general_minutes"])
        own = {"tools": ["meter", "lamp"], "minutes": {"plug": 12}, "labour_per_hour": 80, "currency": "€"}
        self.assertEqual(self.send("put", "/workshop", own)[0], 200)
        for field, bad in (
            ("minutes", {"minutes": {"plug": -1}}), ("tools", {"tools": ["hammer"]}), ("labour_per_hour", {"labour_per_hour": "much"}),
        ):  # fmt: skip
            status, problem = self.send("put", "/workshop", bad)
            self.assertEqual(status, 422, field)
            self.assertIn(field, problem["message"])
        self.assertEqual(self.send("get", "/workshop")[1]["settings"]["minutes"], {"plug": 12})

    def test_tools_and_minutes_reach_every_job_and_stay_out_of_its_file(self) -> None:
        job = self.new_job("P0135")
        before = self.send("get", f"/jobs/{job}")[1]["verdict"]
        self.send("put", "/workshop", {"tools": ["meter"], "minutes": {"plug": 40}})
        after = self.send("get", f"/jobs/{job}")[1]
        proposals = [after["verdict"]["next"], *after["verdict"]["alternatives"]]
        self.assertLessEqual(
            {item["reading"]["measure"] for item in proposals}, {"voltage", "resistance", "inspect", "act"}
        )
        self.assertNotEqual([before["next"], *before["alternatives"]], proposals)
        self.assertNotIn("workshop", self.send("get", f"/jobs/{job}/case")[1])

    def test_the_forecast_leads_to_the_decision_and_weighs_certainty(self) -> None:
        job = self.new_job()
        self.assertIsNone(self.send("get", f"/jobs/{job}/forecast")[1]["stop"])
        self.send("put", "/workshop", {"labour_per_hour": 90, "part_price": 50, "wrong_call_cost": 200})
        _, forecast = self.send("get", f"/jobs/{job}/forecast")
        proposed = self.send("get", f"/jobs/{job}")[1]["verdict"]["next"]
        self.assertEqual(forecast["steps"][0]["id"], proposed["id"])
        self.assertAlmostEqual(forecast["stop"]["certainty_cost"], 1.5 * forecast["expected_minutes"], delta=0.2)
        self.assertEqual(self.send("get", "/jobs/999/forecast")[0], 404)
