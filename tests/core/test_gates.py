"""What stands before a decision: gates.json, what shows each of its rows, and the rule: certain, shown, besides."""

from collections.abc import Collection
from typing import Any
from unittest import TestCase

from dianoia.case.job import job_of
from dianoia.diagnosis.decision.feed import paths, stretch
from dianoia.diagnosis.decision.gates import gate_of, gates
from dianoia.diagnosis.decision.ledger import Ledger
from dianoia.diagnosis.decision.seen import SEEN
from dianoia.diagnosis.decision.shown.trial import plainly_bad
from dianoia.diagnosis.verdict.diagnose import Diagnosis, diagnose
from dianoia.diagnosis.verdict.types import Verdict
from tests.cases import BATTERY, ELEMENT, LAMP, LOOKED, OPEN_ELEMENT, STEADY, SUPPLY, case, observed

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
        dear, cheap = {"module", "catalyst", "mixture", "dosing", "exhaust"}, {"wiring", "supply", "feed"}
        for component, least in gates().thresholds.items():
            self.assertEqual(least, 0.97 if component in dear else 0.9 if component in cheap else 0.95, component)
        table = gates()
        self.assertEqual((table.leak_seen, table.rival.below, table.rival.disfavoured_by), (0.95, 0.02, 3.0))
        self.assertEqual((table.besides.least, table.no_fault), (0.05, 0.95))

    def test_what_each_gate_asks_for(self) -> None:
        heater, signal = ("supply", "control", "driver", "heater"), ("bias", "signal", "return", "cell")
        wide, nox = ("bias", "reference", "return", "pump", "trim", "cell"), ("supply", "ground", "bus")
        for component, loop, fault, parts, asked in (
            ("sensor", "heater", "heater-open", heater, "element-bad element-confirmed"),
            ("sensor", "signal", "cell-open", signal, "bias signal return cell-hot instead:exhaust-leak instead:engine-lean"),
            ("sensor", "signal", "cell-slow", signal, "bias signal return cell-hot instead:exhaust-leak"),
            ("sensor", "signal", "cell-biased-rich", wide, "bias reference return pump trim cell-hot instead:engine-rich"),
            ("sensor", "nox", "unit-dead", nox, "nox-fed nox-grounded bus"),
            ("sensor", "nox", "probe-heater", nox, "nox-fed nox-grounded bus nox-late"),
            ("sensor", "nox", "probe-drift", nox, "nox-late nox-alive nox-wrong"),
            ("module", "heater", "driver-open", heater, "module-pin load-apart wire-free commanded module-power"),
            ("module", "heater", "driver-stuck-on", heater, "module-pin load-apart wire-free module-power"),
            ("module", "signal", "bias-missing", signal, "at-module wire-free module-power"),
            ("supply", "heater", "fuse-blown", heater, "feed-free without:heater-short supply-bad"),
            ("supply", "heater", "relay-open", heater, "supply-bad"), ("wiring", "heater", "wire-open:heater_control", heater, "wire-shown"),
            ("mixture", "signal", "engine-lean", signal, "honest instead:cell-"), ("exhaust", "signal", "exhaust-leak", signal, "honest leak-seen"),
            ("catalyst", "signal", "catalyst-worn", signal, "honest instead:exhaust-leak instead:cell-"),
            ("dosing", "nox", "ammonia-slip", ("supply",), "honest instead:probe-drift"),
            ("none", "heater", None, heater, "supply control driver heater nothing-failed code-away"),
        ):  # fmt: skip
            with self.subTest(fault or component):
                found = [row.shown[0] for row in gate_of(component, loop, fault, parts)]  # type: ignore[arg-type]
                self.assertEqual(" ".join(found), asked)


