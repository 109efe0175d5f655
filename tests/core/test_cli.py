"""The command line, run as a technician's script would run it."""

import json
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase

from tests.cases import ELEMENT, plain_case
from tests.tags import slow

ROOT = Path(__file__).resolve().parents[2]


def run(*arguments: str, typed: str = "") -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "dianoia", *arguments],
        input=typed,
        capture_output=True,
        text=True,
        cwd=ROOT,
        check=False,
    )


@slow
class Commands(TestCase):
    """Answers on standard output with status 0, refusals on standard error with status 2."""

    def test_one_code_is_an_object_several_are_a_list(self) -> None:
        one = json.loads(run("decode", "P0057", "--json").stdout)
        self.assertEqual((one["sensors"], one["circuit"], one["failure"]), (["B2S2"], "heater", "low"))
        several = json.loads(run("decode", "--json", "-", typed="P0057\nP0420").stdout)
        self.assertEqual([item["order"] for item in several], [1, 2])

    def test_a_job_is_diagnosed_from_file_and_standard_input_alike(self) -> None:
        text = json.dumps(plain_case(ELEMENT))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder, "job.json")
            path.write_text(text, encoding="utf-8")
            from_file = run("diagnose", str(path), "--json")
        self.assertEqual(from_file.stdout, run("diagnose", "-", "--json", typed=text).stdout)
        verdict = json.loads(from_file.stdout)
        repair = verdict["repair"]
        self.assertEqual((repair["state"], repair["done"], repair["proof"], repair["closed"]), ("none", [], [], None))
        self.assertEqual((verdict["format"], verdict["suspects"][0]["fault"]), ("dianoia-verdict/1", "heater-open"))
        self.assertNotIn("value", verdict["next"]["reading"])

    def test_refusals(self) -> None:
        for arguments, typed, named in (
            (("decode", "hello"), "", "code"),
            (("diagnose", "nowhere.json"), "", "file"),
            (("diagnose", "-"), "{", "JSON"),
            (("diagnose", "-"), json.dumps(plain_case({**ELEMENT, "value": "-1"})), "readings[0].value"),
        ):
            with self.subTest(arguments):
                done = run(*arguments, typed=typed)
                self.assertEqual((done.returncode, done.stdout), (2, ""))
                self.assertIn(named, done.stderr)

    def test_demo_cases_are_answered(self) -> None:
        decisions = {path.stem[:2]: json.loads(run("diagnose", str(path), "--json").stdout)["decision"]
                     for path in sorted((ROOT / "demo" / "cases").glob("0[345]*.json"))}  # fmt: skip
        self.assertEqual(decisions, {"03": "replace-sensor", "04": "repair-wiring", "05": "restore-supply"})
