"""From the decision to the vehicle handed over: what a repair has to show, when it is proven, and how it is done."""

from dataclasses import replace
from typing import Any, cast, get_args
from unittest import TestCase

from dianoia.answer.answer import Answer, answer, sheets_of, stage_of
from dianoia.case.job import job_of
from dianoia.case.load import case_from_plain, to_plain
from dianoia.case.measures.act import REPAIRS
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Component
from dianoia.diagnosis.verdict.check import check
from dianoia.families.tables import families
from dianoia.families.types import Cell
from dianoia.repair.acts import Findings
from dianoia.repair.plain import plain_readings, plainly
from dianoia.repair.sheets import sheets_for
from tests.cases import BATTERY, ELEMENT, OPEN_ELEMENT, STEADY, SUPPLY, case, plain_case, probe

DONE = {"measure": "act", "action": "replace-sensor", "value": "done", "part": "TS-2290"}
SOUND = {**ELEMENT, "value": "6.2 ohm"}
AMPS = {"measure": "scan", "pid": "heater_current", "key": "running", "value": "0.9 A"}
LATER = {**AMPS, "at_s": 300}
CLAMPED = {
    "measure": "current",
    "at": "harness.heater_supply",
    "key": "running",
    "connector": "mated",
    "value": "0.02 A",
}
SNAP = {"measure": "scan", "pid": "sensor_voltage", "key": "running", "with": "snap", "value": "0.85 V"}
CLEARED = {"measure": "act", "action": "clear-codes", "value": "not-returned"}
MONITOR = {"measure": "scan", "pid": "heater_monitor", "key": "running", "value": "complete"}
PROOF: list[dict[str, Any]] = [SOUND, AMPS, LATER, SNAP, CLEARED, MONITOR]
BACK = {**CLEARED, "value": "returned-later"}
CODES = {"zirconia": "P0141", "titania": "P0141", "limiting-current": "P0135", "two-cell": "P0135", "nox": "P2202"}
#: A value that each kind of reading can have.
VALUES = {"voltage": "12 V", "resistance": "5 ohm", "current": "0.8 A", "lamp": "bright", "inspect": "ok"}
SCANNED = {
    "heater_current": "0.8 A", "sensor_voltage": "0.6 V", "cell_current": "0.1 mA", "heater_monitor": "complete", "can_messages": "present",
    "nox_status": "valid",
}  # fmt: skip


def answered(*readings: dict[str, Any], **fields: Any) -> Answer:
    return answer(case(*readings, **{"sensor": STEADY, **fields}))


def shown(found: Answer) -> list[str]:
    return [item.kind for item in found.repair.proof if item.by is not None]


class Kept(TestCase):
    """What is kept of a moment before a repair."""

    def test_a_finding_is_worked_out_once_while_nothing_else_is_noted(self) -> None:
        kept, plain = Findings(), job_of(case(*OPEN_ELEMENT, sensor=STEADY))
        changed = job_of(case(*OPEN_ELEMENT, sensor=STEADY, history=["water"]))
        first = kept.of(plain)
        self.assertEqual((first.decision, first.found), ("replace-sensor", ("heater-open",)))
        self.assertIs(kept.of(plain), first)
        self.assertIs(kept.of(replace(plain, case=replace(plain.case, readings=()))), first)
        self.assertIsNot(kept.of(changed), first)


class States(TestCase):
    """What a ledger says of its repair."""

    def test_a_repair_closes_the_finding_and_opens_its_proof(self) -> None:
        before = [*OPEN_ELEMENT, DONE]
        for why, readings, state, decision, proven in (
            ("decided", OPEN_ELEMENT, "none", "replace-sensor", 0),
            ("just fitted", before, "done", "keep-testing", 0),
            ("half shown", [*before, SOUND, AMPS], "done", "keep-testing", 2),
            ("a current at once is none minutes later", [*before, SOUND, AMPS, SNAP, CLEARED, MONITOR], "done", "keep-testing", 5),
            ("a newer bad one on another instrument counts", [*before, *PROOF, CLAMPED], "done", "keep-testing", 5),
            ("all shown", [*before, *PROOF], "proven", "no-fault-now", 6),
            ("a pending monitor", [*before, *PROOF[:-1], {**MONITOR, "value": "incomplete"}], "done", "keep-testing", 5),
            ("a monitor that the vehicle lacks", [*before, *PROOF[:-1], {**MONITOR, "value": "unsupported"}], "proven", "no-fault-now", 5),
            ("back at the end", [*before, *PROOF, BACK], "came-back", "keep-testing", 5),
            ("the act struck out", [*OPEN_ELEMENT, {**DONE, "struck": "wrong job"}], "none", "replace-sensor", 0),
            ("what passed before the repair proves nothing", [CLEARED, *OPEN_ELEMENT, DONE], "done", "keep-testing", 0),
        ):  # fmt: skip
            with self.subTest(why):
                found = answered(*readings)
                self.assertEqual((found.repair.state, found.decision, len(shown(found))), (state, decision, proven))
                if state in ("done", "came-back"):
                    self.assertEqual(found.repair.found, ("heater-open",))
                    self.assertEqual(found.found, ())

    def test_the_reading_that_failed_is_taken_again_and_a_bad_one_proves_nothing(self) -> None:
        found = answered(*OPEN_ELEMENT, DONE, SOUND, ELEMENT)
        first = found.repair.proof[0]
        self.assertEqual((first.kind, first.before, first.by), ("again", 2, None))
        self.assertNotEqual(found.repair.state, "proven")

    def test_fitting_before_the_decision_is_told_with_what_was_not_shown(self) -> None:
        done = answered(BATTERY, {**DONE, "note": "the bus leaves at six"}).repair.done[0]
        self.assertTrue(done.early)
        self.assertEqual((done.decision, done.reason), ("keep-testing", "the bus leaves at six"))
        self.assertIn("the element measured by itself, at a known temperature", done.unproven)
        self.assertFalse(answered(*OPEN_ELEMENT, DONE).repair.done[0].early)

    def test_closing_stands_until_the_next_reading(self) -> None:
        readings = [*OPEN_ELEMENT, DONE, SOUND]
        closed = {
            "by": "Ana",
            "at": "2026-11-24T10:00:00Z",
            "reason": "the driver had to leave",
            "readings": len(readings),
        }
        found = answered(*readings, closed=closed)
        self.assertEqual((found.repair.state, stage_of(found, 9)), ("closed-unproven", "closed"))
        self.assertIn("the driver had to leave", found.repair.says)
        self.assertEqual(answered(*readings, AMPS, closed=closed).repair.state, "done")
        self.assertEqual(answered(*readings, BACK, closed=closed).repair.returns, 1)

    def test_a_short_and_its_fuse_are_one_repair(self) -> None:
        acts = [{"measure": "act", "action": name, "value": "done"} for name in ("repair-wiring", "replace-fuse")]
        blown = {"measure": "inspect", "target": "fuse", "value": "blown"}
        found = answered(BATTERY, blown, *acts).repair
        self.assertEqual([item.action for item in found.done], ["repair-wiring", "replace-fuse"])
        self.assertEqual({item.decision for item in found.done}, {"keep-testing"})


