"""The front end's own tests, run once by vitest, each reported as one of ours; and what they send, held against the core."""

import json
import os
import re
from functools import cache
from pathlib import Path
from subprocess import run
from tempfile import mkdtemp
from typing import Any
from unittest import TestCase

from dianoia.bench.jobs import prepared
from dianoia.case.check import check
from dianoia.case.load import from_plain
from dianoia.case.measures import Reading
from dianoia.case.observed import observe
from dianoia.diagnosis.catalogue.candidates import same_measurement
from dianoia.diagnosis.catalogue.offered import engines, offered
from dianoia.errors import RefusedInput
from tests.cases import case
from tests.web.fixtures import fields_of, write

_WEB = Path(__file__).parents[2] / "web"
#: One folder for what the tests are given and what they write, shared with the processes of a parallel run.
_FOLDER = Path(os.environ.setdefault("DIANOIA_WEB_TESTS", mkdtemp(prefix="dianoia-web-")))


@cache
def results() -> dict[str, dict[str, str]]:
    """File -> test -> why it failed, empty where it passed. Runs all of them, once for each process that asks."""
    write(_FOLDER)
    written = _FOLDER / "results.json"
    done = run(
        ["npx", "--no-install", "vitest", "run", "--reporter=json", f"--outputFile={written}"],
        cwd=_WEB,
        capture_output=True,
        text=True,
        check=False,
    )
    if not written.exists():
        raise AssertionError(f"vitest did not run: {done.stdout}{done.stderr}")
    found: dict[str, dict[str, str]] = {}
    for ran in json.loads(written.read_text(encoding="utf-8"))["testResults"]:
        tests = found.setdefault(str(Path(ran["name"]).relative_to(_WEB)), {})
        if ran["status"] == "failed" and not ran["assertionResults"]:
            tests["the file itself"] = ran["message"] or "failed"
        for test in ran["assertionResults"]:
            tests[test["fullName"]] = (
                "" if test["status"] == "passed" else "\n".join(test["failureMessages"]) or test["status"]
            )
    return found


class ByVitest(TestCase):
    """Base of the classes below, one for each file of tests. file: its path in ``web``."""

    file = ""


def _case(name: str) -> Any:
    def test(self: ByVitest) -> None:
        why = results()[self.file][name]
        self.assertEqual(why, "", f"{self.file}: {name}")

    test.__doc__ = name
    return test


def _listed() -> dict[str, list[str]]:
    """File -> its tests, as vitest lists them."""
    if not (_FOLDER / "given.json").exists():
        write(_FOLDER)
    listed = run(
        ["npx", "--no-install", "vitest", "list", "--json"], cwd=_WEB, capture_output=True, text=True, check=False
    )
    found: dict[str, list[str]] = {}
    for test in json.loads(listed.stdout[listed.stdout.index("[") :]):
        found.setdefault(str(Path(test["file"]).relative_to(_WEB)), []).append(test["name"].replace(" > ", " "))
    return found


def _method(name: str) -> str:
    return "test_" + re.sub(r"\W+", "_", name).strip("_")


for _file, _names in _listed().items():
    _class = "".join(part.capitalize() for part in re.split(r"\W+", _file.removeprefix("src/")) if part)
    globals()[_class] = type(
        _class, (ByVitest,), {"file": _file, "__module__": __name__, **{_method(name): _case(name) for name in _names}}
    )


class WhatTheDraftSends(TestCase):
    """Readings that ``web/src/bench/draft.test.ts`` has laid out, filled and sent."""

    def read(self, name: str) -> Any:
        """What the tests have written, all of them run."""
        results()
        return json.loads((_FOLDER / f"{name}.json").read_text(encoding="utf-8"))

    def test_what_is_proposed_and_taken_is_the_reading_that_was_asked_for(self) -> None:
        proposals = self.read("given")["proposals"]
        for asked, sent in zip(proposals, self.read("proposed"), strict=True):
            job = prepared(asked["row"], False)
            engine = engines.bare_engine(job)
            candidates = [
                item
                for item in offered(job, engine, frozenset(engine.loops), asked["switch"])
                if item.id == asked["id"]
            ]
            with self.subTest(family=asked["family"], candidate=asked["id"]):
                reading = observe(from_plain(Reading, sent))
                self.assertTrue(any(same_measurement(item, reading) for item in candidates), sent)

    def test_whatever_is_touched_the_core_takes_it_or_names_what_was_mistyped(self) -> None:
        refused = 0
        for place, touched in enumerate(self.read("touched")):
            with self.subTest(place):
                try:
                    from_plain(Reading, touched["sent"])
                except RefusedInput as refusal:
                    refused += 1
                    # only what a person can mistype is ever refused; the rest of the draft is the front end's own doing
                    fields = {finding.field.split(".")[0] for finding in refusal.findings}
                    self.assertLessEqual(fields, {"value", "sensor_c", "at_s", "fed_v", "rpm", "coolant_c"}, touched)
        self.assertGreater(refused, 0)

    def test_every_point_drawn_can_be_measured_at_with_every_instrument(self) -> None:
        readings = self.read("drawn")
        self.assertGreater(len(readings), 300)
        for item in readings:
            with self.subTest(family=item["family"], sent=item["sent"]):
                check(case(item["sent"], **fields_of(item["family"])))

    def test_what_is_no_number_is_refused_and_not_left_out(self) -> None:
        for field, sent in self.read("mistyped").items():
            with self.subTest(field), self.assertRaises(RefusedInput) as caught:
                check(case(sent, code="P0130"))
            self.assertEqual([finding.field for finding in caught.exception.findings], [f"readings[0].{field}"])
