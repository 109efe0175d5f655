"""A job on a simulated vehicle: connected once and for ever, asked through a process of its own, kept out of statistics."""

import json
import os
import signal
import socket
from pathlib import Path
from typing import Any, get_args
from unittest.mock import patch

from django.test import SimpleTestCase, TestCase

from dianoia.case.load import case_from_plain
from dianoia.case.terms import Action
from dianoia.instruments.case_vehicle import MENDS, held_for, mended_by
from server.adapters.vehicles import Adapter, AdapterGone, Adapters, adapters
from server.jobs.start import start_job
from server.jobs.workshop import outcomes
from server.ledger.models import Job
from server.papers.paper import words_of
from tests.people import AtTheBench

CURRENT = {"measure": "scan", "pid": "heater_current", "key": "running"}
VEHICLE: dict[str, Any] = {
    "label": "Road crew van 21", "system_voltage": 12, "feed_live": "key-on", "feed_order": "relay-fuse", "engine": {"sensor_banks": 1},
}  # fmt: skip
SENSOR: dict[str, Any] = {
    "family": "switching-4w", "heater_switch": "low-side", "heater_drive": "steady", "heater_ohms_20c": [4.0, 7.5], "bias_v": 0.45,
}  # fmt: skip
CASE: dict[str, Any] = {
    "format": "dianoia-case/1", "vehicle": VEHICLE, "sensor": SENSOR, "codes": [{"code": "P0135"}], "readings": [], "simulated": 3,
}  # fmt: skip


class Vehicles(AtTheBench, TestCase):
    """Through the API."""

    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(adapters.end_all)

    def job(self, **changed: Any) -> int:
        return start_job(case_from_plain({**CASE, **changed})).pk

    def send(self, method: str, path: str, body: Any = None) -> Any:
        return getattr(self.client, method)(path, json.dumps(body or {}), content_type="application/json")

    def order(self, job: int, **order: Any) -> dict[str, Any]:
        answer = self.send("post", f"/api/jobs/{job}/vehicle", order)
        self.assertEqual(answer.status_code, 200, answer.content)
        found: dict[str, Any] = answer.json()
        return found

    def test_a_vehicle_is_turned_waited_for_and_read_and_the_reading_stays_marked(self) -> None:
        job = self.job()
        parked = self.order(job)
        self.assertEqual((parked["setting"]["key"], parked["codes"]), ("off", None))
        self.order(job, turn={"key": "running"}, wait_s=40)
        look = self.order(job, probe=CURRENT)
        self.assertEqual(look["setting"]["key"], "running")
        self.assertEqual([item["code"] for item in look["codes"]], ["P0135"])
        self.assertTrue(look["shown"]["value"].endswith(" A"), look["shown"])
        reading = {**CURRENT, **look["state"], "value": look["shown"]["value"], "instrument": "simulated"}
        taken = self.send("post", f"/api/jobs/{job}/readings", reading)
        self.assertEqual(taken.status_code, 201, taken.content)
        exported = self.client.get(f"/api/jobs/{job}/case").json()
        self.assertEqual((exported["readings"][0]["instrument"], exported["simulated"]), ("simulated", 3))
        self.assertTrue(self.client.get("/api/jobs").json()["jobs"][0]["simulated"])

    def test_what_the_vehicle_cannot_do_is_refused_by_its_field_and_what_cannot_be_read_says_what_it_needs(
        self,
    ) -> None:
        job = self.job()
        refused = self.send("post", f"/api/jobs/{job}/vehicle", {"turn": {"rpm": 2000}})
        self.assertEqual((refused.status_code, refused.json()["findings"][0]["field"]), (422, "rpm"))
        look = self.order(job, probe=CURRENT)
        self.assertIn("Needs key: on or running", look["shown"]["refused"])
        real = self.job(simulated=None)
        self.assertEqual(self.send("post", f"/api/jobs/{real}/vehicle").json()["findings"][0]["field"], "simulated")

    def test_a_repair_in_the_ledger_mends_the_vehicle_if_it_is_the_right_one(self) -> None:
        job = self.job()
        wrong, right = "replace-sensor", "repair-wiring"
        self.assertEqual(held_for(case_from_plain(CASE))["request"]["faults"], ("heater-wire-open",))
        amps = []
        for action in (wrong, right):
            self.send("post", f"/api/jobs/{job}/readings", {"measure": "act", "action": action, "value": "done"})
            self.order(job, turn={"key": "on"}, clear_codes=True)
            self.order(job, turn={"key": "running"}, wait_s=40)
            amps.append(float(self.order(job, probe=CURRENT)["shown"]["value"].split()[0]))
        cleared = case_from_plain({**CASE, "readings": [{"measure": "act", "action": "clear-codes", "value": "done"}]})
        self.assertEqual((len(held_for(case_from_plain(CASE))["codes"]), held_for(cleared)["codes"]), (1, []))
        self.assertLess(amps[0], 0.02)
        self.assertGreater(amps[1], 0.3)

    def test_a_job_becomes_simulated_before_its_first_reading_or_never_and_stays_so(self) -> None:
        real = self.job(simulated=None)
        self.send("post", f"/api/jobs/{real}/readings", {**CURRENT, "value": "0.0 A"})
        late = self.send("patch", f"/api/jobs/{real}", {"simulated": 4})
        self.assertEqual((late.status_code, late.json()["findings"][0]["field"]), (422, "simulated"))
        fresh = self.job(simulated=None)
        self.assertEqual(self.send("patch", f"/api/jobs/{fresh}", {"simulated": 4}).status_code, 200)
        self.assertEqual(self.send("patch", f"/api/jobs/{fresh}", {"simulated": None}).status_code, 422)

    def test_repairs_of_simulated_vehicles_count_in_no_statistics_and_are_not_offered_as_known(self) -> None:
        mended = [{"measure": "act", "action": "replace-sensor", "value": "done"}]
        self.job(readings=mended)
        self.assertEqual([item.repairs for item in outcomes()], [0, 0])
        self.assertEqual(self.client.get("/api/vehicles").json(), [])
        self.job(readings=mended, simulated=None)
        self.assertEqual(sum(item.repairs for item in outcomes()), 1)
        self.assertEqual(len(self.client.get("/api/vehicles").json()), 1)

    def test_the_papers_say_that_no_real_vehicle_was_measured(self) -> None:
        self.assertIn("no real vehicle", words_of(Job.objects.get(pk=self.job()))["simulated"])
        self.assertEqual(words_of(Job.objects.get(pk=self.job(simulated=None)))["simulated"], "")

    def test_a_page_that_is_closed_ends_the_process_and_a_process_that_died_is_begun_anew(self) -> None:
        job = self.job()
        self.order(job, turn={"key": "on"})
        adapter = adapters._places[job].adapter
        assert adapter is not None
        os.kill(adapter._process.pid, signal.SIGKILL)
        self.assertEqual(self.order(job)["setting"]["key"], "off")
        again = adapters._places[job].adapter
        assert again is not None
        self.assertEqual(self.send("delete", f"/api/jobs/{job}/vehicle").status_code, 204)
        self.assertIsNotNone(again._process.poll())


