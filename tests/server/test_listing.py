"""The list of jobs: filtered, searched, sorted and paged by the database."""

from time import monotonic
from typing import Any
from unittest.mock import patch

from django.test import RequestFactory, TestCase, override_settings

from server.jobs.read import add_reading
from server.jobs.search import columns
from server.jobs.start import start_job
from server.ledger.models import Job
from server.stand import LET_IN_S, Unchanged, let_in
from tests.cases import ELEMENT, SUPPLY, case
from tests.people import AtTheBench

JSON = "application/json"
#: Vehicle, codes, stage, put away; the newest last.
_ROWS = (
    ("School bus 4", ["P0057"], "new", False),
    ("Ambulance 5", ["P0141"], "testing", False),
    ("Snow plough 6", ["SPN 3228 FMI 4"], "testing", False),
    ("Ambulance 3", ["P0141", "P0420"], "proven", False),
    ("Ätna van", ["P0135"], "closed", False),
    ("School bus 9", ["P0057"], "decided", True),
)


class Listing(AtTheBench, TestCase):
    """Asked as the start page asks."""

    def setUp(self) -> None:
        super().setUp()
        for vehicle, codes, stage, archived in _ROWS:
            summary = {
                "title": "", "vehicle": vehicle, "codes": codes, "where": "Bank 1 · sensor 2", "stage": stage, "decision": "keep-testing",
                "decided": "", "says": "", "confidence": 0.5, "waits_for": "", "readings": 0, "repair": "none", "early": False, "returns": 0,
                "lines": 0,
            }  # fmt: skip
            Job.objects.create(header={"vehicle": {"label": vehicle}}, archived=archived, **columns(summary))

    def asked(self, **query: Any) -> Any:
        return self.client.get("/api/jobs", query).json()

    def names(self, **query: Any) -> list[str]:
        return [job["vehicle"] for job in self.asked(**query)["jobs"]]

    def test_each_list_has_its_jobs_the_newest_first(self) -> None:
        for which, names in (
            ("all", ["Ätna van", "Ambulance 3", "Snow plough 6", "Ambulance 5", "School bus 4"]),
            ("testing", ["Snow plough 6", "Ambulance 5"]),
            ("over", ["Ätna van", "Ambulance 3"]),
            ("archived", ["School bus 9"]),
            ("mended", []),
        ):
            self.assertEqual(self.names(which=which), names, which)
        counts = {"all": 5, "new": 1, "testing": 2, "decided": 0, "mended": 0, "over": 2, "archived": 1}
        self.assertEqual(self.asked(words="ambulance")["counts"], counts)

    def test_every_word_is_found_anywhere_in_any_case(self) -> None:
        for words, names in (
            ("AMBULANCE", ["Ambulance 3", "Ambulance 5"]),
            ("p0420 ambul", ["Ambulance 3"]),
            ("spn 3228", ["Snow plough 6"]),
            ("ätna", ["Ätna van"]),
            ("100%", []),
            ("sensor_2", []),
        ):
            self.assertEqual(self.names(words=words), names, words)

    def test_pages_follow_each_other_and_orders_are_kept(self) -> None:
        everything = self.names(order="vehicle")
        self.assertEqual(everything[:2], ["Ambulance 3", "Ambulance 5"])
        paged = [name for page in (1, 2, 3) for name in self.names(order="vehicle", page=page, size=2)]
        self.assertEqual(paged, everything)
        self.assertEqual(self.names(order="oldest")[0], "School bus 4")
        self.assertEqual(self.asked(page=9)["total"], 5)

    def test_what_is_no_page_is_refused(self) -> None:
        for query in ({"page": 0}, {"size": 101}, {"which": "lost"}, {"order": "colour"}, {"words": "x" * 201}):
            self.assertEqual(self.client.get("/api/jobs", query).status_code, 422, query)

    def test_another_sensor_s_job_is_opened_once_and_a_part_has_none(self) -> None:
        bad = {**ELEMENT, "of": "B2S1"}
        vehicle = {"label": "Bus 4", "engine": {"cylinders": 6, "sensor_banks": 2}}
        job = start_job(case(bad, {**ELEMENT, "of": "new"}, vehicle=vehicle)).pk
        found = self.client.get(f"/api/jobs/{job}").json()["others_found"]
        self.assertEqual([(item["address"], item["readings"]) for item in found], [("B2S1", [0])])
        first, again = (self.client.post(f"/api/jobs/{job}/others/B2S1", content_type=JSON) for _ in range(2))
        self.assertEqual((first.status_code, first.json()["id"]), (201, again.json()["id"]))
        self.assertEqual([item["value"] for item in first.json()["case"]["readings"]], [ELEMENT["value"]])
        for address in ("new", "B2S2"):
            self.assertEqual(self.client.post(f"/api/jobs/{job}/others/{address}", content_type=JSON).status_code, 422)

    def test_a_stand_that_is_known_is_not_told_again(self) -> None:
        job = Job.objects.get(vehicle="Ambulance 5")
        first = self.client.get(f"/api/jobs/{job.pk}/stand")
        self.assertEqual(first.json(), {"entries": 0})
        with self.assertNumQueries(1):
            again = self.client.get(f"/api/jobs/{job.pk}/stand", headers={"If-None-Match": first["ETag"]})
        self.assertEqual((again.status_code, again.content), (304, b""))
        Job.objects.filter(pk=job.pk).update(entries=3)
        self.assertEqual(
            self.client.get(f"/api/jobs/{job.pk}/stand", headers={"If-None-Match": first["ETag"]}).json(),
            {"entries": 3},
        )
        self.assertEqual(self.client.get("/api/jobs/4711/stand").status_code, 404)


