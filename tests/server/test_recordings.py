"""Recordings through the API: read apart, kept by hash, marked, given out, checked, copied, purged."""

import gzip
import json
import shutil
import time
from io import BytesIO
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest.mock import patch
from zipfile import ZipFile

import numpy as np
from django.core.management import CommandError, call_command
from django.test import TestCase, override_settings

from dianoia.case.load import case_from_plain
from server.jobs.start import start_job
from server.jobs.stored import case_of
from server.ledger import recordings as store
from server.ledger.models import ColumnMemory, Entry, Job, Kind
from server.work.imports import imports
from tests.cases import demo_case
from tests.people import AtTheBench

CASE: dict[str, Any] = {
    "format": "dianoia-case/1", "vehicle": {"label": "Road crew van 31"}, "codes": [{"code": "P0135"}],
    "sensor": {"family": "switching-4w"},
}  # fmt: skip
ROWS = "".join(
    f"{row / 10},{0.45 + 0.35 * (-1) ** (row // 8) + 0.002 * (row % 3):.3f},{700 + row},Ana\n" for row in range(400)
)
LOG = f"time [s],O2 front [V],RPM,Driver\n{ROWS}".encode()


class Recordings(AtTheBench, TestCase):
    """One job and a folder of its own."""

    def setUp(self) -> None:
        super().setUp()
        self.var = Path(self.enterContext(TemporaryDirectory()))
        self.enterContext(
            override_settings(VAR_DIR=self.var, BACKUPS=self.var / "backups", BACKUPS_SECOND=str(self.var / "far"))
        )
        self.number = start_job(case_from_plain(CASE)).pk

    @property
    def job(self) -> Job:
        return Job.objects.get(pk=self.number)

    def send(self, method: str, path: str, body: Any = None, status: int = 200) -> Any:
        if method == "get":
            return self.client.get(f"/api/jobs/{self.number}/{path}").json()
        answer = getattr(self.client, method)(
            f"/api/jobs/{self.number}/{path}", json.dumps(body or {}), content_type="application/json"
        )
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json() if answer.content else None

    def bring(self, data: bytes = LOG, state: str = "ready") -> dict[str, Any]:
        """A file, until it is read or refused."""
        answer = self.client.post(f"/api/jobs/{self.number}/imports", data, content_type="application/octet-stream")
        self.assertEqual(answer.status_code, 201, answer.content)
        return self.read(answer.json()["id"], state)

    def read(self, name: str, state: str = "ready") -> dict[str, Any]:
        while True:
            made: dict[str, Any] = self.client.get(f"/api/jobs/{self.number}/imports/{name}").json()
            if made["state"] in ("ready", "refused"):
                self.assertEqual(made["state"], state, made["findings"])
                return made
            time.sleep(0.02)

    def kept(self, **body: Any) -> dict[str, Any]:
        page = self.send("post", f"imports/{self.bring()['id']}/keep", {"title": "idle", "marks": [], **body}, 201)
        found: dict[str, Any] = page["recordings"][-1]
        return found

    def test_a_file_is_proposed_corrected_kept_and_its_source_remembered(self) -> None:
        made = self.bring()
        self.assertEqual(
            [(one["place"], one["signal"], one["of"]) for one in made["chosen"]], [(2, "engine_speed", None)]
        )
        chosen = [{"place": 1, "signal": "sensor_voltage", "of": "B1S1", "unit": "V"}, *made["chosen"]]
        self.send("put", f"imports/{made['id']}", chosen)
        made = self.read(made["id"])
        self.assertEqual(made["shown"]["traces"][0]["label"], "B1S1 sensor voltage")
        self.assertEqual(Entry.objects.filter(kind=Kind.RECORDING).count(), 0, "nothing is kept that was not seen")
        page = self.send("post", f"imports/{made['id']}/keep", {"title": "idle"}, 201)
        noted = page["recordings"][0]["noted"]
        figures = noted["columns"][0]["figures"]
        self.assertAlmostEqual(figures["max"], 0.804)
        self.assertAlmostEqual(figures["switches_per_min"], 75, delta=2)
        path = store.path_of(noted["recording"])
        self.assertEqual(path.stat().st_mode & 0o777, 0o600)
        self.assertNotIn(b"Ana", path.read_bytes())
        self.assertFalse(any(imports.folder().iterdir()), "the original is gone")
        self.assertEqual(case_of(self.job).recordings[0].title, "idle")
        again = self.bring()
        self.assertEqual(
            {one["place"]: one["signal"] for one in again["chosen"]}, {1: "sensor_voltage", 2: "engine_speed"}
        )
        self.assertEqual(ColumnMemory.objects.count(), 1)
        self.send("delete", f"imports/{again['id']}", status=204)

    def test_a_heading_without_a_sensor_means_the_jobs_own(self) -> None:
        made = self.bring(b"time,sensor voltage,battery voltage\n0,0.1,14\n1,0.2,14\n")
        self.assertEqual([one["of"] for one in made["chosen"]], ["B1S1", None])

    def test_what_is_no_recording_is_said_and_leaves_nothing(self) -> None:
        wrong = {
            b"time,O2S11\n0,1\n5,2\n3,3\n": "times that rise", gzip.compress(LOG): "not packed",
            b"MDF     4.10    " + bytes(200): "measurement file", b"\x00\x01\x02": "byte 0",
        }  # fmt: skip
        for data, said in wrong.items():
            made = self.bring(data, "refused")
            self.assertIn(said, str(made["findings"]))
            self.send("post", f"imports/{made['id']}/keep", {}, 422)
            self.send("delete", f"imports/{made['id']}", status=204)
        self.assertEqual(self.send("get", "recordings")["recordings"], [])
        self.assertFalse(any(imports.folder().iterdir()))

    def test_a_choice_that_cannot_be_is_refused_and_can_be_mended(self) -> None:
        made = self.bring()
        self.send("put", f"imports/{made['id']}", [{"place": 3, "signal": "lambda", "of": "B1S1", "unit": ""}])
        refused = self.read(made["id"], "refused")
        self.assertIn("Driver", str(refused["findings"]))
        self.assertEqual(len(refused["columns"]), 3, "they can still be corrected")
        self.send("put", f"imports/{made['id']}", made["chosen"])
        self.read(made["id"])

    def test_marks_measure_again_and_marks_outside_are_refused(self) -> None:
        digest = self.kept()["noted"]["recording"]
        outside = {"marks": [{"at_s": 900, "event": "rich"}]}
        self.assertIn("from 0 to", str(self.send("put", f"recordings/{digest}/marks", outside, 422)))
        page = self.send("put", f"recordings/{digest}/marks", {"marks": [{"at_s": 12, "event": "start"}]})
        (found,) = page["recordings"]
        self.assertEqual(found["noted"]["marks"], [{"at_s": 12.0, "event": "start", "note": ""}])
        self.assertIn(
            {"at_s": 12.0, "event": "start", "label": "engine started", "marked": True, "note": ""},
            found["shown"]["events"],
        )
        self.assertEqual(case_of(self.job).recordings[0].marks[0].at_s, 12.0)

    def test_samples_are_drawn_and_given_out_without_loss(self) -> None:
        digest = self.kept()["noted"]["recording"]
        base = f"/api/jobs/{self.number}/recordings/{digest}"
        drawn = self.client.get(f"{base}/levels?trace=0&from_s=0&to_s=50&points=100").content
        numbers = np.frombuffer(drawn, "<f4").reshape(3, -1)
        self.assertEqual((numbers[1].min(), numbers[2].max()), (700.0, 1099.0))
        table = self.client.get(f"{base}.csv").content.decode().splitlines()
        self.assertEqual((table[0], table[1], len(table)), ("time [s],engine speed [rpm]", "0.0,700.0", 401))
        self.assertEqual(self.client.get(f"{base}.parquet").content, store.path_of(digest).read_bytes())
        self.assertEqual(self.client.get(f"{base}/levels?trace=7&from_s=0&to_s=1").status_code, 422)
        self.assertEqual(self.client.get(f"{base.replace(digest, 'sha256:0')}.csv").status_code, 422)

    def test_a_zipped_job_opens_elsewhere_and_the_case_opens_without_samples(self) -> None:
        digest = self.kept()["noted"]["recording"]
        data = self.client.get(f"/api/jobs/{self.number}/case.zip").content
        plain = self.client.get(f"/api/jobs/{self.number}/case").json()
        shutil.rmtree(store.folder())
        alone = self.client.post("/api/jobs/import", json.dumps(plain), content_type="application/json").json()["id"]
        (found,) = self.client.get(f"/api/jobs/{alone}/recordings").json()["recordings"]
        self.assertIsNone(found["shown"])
        self.assertEqual(found["noted"]["columns"][0]["figures"]["max"], 1099)
        answer = self.client.post("/api/jobs/import-zip", data, content_type="application/octet-stream")
        self.assertEqual(answer.status_code, 201, answer.content)
        (found,) = self.client.get(f"/api/jobs/{answer.json()['id']}/recordings").json()["recordings"]
        self.assertEqual((found["noted"]["recording"], found["shown"]["rows"]), (digest, 400))
        jobs = Job.objects.count()
        for wrong in (b"PK\x03\x04 cut", data[: len(data) // 2], self.zipped({"other.txt": b"x"})):
            refused = self.client.post("/api/jobs/import-zip", wrong, content_type="application/octet-stream")
            self.assertEqual(refused.status_code, 422, refused.content)
        self.assertEqual(Job.objects.count(), jobs)

    def zipped(self, members: dict[str, bytes]) -> bytes:
        made = BytesIO()
        with ZipFile(made, "w") as file:
            for name, data in members.items():
                file.writestr(name, data)
        return made.getvalue()

    def test_samples_are_checked_copied_and_purged(self) -> None:
        digest = self.kept()["noted"]["recording"]
        path = store.path_of(digest)
        near, far = self.var / "backups" / "recordings", self.var / "far" / "recordings"
        for folder in (near, far):
            store.copy_to(folder)
        self.assertEqual([*store.problems_of_recordings()], [])
        self.assertEqual(store.path_of(digest, near).stat().st_ino, path.stat().st_ino, "a link, not a second file")
        whole = path.read_bytes()
        path.unlink()
        self.assertIn("is missing", str([*store.problems_of_recordings()]))
        store.put_back_from(near)
        self.assertEqual(path.read_bytes(), whole)
        path.write_bytes(whole[:-1] + b"?")
        self.assertIn("is not what was recorded", str([*store.problems_of_recordings()]))
        with self.assertRaises(CommandError):
            call_command("purge_recording", self.number, "ffffffff", reason="wrong job")
        call_command(
            "purge_recording", self.number, digest.removeprefix("sha256:")[:8], reason="wrong vehicle", verbosity=0
        )
        self.assertEqual(
            [place.exists() for place in (path, store.path_of(digest, near), store.path_of(digest, far))], [False] * 3
        )
        self.assertEqual([*store.problems_of_recordings()], [])
        (found,) = self.send("get", "recordings")["recordings"]
        self.assertEqual((found["noted"]["purged"], found["shown"]), ("wrong vehicle", None))
        self.assertIn("max", found["noted"]["columns"][0]["figures"])

    def test_a_full_disk_is_said_and_nothing_is_half_kept(self) -> None:
        made = self.bring()
        self.enterContext(patch("server.ledger.recordings.has_space", return_value=False))
        self.assertIn("free some space", str(self.send("post", f"imports/{made['id']}/keep", {}, 422)))
        self.assertEqual(Entry.objects.filter(kind=Kind.RECORDING).count(), 0)

    def test_a_simulated_instrument_records_by_itself_and_the_recording_stays_marked(self) -> None:
        self.number = start_job(demo_case("12-van-to-try")).pk
        made = self.read(self.send("post", "captures", {"capture": "snap"}, 201)["id"])
        self.assertEqual(made["marks"], [{"at_s": 10.0, "event": "snap", "note": ""}])
        page = self.send("post", f"imports/{made['id']}/keep", {"marks": made["marks"]}, 201)
        self.assertEqual(page["recordings"][0]["noted"]["instrument"], "simulated")
        self.send("post", "captures", {"capture": "other"}, 422)
        self.number = start_job(case_from_plain(CASE)).pk
        self.send("post", "captures", {"capture": "snap"}, 422)