class Taken(TestCase):
    """The proof is made of readings that a technician can take."""

    def test_every_item_can_be_taken_as_proposed_of_every_family_after_every_act(self) -> None:
        for family, row in families().items():
            for action in REPAIRS:
                plain = plain_case(
                    {"measure": "act", "action": action, "value": "done"},
                    code=CODES[row.cell], sensor={"family": family, "bank": 1, "position": 1},
                )  # fmt: skip
                proof = answer(case_from_plain(plain)).repair.proof
                self.assertGreaterEqual(len(proof), 2, f"{family} {action}")
                for item in proof:
                    with self.subTest(f"{family} {action} {item.what}"):
                        self.assertTrue(item.expect)
                        check(
                            case_from_plain(
                                {**plain, "readings": [*plain["readings"], self.filled(to_plain(item.read))]}
                            )
                        )

    def filled(self, read: dict[str, Any]) -> dict[str, Any]:
        value = (
            "not-returned" if read["measure"] == "act" else SCANNED.get(read.get("pid", "")) or VALUES[read["measure"]]
        )
        return {**read, "value": value}


class Sheets(TestCase):
    """How it is done."""

    def test_every_decision_has_a_sheet_for_every_family(self) -> None:
        for row in families().values():
            for component in (*get_args(Component), None):
                sheets = sheets_for(row.cell, [component] if component else [], ())
                with self.subTest(f"{row.id} {component}"):
                    self.assertTrue(any(not sheet.id.startswith(("drive-", "clear-")) for sheet in sheets))

    def test_what_can_hurt_stands_at_its_step(self) -> None:
        for component, step, word in (
            ("module", "battery-off", "battery"),
            ("sensor", "heat", "flame"),
            ("dosing", "fluid", "irritates"),
        ):
            steps = {
                item.id: item
                for sheet in sheets_for("zirconia", [cast(Component, component)], ())
                for item in sheet.steps
            }
            with self.subTest(step):
                self.assertIn(word, " ".join(steps[step].cautions))

    def test_the_sheets_follow_the_fault(self) -> None:
        found = [sheet.id for sheet in sheets_for("zirconia", ["wiring"], ["wire-short-ground:signal"])]
        self.assertIn("find-short", found)
        self.assertNotIn("find-break", found)
        self.assertEqual(sheets_of(answered(BATTERY), job_of(case(BATTERY))), ())

    def test_the_vehicles_own_torque_stands_where_it_is_tightened(self) -> None:
        cells: tuple[tuple[Cell, float], ...] = (("zirconia", 45.0), ("nox", 55.0))
        for cell, torque_nm in cells:
            told = " ".join(step.do for sheet in sheets_for(cell, ["sensor"], (), torque_nm) for step in sheet.steps)
            self.assertIn(f"own value: {torque_nm:g} N m", told)

    def test_the_driver_is_told_what_was_measured_and_two_alike_say_their_state(self) -> None:
        at_the_feed = probe(**SUPPLY)
        for read, says in (
            (probe(**ELEMENT), "Resistance of the sensor's heater"),
            (at_the_feed, "The power feed of the sensor"),
            (probe(**BATTERY), "The battery"),
        ):
            self.assertEqual(plain_readings([read]), (says,))
        self.assertEqual(len(set(plain_readings([at_the_feed, replace(at_the_feed, key="on")]))), 2)

    def test_every_fault_can_be_told_to_a_driver(self) -> None:
        for name in faults():
            self.assertEqual(len(plainly([name])), 1, name)
