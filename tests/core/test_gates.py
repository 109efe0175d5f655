"""What stands before a decision: gates.json, what shows each of its rows, and the rule in its three steps."""

from typing import Any
from unittest import TestCase

from dianoia.case.job import job_of
from dianoia.diagnosis.decision.gates import gate_of, gates
from dianoia.diagnosis.decision.seen import SEEN, Ledger, plainly_bad
from dianoia.diagnosis.verdict.diagnose import Diagnosis, diagnose
from dianoia.diagnosis.verdict.types import Verdict
from tests.cases import BATTERY, ELEMENT, LAMP, LOOKED, NOT_GROUNDED, OPEN_ELEMENT, STEADY, SUPPLY, case, observed

CLEARED = {"measure": "act", "action": "clear-codes", "value": "not-returned"}
CURRENT = {"measure": "scan", "pid": "heater_current", "key": "running", "value": "0.8 A"}
VOLTS = {"measure": "scan", "pid": "sensor_voltage", "key": "running", "value": "0.8 V"}
SWAPPED = {"measure": "act", "action": "swap-sensors", "value": "code-moved"}
FEED = {
    "measure": "resistance",
    "red": "harness.heater_supply",
    "black": "chassis",
    "key": "off",
    "connector": "unplugged",
    "value": "OL",
}
CONTROL_WIRE = {**ELEMENT, "red": "harness.heater_control", "black": "module.heater_control", "module_connector": "unplugged",
                "battery": "disconnected"}  # fmt: skip
CELL = {"measure": "voltage", "red": "sensor.signal", "black": "sensor.signal_return", "key": "running", "connector": "unplugged",
        "sensor_c": "hot", "with": "rich", "value": "0 V"}  # fmt: skip
PLUG = {
    "measure": "voltage",
    "red": "module.signal",
    "black": "battery.negative",
    "key": "on",
    "connector": "unplugged",
    "value": "0 V",
}
NOX = {"measure": "scan", "pid": "nox_status", "key": "running", "value": "valid"}


def _look(target: str, value: str) -> dict[str, Any]:
    return {"measure": "inspect", "target": target, "value": value}


def steady(*readings: dict[str, Any], **fields: Any) -> Verdict:
    return diagnose(case(*readings, sensor=STEADY, **fields))


def rows(verdict: Verdict, status: str) -> list[str]:
    return [item.asks for item in verdict.gate if item.status == status]


class Table(TestCase):
    """gates.json against what the format says."""

    def test_thresholds(self) -> None:
        costly = {"sensor", "module", "catalyst"}
        for component, least in gates().thresholds.items():
            self.assertEqual(least, 0.99 if component in costly else 0.97, component)
        rule = gates().holds_up
        self.assertEqual((rule.stands, rule.favoured, rule.favoured_by), (0.10, 0.05, 3.0))

    def test_what_each_gate_asks_for(self) -> None:
        heater, signal = ("supply", "control", "driver", "heater"), ("bias", "signal", "return", "cell")
        for component, loop, fault, parts, asked in (
            ("sensor", "heater", "heater-open", heater, "element-apart supply control"),
            ("sensor", "signal", "cell-open", signal, "bias signal return plug-seen cell-hot without:exhaust-leak"),
            ("sensor", "signal", "cell-slow", signal, "bias signal return plug-seen cell-hot without:exhaust-leak"),
            ("sensor", "nox", "unit-dead", ("supply", "ground", "bus"), "supply ground bus"),
            ("sensor", "nox", "probe-heater", ("supply", "ground", "bus"), "supply ground bus dew-point"),
            ("module", "heater", "driver-open", heater, "supply control heater commanded module-power"),
            ("module", "heater", "driver-stuck-on", heater, "supply control heater module-power"),
            ("module", "signal", "bias-missing", signal, "signal return at-module module-power"),
            ("supply", "heater", "fuse-blown", heater, "feed-free without:heater-short"),
            ("supply", "heater", "relay-open", heater, ""), ("wiring", "heater", "wire-open:heater_control", heater, ""),
            ("mixture", "signal", "engine-lean", signal, "honest"), ("exhaust", "signal", "exhaust-leak", signal, "honest"),
            ("catalyst", "signal", "catalyst-worn", signal, "honest without:exhaust-leak mixture-read"),
            ("dosing", "nox", "ammonia-slip", ("supply",), "honest exhaust-sound"),
            ("none", "heater", None, heater, "supply control driver heater code-away"),
        ):  # fmt: skip
            with self.subTest(fault or component):
                found = [row.shown[0] for row in gate_of(component, loop, fault, parts)]  # type: ignore[arg-type]
                self.assertEqual(" ".join(found), asked)


