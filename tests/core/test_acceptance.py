"""How a good technician would conclude, over the project's own worked cases: every family, every decision, the reason in each.

``known_failures.txt`` lists the cases the engine does not meet yet. It only shrinks: a case that fails and is not listed fails
the test, and so does one that is listed and holds.
"""

import json
from pathlib import Path
from typing import Any
from unittest import TestCase

from dianoia.case.load import case_from_plain
from dianoia.diagnosis.verdict.diagnose import diagnose
from dianoia.diagnosis.verdict.types import Verdict
from dianoia.families.tables import families
from tests.tags import slow

FOLDER = Path(__file__).parents[1] / "acceptance"
KNOWN = ("decision_in", "decision_not", "components", "components_include", "components_exclude", "warnings_include",
         "top_fault_component", "proven_include", "next_not")  # fmt: skip


def documents() -> dict[str, dict[str, Any]]:
    return {path.stem: json.loads(path.read_text(encoding="utf-8")) for path in sorted(FOLDER.glob("*.json"))}


def differs(verdict: Verdict, expect: dict[str, Any]) -> list[str]:
    """What the verdict says otherwise than the case."""
    components, warned = set(verdict.components), {item.warning for item in verdict.warnings}
    reading: Any = verdict.next.reading if verdict.next else None
    proposed = (
        {f"{reading.measure} {getattr(reading, name, '')}" for name in ("red", "pid", "action")} if reading else set()
    )
    proven = {item.part for item in verdict.proven}
    holds = {
        "decision_in": lambda wanted: verdict.decision in wanted,
        "decision_not": lambda wanted: verdict.decision not in wanted,
        "components": lambda wanted: components == set(wanted),
        "components_include": lambda wanted: components >= set(wanted),
        "components_exclude": lambda wanted: not components & set(wanted),
        "warnings_include": lambda wanted: warned >= set(wanted),
        "top_fault_component": lambda wanted: verdict.suspects[0].component == wanted,
        "proven_include": lambda wanted: proven >= set(wanted),
        "next_not": lambda wanted: not proposed & set(wanted),
    }
    return [
        f"{name}: {verdict.decision}, {sorted(components)}"
        for name, wanted in expect.items()
        if not holds[name](wanted)
    ]


@slow
class Acceptance(TestCase):
    """The worked cases."""

    def test_every_case_holds_but_those_that_are_known_to_fail(self) -> None:
        known = set((FOLDER / "known_failures.txt").read_text(encoding="utf-8").split())
        failing = {
            name: wrong
            for name, document in documents().items()
            if (wrong := differs(diagnose(case_from_plain(document["case"])), document["expect"]))
        }
        self.assertEqual({name: wrong for name, wrong in failing.items() if name not in known}, {})
        self.assertEqual(known - failing.keys(), set(), "these hold now: strike them off the list")

    def test_the_cases_cover_every_family_and_say_why(self) -> None:
        found = documents()
        self.assertGreaterEqual(len(found), 30)
        self.assertEqual({item["case"]["sensor"]["family"] for item in found.values()}, set(families()))
        decisions = {name for item in found.values() for name in item["expect"]["decision_in"]}
        self.assertGreaterEqual(len(decisions), 10)
        for name, item in found.items():
            self.assertTrue(len(item["why"]) > 40 and set(item["expect"]) <= set(KNOWN), name)