class Processes(SimpleTestCase):
    """The adapter process itself."""

    HELD: dict[str, Any]

    def setUp(self) -> None:
        self.HELD = held_for(case_from_plain(CASE))

    def test_it_listens_on_loopback_only_and_answers_nobody_without_the_secret(self) -> None:
        adapter = Adapter(self.HELD)
        self.addCleanup(adapter.end)
        self.assertIn("look", adapter.ask({}))
        listed = [line.split() for line in Path("/proc/net/tcp").read_text(encoding="ascii").splitlines()[1:]]
        port = socket_port(adapter)
        own = [line[1] for line in listed if line[1].endswith(f":{port:04X}")]
        self.assertTrue(own and all(address.startswith("0100007F:") for address in own), own)

    def test_a_request_for_no_vehicle_ends_it(self) -> None:
        with self.assertRaises(AdapterGone):
            Adapter({"request": {"family": "frog", "faults": (), "seed": 1}})

    def test_the_one_asked_longest_ago_makes_room(self) -> None:
        found = Adapters()
        self.addCleanup(found.end_all)
        with patch("server.adapters.vehicles.MOST", 2):
            for job in (1, 2, 1, 3):
                found.ask(job, lambda: self.HELD, {})
            self.assertEqual(sorted(found._places), [1, 3])

    def test_every_repair_of_the_format_is_known(self) -> None:
        repairs = {name for name in get_args(Action) if name.startswith(("replace-", "repair-"))}
        self.assertEqual(set(MENDS), repairs)
        struck = case_from_plain(
            {**CASE, "readings": [{"measure": "act", "action": "replace-fuse", "value": "done", "struck": "wrong"}]}
        )
        self.assertEqual(mended_by(struck.readings), [])


def socket_port(adapter: Adapter) -> int:
    """The port that an adapter listens at."""
    with socket.socket(fileno=os.dup(adapter._connection.fileno())) as end:
        return int(end.getpeername()[1])
