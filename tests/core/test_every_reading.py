"""Every reading that the format has, of every family, in every state: it is judged and weighed, or refused by name."""

from collections.abc import Iterator
from typing import Any, get_args
from unittest import TestCase

from dianoia.case.check import check
from dianoia.case.job import job_of
from dianoia.case.load import to_plain
from dianoia.case.measures.offered import choices
from dianoia.case.measures.scan import SCAN_KIND, SCAN_WORDS
from dianoia.case.terms import Condition, Key, Pid
from dianoia.case.types import Case
from dianoia.diagnosis.catalogue.offered import engines, offered
from dianoia.diagnosis.inference.evidence import weigh
from dianoia.diagnosis.verdict.judging import Judgements
from dianoia.errors import RefusedInput
from dianoia.families.tables import FamilyRow, families
from tests.cases import case
from tests.tags import slow

#: Sensible values by kind: nothing, the usual, far off, and what an instrument shows besides.
VALUES = {
    "current": ("0", "0.8 A", "9"), "resistance": ("0", "6.2", "18k", "OL"), "voltage": ("0", "0.45", "14.1", "-0.2"),
    "cell_current": ("0", "-0.6", "2"), "number": ("0", "0.98", "300"), "ratio": ("0", "40 %", "-12"),
}  # fmt: skip
#: One reading of every other measure, at points that each family of its kind has.
AT = {"nox": ("harness.supply", "harness.ground"), "": ("harness.heater_supply", "harness.heater_control"),
      "heaterless": ("harness.signal", "sensor.shell")}  # fmt: skip
OTHERS = {
    "voltage": "12.1", "resistance": "6.2", "lamp": "bright", "scope": {"high": "13", "low": "0.2"}, "current": "0.7",
    "trace": {"min": "0.1", "max": "0.8", "first_activity_s": 12}, "inspect": "ok", "act": "not-returned",
}  # fmt: skip


def of_family(row: FamilyRow, *readings: dict[str, Any]) -> Case:
    sensor = {"family": row.id, "bank": 1, "position": 1}
    return case(*readings, code="P229E" if row.cell == "nox" else "P0130", sensor=sensor)


def scans() -> Iterator[dict[str, Any]]:
    for pid in get_args(Pid):
        values = [
            *SCAN_WORDS.get(pid, ()),
            *VALUES.get(SCAN_KIND.get(pid, ""), ()),
            *(("40 %",) if pid == "heater_command" else ()),
        ]
        for key in (None, *get_args(Key)):
            for value in values:
                yield {"measure": "scan", "pid": pid, "value": value, **({"key": key} if key else {})}


def others(row: FamilyRow) -> Iterator[dict[str, Any]]:
    """Every other measure with every condition, with two at once, and fed."""
    red, black = AT["nox" if row.cell == "nox" else "" if row.has_heater_terminals else "heaterless"]
    own = {
        "current": {"at": red}, "inspect": {"target": "connector"}, "act": {"action": "clear-codes"},
        "trace": {"signal": "sensor_voltage" if row.cell in ("zirconia", "titania") else "cell_current"},
    }  # fmt: skip
    for condition in (*get_args(Condition), ["rich", "heater-commanded"]):
        fed = {"fed_v": 0.6} if condition == "signal-fed" else {}
        for measure, value in OTHERS.items():
            points = own.get(measure, {"red": red, "black": black})
            state = {} if measure in ("inspect", "act") else {"key": "running", "connector": "mated"}
            yield {"measure": measure, **points, **state, "with": condition, **fed, "value": value}


@slow
class EveryReading(TestCase):
    """Of each family."""

    def admitted(self, row: FamilyRow, readings: Iterator[dict[str, Any]]) -> list[dict[str, Any]]:
        """Those readings that the family can have; any other is refused by name."""
        found = []
        for reading in readings:
            try:
                check(of_family(row, reading))
            except RefusedInput as refusal:
                self.assertTrue(all(finding.field and finding.expected for finding in refusal.findings), refusal)
                continue
            found.append(reading)
        return found

    def test_it_is_judged_and_weighed_whatever_the_state(self) -> None:
        for number, row in enumerate(families().values()):
            readings = [*self.admitted(row, scans()), *self.admitted(row, others(row))]
            self.assertGreater(len(readings), 150)
            job = job_of(of_family(row, *readings[number % 2 : 500 : 2]))  # each is weighed in every second family
            engine = engines.bare_engine(job_of(of_family(row)))
            belief, judging = engine.belief(engine.models_for(job.readings)), Judgements(job, engine)
            for place, reading in enumerate(job.readings):
                with self.subTest(family=row.id, reading=reading):
                    judged = judging.judged(place, weigh(belief, place, reading))
                    self.assertNotRegex(f"{judged.expected} {judged.says}", r"\bnan\b|\binf\b")

    def test_every_proposal_is_a_reading_that_is_taken(self) -> None:
        for row in families().values():
            job = job_of(of_family(row))
            engine = engines.bare_engine(job)
            for switch in ("low-side", "high-side"):
                for candidate in offered(job, engine, frozenset(engine.loops), switch):  # type: ignore[arg-type]
                    probe = to_plain(candidate.probe)
                    figures = {"scope": {"high": "13"}, "trace": {"min": "0.1"}, "lamp": "bright", "inspect": "ok"}
                    value = figures.get(probe["measure"]) or self._value(row, probe)
                    with self.subTest(family=row.id, candidate=candidate.id):
                        check(of_family(row, {**probe, "value": value}))

    def _value(self, row: FamilyRow, probe: dict[str, Any]) -> str:
        if probe["measure"] == "act":
            return str(choices(row).acts[probe["action"]][0])
        return str(SCAN_WORDS.get(probe.get("pid", ""), ("0",))[0])