class Showing(TestCase):
    """Which readings show what."""

    def places(
        self, name: str, *readings: dict[str, Any], heated: bool = True, fitted: int = -1, mended: int = -1
    ) -> tuple[int, ...]:
        counted = [(place, observed(**item)) for place, item in enumerate(readings)]
        return SEEN[name](Ledger(counted, heated, frozenset(), 1, fitted, mended))

    def test_each(self) -> None:
        works, own = (
            {**CURRENT, "of": "known-good", "codes_cleared": True},
            {**CURRENT, "value": "0 A", "codes_cleared": True},
        )
        late = {**VOLTS, "at_s": 700}
        for name, readings, shown in (
            ("element-apart", [LAMP, ELEMENT], (1,)), ("element-apart", [LAMP], ()), ("element-apart", [{**ELEMENT, "of": "old"}], ()),
            ("element-apart", [works], ()), ("element-apart", [works, own], (0, 1)), ("element-apart", [own, works], ()), ("element-apart", [SWAPPED], (0,)),
            ("plug-seen", [_look("harness", "ok"), _look("pins", "ok")], (1,)), ("cell-apart", [VOLTS, CELL], (1,)), ("cell-apart", [{**CELL, "of": "new"}], ()),
            ("cell-hot", [{**CURRENT, "value": "0.02 A"}, CURRENT], (1,)), ("cell-hot", [late], ()), ("dew-point", [{**NOX, "at_s": 600}], (0,)),
            ("dew-point", [NOX], (0,)), ("dew-point", [{**NOX, "value": "not-at-temperature"}], ()), ("at-module", [PLUG], (0,)),
            ("at-module", [{**PLUG, "connector": "mated"}], ()), ("at-module", [CONTROL_WIRE], ()),
            ("module-pin", [{**LAMP, "in_place_of": None, "red": "battery.positive", "black": "module.heater_control"}], (0,)),
            ("commanded", [SUPPLY, LAMP], (1,)), ("commanded", [{**CURRENT, "with": "heater-commanded"}], (0,)),
            ("module-power", [{**BATTERY, "black": "module.power_ground"}], (0,)), ("module-power", [{**CURRENT, "of": "B2S2"}], (0,)),
            ("module-power", [{**CURRENT, "of": "B2S2", "value": "0 A"}], ()), ("feed-free", [FEED], (0,)), ("feed-free", [{**FEED, "value": "2.1 ohm"}], ()),
            ("honest", [VOLTS], ()), ("honest", [{**VOLTS, "with": "rich"}], (0,)), ("honest", [{**VOLTS, "of": "B2S1"}], (0,)),
            ("leak-seen", [_look("exhaust", "leak")], (0,)), ("exhaust-sound", [_look("exhaust", "ok")], (0,)),
            ("mixture-read", [{**CURRENT, "pid": "long_trim", "value": "4 %"}], (0,)), ("code-away", [CLEARED], (0,)),
            ("code-away", [CLEARED, {**CLEARED, "value": "returned-later"}], ()),
        ):  # fmt: skip
            with self.subTest(name, readings=readings):
                self.assertEqual(self.places(name, *readings), shown)

    def test_without_a_heater_ten_minutes_of_running_make_a_cell_hot(self) -> None:
        self.assertEqual(self.places("cell-hot", VOLTS, {**VOLTS, "at_s": 620}, heated=False), (1,))

    def test_what_was_read_of_the_old_part_or_before_the_repair_is_history(self) -> None:
        self.assertEqual(self.places("element-apart", ELEMENT, fitted=1), ())
        self.assertEqual(self.places("code-away", CLEARED, mended=1), ())

    def test_a_body_seen_broken(self) -> None:
        for value, bad in (("broken", (0,)), ("wrong-part", (0,)), ("soot", ())):
            counted = [(0, observed(**_look("sensor", value)))]
            self.assertEqual(plainly_bad(Ledger(counted, True, frozenset())), bad, value)