class Showing(TestCase):
    """Which readings show what. bad, good: places of readings that alone point to the faults asked for, or speak against them."""

    def places(
        self, name: str, *readings: dict[str, Any], heated: bool = True, fitted: int = -1, mended: int = -1,
        bad: Collection[int] = (), good: Collection[int] = (), proven: Collection[str] = (),
    ) -> tuple[int, ...]:  # fmt: skip
        counted = [(place, observed(**item)) for place, item in enumerate(readings)]

        def log_ratio(place: int, names: Collection[str]) -> float:
            return 5.0 if place in bad else -5.0 if place in good else 0.0

        return SEEN[name](Ledger(counted, heated, frozenset(proven), 1, fitted, mended, log_ratio))

    def test_each(self) -> None:
        at_module = {**LAMP, "in_place_of": None, "red": "battery.positive", "black": "module.heater_control"}
        for name, readings, shown in (
            ("cell-hot", [{**CURRENT, "value": "0.02 A"}, CURRENT], (1,)), ("cell-hot", [{**VOLTS, "at_s": 700}], ()),
            ("nox-late", [{**NOX, "at_s": 600}], (0,)), ("nox-late", [NOX], ()), ("nox-alive", [NOX], (0,)),
            ("nox-late", [{**NOX, "coolant_c": 85}], (0,)), ("nox-late", [{**NOX, "coolant_c": 50}], ()),
            ("nox-alive", [{**NOX, "value": "not-stable"}], ()), ("commanded", [SUPPLY, LAMP], (1,)),
            ("commanded", [{**CURRENT, "with": "heater-commanded"}], (0,)), ("load-apart", [at_module], ()),
            ("module-power", [{**BATTERY, "black": "module.power_ground"}], (0,)), ("module-power", [{**CURRENT, "of": "B2S2"}], (0,)),
            ("module-power", [{**CURRENT, "pid": "battery_voltage", "value": "13.9 V"}], (0,)),
            ("module-power", [{**CURRENT, "pid": "battery_voltage", "value": "7 V"}], ()),
            ("module-power", [{**CURRENT, "of": "B2S2", "value": "0 A"}], ()), ("feed-free", [FEED], (0,)), ("feed-free", [{**FEED, "value": "2.1 ohm"}], ()),
            ("wire-free", [{**CONTROL_WIRE, "black": "chassis"}], (0,)), ("wire-free", [{**CONTROL_WIRE, "black": "chassis", "value": "2 ohm"}], ()),
            ("leak-seen", [_look("exhaust", "leak")], (0,)), ("leak-seen", [_look("exhaust", "ok")], ()), ("code-away", [CLEARED], (0,)),
            ("code-away", [CLEARED, {**CLEARED, "value": "returned-later"}], ()), ("trial", [SWAPPED], (0,)),
            ("wire-shown", [_look("connector", "broken")], (0,)), ("wire-shown", [_look("connector", "wet")], ()), ("wire-shown", [SWAPPED], ()),
            ("wire-shown", [{"measure": "act", "action": "wiggle", "at": "harness.signal", "value": "changed"}], (0,)),
            ("wire-shown", [{"measure": "act", "action": "wiggle", "value": "changed"}], ()),
            ("wire-shown", [CONTROL_WIRE], (0,)), ("wire-shown", [{**CONTROL_WIRE, "value": "0.3 ohm"}], ()),
            ("supply-bad", [_look("fuse", "blown")], (0,)), ("supply-bad", [_look("fuse", "ok")], ()),
        ):  # fmt: skip
            with self.subTest(name, readings=readings):
                self.assertEqual(self.places(name, *readings), shown)

    def test_an_element_is_bad_by_what_it_read_at_a_known_temperature(self) -> None:
        unknown = {name: value for name, value in ELEMENT.items() if name != "sensor_c"}
        for why, reading, facts, shown in (
            ("bad", ELEMENT, {"bad": (0,)}, (0,)), ("good", ELEMENT, {"good": (0,)}, ()), ("says nothing", ELEMENT, {}, ()),
            ("another part's", {**ELEMENT, "of": "new"}, {"bad": (0,)}, ()), ("OL at no temperature", unknown, {"bad": (0,)}, (0,)),
            ("9 ohm at no temperature", {**unknown, "value": "9 ohm"}, {"bad": (0,)}, ()), ("of the sensor before", ELEMENT, {"bad": (0,), "fitted": 1}, ()),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertEqual(self.places("element-bad", reading, **facts), shown)
        self.assertEqual(self.places("element-bad", ELEMENT, {**ELEMENT, "value": "6 ohm"}, bad=(0,), good=(1,)), ())

    def test_an_element_is_confirmed_by_a_second_look_of_any_kind(self) -> None:
        full = {**SUPPLY, "black": "harness.heater_control", "value": "13.8 V"}
        half = [
            {**LAMP, "in_place_of": None, "black": "battery.negative"},
            {**LAMP, "in_place_of": None, "red": "battery.positive"},
        ]
        for why, more, confirmed in (
            ("nothing more", [], False), ("a second touch", [ELEMENT], True), ("a lamp across", [LAMP], True),
            ("a dark lamp across", [{**LAMP, "value": "off"}], False), ("a dim one", [{**LAMP, "value": "dim"}], False),
            ("lamps at both ends", half, True), ("a lamp at one end", half[:1], False), ("full volts across it", [full], True),
            ("no volts across it", [{**full, "value": "0.1 V"}], False), ("a twin", [{**ELEMENT, "of": "B1S2", "value": "6 ohm"}], True),
            ("a twin as open", [{**ELEMENT, "of": "B1S2"}], False), ("no current, cleared", [{**CURRENT, "value": "0 A", "codes_cleared": True}], True),
            ("no current, not commanded", [{**CURRENT, "value": "0 A"}], False), ("the feed into a meter", [SUPPLY], False),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertEqual(bool(self.places("element-confirmed", ELEMENT, *more, bad=(0,))), confirmed)

    def test_a_cell_is_bad_at_its_own_terminals_hot_and_confirmed(self) -> None:
        grounded = {"measure": "scan", "pid": "sensor_voltage", "key": "on", "with": "signal-grounded", "value": "0 V"}
        for why, readings, facts, shown in (
            ("one touch", [CURRENT, CELL], {"bad": (1,)}, False), ("two", [CURRENT, CELL, CELL], {"bad": (1,)}, True),
            ("other tips", [CURRENT, {**CELL, "checked": ["other-tips"]}], {"bad": (1,)}, True),
            ("wires tried", [CURRENT, CELL, grounded], {"bad": (1,), "good": (2,)}, True), ("wires not good", [CURRENT, CELL, grounded], {"bad": (1,)}, False),
            ("cold, for all that is known", [CELL, CELL], {"bad": (0, 1)}, False), ("good once", [CURRENT, CELL, CELL], {"bad": (1,), "good": (2,)}, False),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertEqual(bool(self.places("cell-apart", *readings, **facts)), shown)

    def test_honest_is_what_went_with_the_gas(self) -> None:
        rich, lean, cut = ({**VOLTS, "with": name} for name in ("rich", "lean", "fuel-cut"))
        twin = {**VOLTS, "of": "B2S1"}
        for why, readings, shown in (
            ("rich and lean differ", [{**rich, "value": "0.85 V"}, {**lean, "value": "0.1 V"}], True),
            ("flat in rich and in lean", [{**rich, "value": "0.1 V"}, {**lean, "value": "0.1 V"}], False),
            ("fuel cut moves it", [VOLTS, {**cut, "value": "0.05 V"}], True), ("stuck lean in fuel cut", [{**VOLTS, "value": "0.08 V"}, {**cut, "value": "0.06 V"}], False),
            ("one look", [{**rich, "value": "0.85 V"}], False), ("a span over a snap", [{**VOLTS, "with": "snap", "value": "0.1..0.85 V"}], True),
            ("its twin alike", [{**VOLTS, "value": "0.1..0.8 V"}, {**twin, "value": "0.15..0.75 V"}], True),
            ("its twin over a part of it", [{**VOLTS, "value": "0.02..0.2 V"}, {**twin, "value": "0.1..0.85 V"}], False),
            ("both dead", [{**VOLTS, "value": "0.45 V"}, {**twin, "value": "0.45 V"}], False),
            ("both rich when enriched", [{**rich, "value": "0.86 V"}, {**twin, "with": "rich", "value": "0.84 V"}], True),
            ("its twin otherwise", [{**VOLTS, "value": "0.1..0.15 V"}, {**twin, "value": "0.3..0.75 V"}], False),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertEqual(bool(self.places("honest", *readings)), shown)

    def test_a_good_part_decides_where_the_old_one_measured_bad_or_failed_again(self) -> None:
        works, own = (
            {**CURRENT, "of": "known-good", "codes_cleared": True},
            {**CURRENT, "value": "0 A", "codes_cleared": True},
        )
        for why, readings, bad, shown in (
            ("it works", [works], (), ()), ("the old one failed again", [works, own], (), (0, 1)), ("the old one failed before", [own, works], (), ()),
            ("the old one measured bad", [ELEMENT, works], (0,), (1, 0)), ("the old one measured", [ELEMENT, works], (), ()),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertEqual(self.places("trial", *readings, bad=bad), shown)

    def test_a_nox_units_feed_is_proven_by_its_own_current_or_a_large_lamp(self) -> None:
        loaded = {
            "measure": "voltage",
            "red": "harness.supply",
            "black": "harness.ground",
            "key": "running",
            "connector": "unplugged",
            "load": "lamp",
            "value": "27 V",
        }
        for why, reading, proven, shown in (
            ("21 W", {**loaded, "watts": 21}, ("supply",), True), ("5 W", {**loaded, "watts": 5}, ("supply",), False),
            ("21 W, not proven", {**loaded, "watts": 21}, (), False), ("messages", {**NOX, "pid": "can_messages", "value": "present"}, ("supply",), False),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertEqual(bool(self.places("nox-fed", reading, proven=proven)), shown)

    def test_a_spare_unit_is_read_as_the_old_one_was(self) -> None:
        silent, late = {**NOX, "pid": "can_messages", "value": "absent"}, {**NOX, "at_s": 700, "value": "not-stable"}
        for why, own, good, shown in (
            ("heard on this plug", silent, {**silent, "of": "known-good", "value": "present"}, True),
            ("valid where this one is not", late, {**late, "of": "known-good", "value": "valid"}, True),
            ("read too early", late, {**NOX, "of": "known-good"}, False), ("in other air", late, {**late, "of": "known-good", "with": "fresh-air"}, False),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertEqual(bool(self.places("nox-spare", own, good, bad=(0,))), shown)

    def test_what_was_bad_has_to_read_good_again_before_nothing_is_at_fault(self) -> None:
        zero = {**CURRENT, "value": "0 A"}
        for why, readings, facts, shown in (
            ("all sound", [CURRENT, VOLTS], {}, True), ("bad once", [zero, VOLTS], {"bad": (0,)}, False),
            ("bad, then sound again", [zero, VOLTS, CURRENT], {"bad": (0,)}, True), ("sound, then bad", [CURRENT, zero], {"bad": (1,)}, False),
            ("bad before the repair", [zero, VOLTS], {"bad": (0,), "mended": 0}, True),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertEqual(bool(self.places("nothing-failed", *readings, **facts)), shown)

    def test_without_a_heater_ten_minutes_of_running_make_a_cell_hot(self) -> None:
        self.assertEqual(self.places("cell-hot", VOLTS, {**VOLTS, "at_s": 620}, heated=False), (1,))

    def test_full_volts_are_those_of_the_vehicle(self) -> None:
        across: dict[str, Any] = {**SUPPLY, "black": "harness.heater_control", "value": "13.8 V"}
        told: dict[str, Any] = {**CURRENT, "pid": "battery_voltage", "value": "13.8 V"}
        for system_v, full in ((12.0, True), (24.0, False)):
            counted = [(place, observed(**item)) for place, item in enumerate([ELEMENT, across, told])]
            ledger = Ledger(
                counted, True, frozenset(), log_ratio=lambda place, names: 5.0 if place == 0 else 0.0, system_v=system_v
            )
            self.assertEqual(bool(SEEN["element-confirmed"](ledger)), full)
            self.assertEqual(bool(SEEN["module-power"](ledger)), full)

    def test_a_body_seen_broken(self) -> None:
        for value, bad in (("broken", (0,)), ("wrong-part", (0,)), ("soot", ())):
            counted = [(0, observed(**_look("sensor", value)))]
            self.assertEqual(plainly_bad(Ledger(counted, True, frozenset())), bad, value)


class Feed(TestCase):
    """The stretch between the last good and the first bad point."""

    def test_between_the_points(self) -> None:
        at = {**SUPPLY, "value": "0.02 V"}
        good = {**SUPPLY, "value": "13.9 V"}
        rows: tuple[Any, ...] = (
            ("only the plug read", [at], None, ("battery.positive", "harness.heater_supply"), "relay-open fuse-blown wire-open:heater_supply", ""),
            ("fuse out good", [at, {**good, "red": "fuse.out"}], "relay-fuse", ("fuse.out", "harness.heater_supply"), "wire-open:heater_supply", "relay-open fuse-blown"),
            ("fuse out good, relay last", [at, {**good, "red": "fuse.out"}], "fuse-relay", ("fuse.out", "harness.heater_supply"), "relay-open", "fuse-blown"),
            ("order not known", [at, {**good, "red": "fuse.out"}], None, ("fuse.out", "harness.heater_supply"), "relay-open wire-open:heater_supply", "fuse-blown"),
            ("main fuse good, relay bad", [{**at, "red": "relay.in"}, {**LAMP, "value": "bright", "red": "main_fuse.out", "black": "chassis"}], "relay-fuse", ("main_fuse.out", "relay.in"), "supply-open supply-high", "relay-open fuse-blown wire-open:heater_supply"),
            ("fuse in good, out bad", [{**at, "red": "fuse.out"}, {**good, "red": "fuse.in"}], "relay-fuse", ("fuse.in", "fuse.out"), "fuse-blown", "relay-open wire-open:heater_supply"),
        )  # fmt: skip
        for why, readings, order, points, includes, excludes in rows:
            with self.subTest(why):
                found = stretch([(0, observed(**item)) for item in readings[:1]] + [(n, observed(**item)) for n, item in enumerate(readings[1:], 1)],
                                paths(order, "heater_supply"), 14.0)  # fmt: skip
                assert found is not None
                self.assertEqual((found.last_good, found.first_bad), points)
                self.assertLessEqual(set(includes.split()), set(found.faults))
                self.assertFalse(set(excludes.split()) & set(found.faults))
        self.assertIsNone(stretch([(0, observed(**good))], paths(None, "heater_supply"), 14.0))

    def test_a_dead_feed_is_decided_as_one_stretch_and_divided_next(self) -> None:
        found = steady(BATTERY, {**SUPPLY, "value": "0.02 V"})
        self.assertEqual(
            (found.decision, found.components, found.between),
            ("repair-feed", ("feed",), ("battery.positive", "harness.heater_supply")),
        )
        self.assertGreaterEqual(
            {"fuse-blown", "relay-open", "wire-open:heater_supply"} & set(found.found_one_of),
            {"fuse-blown", "relay-open"},
        )
        assert found.next is not None
        self.assertIn(getattr(found.next.reading, "red", ""), ("relay.in", "relay.out", "fuse.in", "fuse.out"))
        divided = steady(
            BATTERY,
            {**SUPPLY, "value": "0.02 V"},
            {**SUPPLY, "red": "fuse.in"},
            {**SUPPLY, "red": "fuse.out", "value": "0 V"},
        )
        self.assertEqual(divided.between or ("fuse.in", "fuse.out"), ("fuse.in", "fuse.out"))


class Rule(TestCase):
    """Certain, shown, besides."""

    def test_a_sensor_is_named_once_its_element_was_measured_and_confirmed(self) -> None:
        for why, readings, decision in (
            ("a lamp across the loom, then the element", [LAMP, ELEMENT], "replace-sensor"), ("all of it", OPEN_ELEMENT, "replace-sensor"),
            ("one touch", [ELEMENT], "keep-testing"), ("one touch and an unloaded feed", [BATTERY, SUPPLY, ELEMENT], "keep-testing"),
            ("never measured by itself", [item for item in OPEN_ELEMENT if item is not ELEMENT], "keep-testing"),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertEqual(steady(*readings).decision, decision)

    def test_element_or_pin_is_told_apart_by_the_element_then_by_the_pins(self) -> None:
        none, good = {**CURRENT, "value": "0 A", "codes_cleared": True}, {**ELEMENT, "value": "6.1 ohm"}
        apart = steady(LAMP, none)
        assert apart.next is not None
        self.assertEqual(
            (apart.decision, getattr(apart.next.reading, "red", "")), ("keep-testing", "sensor.heater_supply")
        )
        joint = steady(LAMP, none, good)
        self.assertEqual((joint.decision, set(joint.found_one_of)),
                         ("repair-wiring", {"pin-open:heater_supply", "pin-open:heater_control"}))  # fmt: skip
        fed_only = {**LAMP, "in_place_of": None, "black": "battery.negative"}
        self.assertEqual(steady(fed_only, none, good).decision, "keep-testing")

    def test_three_jobs_that_must_not_condemn(self) -> None:
        none = {**CURRENT, "value": "0 A", "codes_cleared": True}
        unit = {"family": "nox-can-4w", "bank": 1, "position": 2}
        heavy = {"label": "Plough 1", "system_voltage": 24, "fuel": "diesel"}
        small = {
            "measure": "lamp",
            "red": "harness.supply",
            "black": "harness.ground",
            "key": "running",
            "connector": "unplugged",
            "watts": 5,
            "value": "bright",
        }
        silent = {**NOX, "pid": "can_messages", "value": "absent"}
        for why, found in (
            ("a spread pin behind a plug that looks fine", steady(BATTERY, LAMP, none, LOOKED)),
            ("one touch of 0.00 V at a cell", steady(CURRENT, {**CELL, "value": "0.00 V"}, code="P0136")),
            ("six ohms of rust under a 5 W lamp", diagnose(case(small, silent, code="P2202", sensor=unit, vehicle=heavy))),
            ("three looks at a screen", diagnose(case({**silent, "value": "present"}, {**NOX, "at_s": 1500, "value": "not-stable"},
                                                      {**NOX, "pid": "nox", "at_s": 1500, "value": "n/a"}, code="P229F", sensor=unit, vehicle=heavy))),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertNotIn("sensor", found.components)

    def test_two_looks_at_nothing_with_the_same_leads_tell_little_more_than_one(self) -> None:
        def chance(*readings: dict[str, Any]) -> float:
            return steady(*readings).by_component["sensor"]

        wire = {**CONTROL_WIRE}
        once, twice = chance(BATTERY, wire), chance(BATTERY, wire, {**wire, "note": "again"})
        checked = chance(BATTERY, wire, {**wire, "checked": ["leads-shorted"]})
        self.assertLess(abs(twice - once), 0.02)
        self.assertLessEqual(checked, twice)

    def test_before_fitting_lists_what_is_not_proven_with_what_would_withdraw_it(self) -> None:
        loaded, twice = steady(LAMP, ELEMENT), steady(ELEMENT, ELEMENT)
        self.assertEqual([item.parts for item in loaded.before_fitting], [()])
        self.assertEqual(twice.before_fitting[0].parts, ("supply", "control"))
        self.assertEqual(getattr(twice.before_fitting[0].read, "in_place_of", None), "heater")
        self.assertTrue(all(item.withdraws and item.expect and item.why for item in twice.before_fitting))
        dark = steady(ELEMENT, ELEMENT, {**LAMP, "value": "off"})
        self.assertNotIn(("supply", "control"), [item.parts for item in dark.before_fitting])
        assert dark.nothing_else is not None and dark.next is not None
        self.assertLess(dark.nothing_else, 0.5)

    def test_the_checklist_says_which_reading_met_it(self) -> None:
        found = steady(*OPEN_ELEMENT)
        self.assertEqual(rows(found, "wanted"), [])
        element = next(item for item in found.gate if item.asks.startswith("the element measured by itself"))
        self.assertEqual((element.by, element.says), ((2,), "Met by reading 3."))
        self.assertEqual(len(rows(steady(BATTERY, SUPPLY, ELEMENT), "wanted")), 1)

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
        alone = steady(*fuse)
        self.assertEqual((alone.decision, alone.components), ("replace-sensor", ("sensor",)))
        both = steady(*fuse, FEED)
        self.assertEqual((both.decision, both.components), ("repair-several", ("sensor", "supply")))

    def test_a_decision_leaves_open_which_of_two_faults_of_a_component_it_is(self) -> None:
        readings: list[dict[str, Any]] = [BATTERY, {**ELEMENT, "value": "5.6 ohm"}, LAMP, {**CURRENT, "value": "0 A", "codes_cleared": True},
                    {"measure": "current", "at": "harness.heater_supply", "key": "running", "connector": "mated", "codes_cleared": True, "value": "0 A"},
                    _look("connector", "corroded")]  # fmt: skip
        found = steady(*readings)
        self.assertEqual((found.decision, found.found), ("repair-wiring", ()))
        self.assertEqual(set(found.found_one_of), {"pin-open:heater_supply", "pin-open:heater_control"})

    def test_no_fault_is_found_only_once_the_code_stays_away(self) -> None:
        good: list[dict[str, Any]] = [BATTERY, SUPPLY, {**ELEMENT, "value": "5.8 ohm"}, LAMP, {**CURRENT, "codes_cleared": True, "at_s": 120}, CURRENT, LOOKED,
                {**CURRENT, "pid": "heater_monitor", "value": "complete"}]  # fmt: skip
        self.assertEqual(steady(*good).decision, "keep-testing")
        found = steady(*good, CLEARED)
        self.assertEqual((found.decision, found.components), ("no-fault-now", ()))

    def test_of_several_what_is_certain_is_at_its_threshold(self) -> None:
        diagnosis = Diagnosis(job_of(case(*OPEN_ELEMENT, sensor=STEADY)))
        held = diagnosis.weighed.held
        for component, chance in held.by_component.items():
            self.assertEqual(component in held.certain, chance >= held.threshold(component))