class BeforeTheApplication(TestCase):
    """Open pages that ask whether a job has grown."""

    def setUp(self) -> None:
        self.job, self.passed, self.status = start_job(case(ELEMENT)).job, 0, "200 OK"
        let_in.clear()

    def within(self, _: Any, start: Any) -> list[bytes]:
        self.passed += 1
        start(self.status, [])
        return []

    def asked(self, known: str, session: str = "hers", **more: str) -> str:
        told: list[str] = []
        environ = RequestFactory().get(f"/api/jobs/{self.job.pk}/stand", SERVER_NAME="127.0.0.1").environ
        environ.update({"HTTP_IF_NONE_MATCH": known, "HTTP_COOKIE": f"sessionid={session}", **more})
        list(Unchanged(self.within)(environ, lambda status, headers: told.append(status)))
        return told[0][:3]

    @override_settings(BENCH=True)
    def test_at_a_bench_the_known_count_is_answered_to_this_machine_alone(self) -> None:
        self.assertEqual((self.asked('"2"'), self.passed), ("304", 0))
        add_reading(self.job, case(SUPPLY).readings[0])
        self.assertEqual((self.asked('"2"'), self.passed), ("200", 1))
        self.assertEqual((self.asked('"3"'), self.passed), ("304", 1))
        for more in ({"REMOTE_ADDR": "192.0.2.7"}, {"HTTP_X_FORWARDED_FOR": "192.0.2.7"}, {"HTTP_X_ATTENDED": "1"}):
            self.assertEqual(self.asked('"3"', **more), "200", more)

    @override_settings(BENCH=False)
    def test_elsewhere_only_who_was_let_in_lately_is_answered(self) -> None:
        self.status = "401 Unauthorized"
        self.assertEqual([self.asked('"2"'), self.asked('"2"')], ["401", "401"])
        self.status = "200 OK"
        self.assertEqual([self.asked('"2"'), self.asked('"2"'), self.asked('"2"', "another")], ["200", "304", "200"])
        with patch("server.stand.monotonic", return_value=monotonic() + LET_IN_S):
            self.assertEqual(self.asked('"2"'), "200")