class Rule(TestCase):
    """Threshold, gate, and what else could be read now."""

    def test_a_sensor_is_named_once_its_element_was_measured_and_its_loop_loaded(self) -> None:
        for why, readings, decision in (
            ("all of it", OPEN_ELEMENT, "replace-sensor"),
            ("feed and control never loaded", [BATTERY, SUPPLY, ELEMENT, NOT_GROUNDED, LOOKED], "keep-testing"),
            (
                "element never measured by itself",
                [item for item in OPEN_ELEMENT if item is not ELEMENT],
                "keep-testing",
            ),
        ):
            with self.subTest(why):
                self.assertEqual(steady(*readings).decision, decision)

    def test_the_checklist_says_which_reading_met_it(self) -> None:
        found = steady(*OPEN_ELEMENT)
        self.assertEqual(rows(found, "wanted"), [])
        element = next(item for item in found.gate if item.asks == "the element measured by itself")
        self.assertEqual((element.by, element.says), ((2,), "Met by reading 3."))
        unloaded = steady(BATTERY, SUPPLY, ELEMENT)
        self.assertEqual(len(rows(unloaded, "wanted")), 2)
        self.assertIn("Not proven: the supply up to the plug, the heater's control wire.", unloaded.acting_now)

    def test_what_was_seen_broken_needs_no_gate(self) -> None:
        found = steady(ELEMENT, _look("sensor", "broken"))
        self.assertEqual({item.status for item in found.gate}, {"waived"})

    def test_what_a_break_hides_is_read_after_the_repair(self) -> None:
        found = steady(BATTERY, {**SUPPLY, "red": "harness.heater_control", "codes_cleared": True}, {**ELEMENT, "value": "5.6 ohm"},
                       CONTROL_WIRE, CONTROL_WIRE, {**LAMP, "value": "off"}, {**LAMP, "in_place_of": None, "black": "battery.negative"})  # fmt: skip
        self.assertEqual((found.decision, found.found), ("repair-wiring", ("wire-open:heater_control",)))
        behind = {item.part: item for item in found.after_repair}
        self.assertIn("driver", behind)
        self.assertIsNotNone(behind["driver"].read)
        self.assertIsNotNone(found.nothing_else)

    def test_where_only_one_of_two_reaches_its_gate_that_one_is_named_alone(self) -> None:
        fuse = [BATTERY, {**SUPPLY, "connector": "unplugged", "value": "0 V"}, {**SUPPLY, "red": "fuse.in", "connector": "mated", "value": "14 V"},
                {**SUPPLY, "red": "fuse.out", "connector": "mated", "value": "0 V"}, _look("fuse", "blown"), ELEMENT, ELEMENT,
                {**LAMP, "in_place_of": None, "red": "battery.positive"}, LOOKED]  # fmt: skip
        self.assertEqual(steady(*fuse).decision, "keep-testing")
        both = steady(*fuse, FEED, {**FEED, "black": "battery.negative"})
        self.assertEqual((both.decision, both.components), ("repair-several", ("sensor", "supply")))

    def test_a_decision_leaves_open_which_of_two_faults_of_a_component_it_is(self) -> None:
        readings = [BATTERY, {**ELEMENT, "value": "5.6 ohm"}, LAMP, {**CURRENT, "value": "0 A", "codes_cleared": True},
                    {"measure": "current", "at": "harness.heater_supply", "key": "running", "connector": "mated", "codes_cleared": True, "value": "0 A"},
                    _look("connector", "corroded")]  # fmt: skip
        found = steady(*readings)
        self.assertEqual((found.decision, found.found), ("repair-wiring", ()))
        self.assertEqual(set(found.found_one_of), {"pin-open:heater_supply", "pin-open:heater_control"})

    def test_no_fault_is_found_only_once_the_code_stays_away(self) -> None:
        good = [BATTERY, SUPPLY, {**ELEMENT, "value": "5.8 ohm"}, LAMP, {**CURRENT, "codes_cleared": True, "at_s": 120}, CURRENT, LOOKED,
                {**CURRENT, "pid": "heater_monitor", "value": "complete"}]  # fmt: skip
        self.assertEqual(steady(*good).decision, "keep-testing")
        found = steady(*good, CLEARED)
        self.assertEqual((found.decision, found.components), ("no-fault-now", ()))

    def test_of_several_what_is_certain_is_at_its_threshold(self) -> None:
        diagnosis = Diagnosis(job_of(case(*OPEN_ELEMENT, sensor=STEADY)))
        held = diagnosis.weighed.held
        for component, chance in held.by_component.items():
            self.assertEqual(component in held.certain, chance >= gates().thresholds[component])
