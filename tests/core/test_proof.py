"""A row of the proof is met by the reading it asks for and by no other."""

from typing import Any, ClassVar
from unittest import TestCase

from dianoia.answer.answer import Answer, answer
from dianoia.case.load import case_from_plain, to_plain
from dianoia.repair.plain import driver_words
from tests.cases import (
    BATTERY,
    ELEMENT,
    LAMP,
    LOADED,
    LOOKED,
    NOT_GROUNDED,
    OPEN_ELEMENT,
    STEADY,
    SUPPLY,
    case,
    plain_case,
)  # fmt: skip

REPLACED = {"measure": "act", "action": "replace-sensor", "value": "done"}
MOVED = {"measure": "act", "action": "wiggle", "at": "harness.heater_supply", "key": "running", "value": "no-change"}
WIRED = {"measure": "act", "action": "repair-wiring", "value": "done"}
FUSED = {"measure": "act", "action": "replace-fuse", "value": "done"}
SOUND = {**ELEMENT, "value": "6.2 ohm"}
AMPS = {"measure": "scan", "pid": "heater_current", "key": "running", "value": "0.9 A"}
LATER = {**AMPS, "at_s": 300}
VOLTS = {"measure": "scan", "pid": "sensor_voltage", "key": "running"}
SNAP = {**VOLTS, "with": "snap", "value": "0.85 V"}
STAYED = {"measure": "act", "action": "clear-codes", "value": "not-returned"}
MONITOR = {"measure": "scan", "pid": "heater_monitor", "key": "running", "value": "complete"}
MELTED = {"measure": "inspect", "target": "harness", "value": "melted"}
BROKEN_WIRE: list[dict[str, Any]] = [
    BATTERY, {**SUPPLY, "red": "harness.heater_control"},
    {**ELEMENT, "red": "harness.heater_control", "black": "module.heater_control", "module_connector": "unplugged"},
    {**SOUND}, MELTED,
]  # fmt: skip
UNIT = {"family": "nox-can-4w", "bank": 1, "position": 2}
AIR = {"measure": "scan", "pid": "nox", "key": "running", "with": "fresh-air", "at_s": 900}
DRIFTED: list[dict[str, Any]] = [{**AIR, "value": "180 ppm"}]


def proof(*readings: dict[str, Any], **fields: Any) -> Answer:
    return answer(case_from_plain(plain_case(*readings, **{"sensor": STEADY, **fields})))


def met(found: Answer) -> set[str]:
    """What has been shown, by the kind of its row; of those taken again, by what was read."""
    return {f"{item.kind} {item.read.measure}" for item in found.repair.proof if item.by is not None}


class NearMisses(TestCase):
    """For every kind of row: the reading that meets it, and some that nearly do."""

    #: kind of row -> (what came before and the act, the reading that meets it, near misses with their reasons)
    ROWS: ClassVar[dict[str, tuple[list[dict[str, Any]], dict[str, Any], dict[str, dict[str, Any]]]]] = {
        "again resistance": ([*OPEN_ELEMENT, REPLACED], SOUND, {
            "outside its range": {**SOUND, "value": "9.4 ohm"},
            "at a temperature that nobody said": {k: v for k, v in SOUND.items() if k != "sensor_c"},
            "of another sensor": {**SOUND, "of": "B1S2"},
            "at other points": {**SOUND, "red": "sensor.signal", "value": "6.2 ohm"},
        }),
        "again voltage": ([BATTERY, {**SUPPLY, "value": "0.02 V"}, ELEMENT, WIRED], SUPPLY, {
            "key on instead of running": {**SUPPLY, "key": "on", "value": "12.5 V"},
            "plug apart instead of mated": {**SUPPLY, "connector": "unplugged", "value": "13.9 V"},
            "low": {**SUPPLY, "value": "9.1 V"},
            "at the control wire": {**SUPPLY, "red": "harness.heater_control"},
        }),
        "again inspect": ([*BROKEN_WIRE, WIRED], {**MELTED, "value": "ok"}, {
            "still melted": MELTED,
            "only chafed": {**MELTED, "value": "chafed"},
            "another place": {**MELTED, "target": "connector", "value": "ok"},
            "struck out": {**MELTED, "value": "ok", "struck": "the other vehicle"},
        }),
        "moved act": ([LAMP, {**MOVED, "value": "changed"}, WIRED], MOVED, {
            "it still changes": {**MOVED, "value": "changed"},
            "moved elsewhere": {**MOVED, "at": "harness.heater_control"},
            "the whole loom": {name: value for name, value in MOVED.items() if name != "at"},
            "struck out": {**MOVED, "struck": "the other vehicle"},
        }),
        "heater-current scan": ([*OPEN_ELEMENT, REPLACED], AMPS, {
            "none": {**AMPS, "value": "0 A"},
            "at key on": {**AMPS, "key": "on"},
            "of the twin": {**AMPS, "of": "B1S2"},
            "the command instead": {**AMPS, "pid": "heater_command", "value": "on"},
        }),
        "minutes-later scan": ([*OPEN_ELEMENT, REPLACED], LATER, {
            "at once": {**AMPS, "at_s": 20},
            "at a time that nobody said": AMPS,
            "gone by then": {**LATER, "value": "0.01 A"},
            "of the twin": {**LATER, "of": "B1S2"},
        }),
        "response scan": ([*OPEN_ELEMENT, REPLACED], SNAP, {
            "without a snap": {**VOLTS, "value": "0.85 V"},
            "lean instead": {**VOLTS, "with": "lean", "value": "0.1 V"},
            "a snap that nothing answered": {**SNAP, "value": "0.2 V"},
            "codes that stayed away": STAYED,
        }),
        "codes act": ([*OPEN_ELEMENT, REPLACED], STAYED, {
            "back at once": {**STAYED, "value": "returned-at-once"},
            "back later": {**STAYED, "value": "returned-later"},
            "another act": {"measure": "act", "action": "wiggle", "at": "harness.heater_supply", "value": "no-change"},
            "struck out": {**STAYED, "struck": "the other vehicle"},
        }),
        "monitor scan": ([*OPEN_ELEMENT, REPLACED], MONITOR, {
            "not yet": {**MONITOR, "value": "incomplete"},
            "codes that stayed away": STAYED,
            "struck out": {**MONITOR, "struck": "the other vehicle"},
            "the loop instead": {**MONITOR, "pid": "loop", "value": "closed"},
        }),
    }  # fmt: skip

    def test_only_the_reading_that_is_asked_for_meets_a_row(self) -> None:
        for row, (before, meets, misses) in self.ROWS.items():
            with self.subTest(row):
                self.assertIn(row, met(proof(*before, meets)))
                self.assertNotIn(row, met(proof(before[0], meets, *before[1:])), "taken before the repair")
            for why, miss in misses.items():
                with self.subTest(f"{row}: {why}"):
                    self.assertNotIn(row, met(proof(*before, miss)))

    def test_fresh_air_is_shown_by_fresh_air(self) -> None:
        before = [*DRIFTED, REPLACED]
        for why, reading, shown in (
            ("in fresh air", {**AIR, "value": "1 ppm"}, True),
            ("with dosing on", {**AIR, "with": "dosing-on", "value": "38 ppm"}, False),
            ("fresh air, too much", {**AIR, "value": "38 ppm"}, False),
            ("too early to be valid", {**AIR, "at_s": 30, "value": "1 ppm"}, False),
        ):
            with self.subTest(why):
                found = proof(*before, reading, code="P229F", sensor=UNIT)
                self.assertEqual("again scan" in met(found), shown)

    def test_a_lamp_is_shown_by_as_large_a_lamp(self) -> None:
        dark = {**LAMP, "value": "off"}
        for why, watts, shown in (("the same", 21, True), ("larger", 35, True), ("smaller", 5, False)):
            with self.subTest(why):
                found = proof(BATTERY, dark, WIRED, {**LAMP, "watts": watts})
                self.assertEqual("again lamp" in met(found), shown)

    def test_what_is_ticked_lies_inside_the_range_beside_it(self) -> None:
        """An instrument's allowance makes a reading good, not proof."""
        for volts in (13.2, 13.3, 13.4, 13.5, 13.55, 13.6, 13.7, 13.9, 14.0, 14.1, 14.3):
            found = proof(BATTERY, {**SUPPLY, "value": "0.02 V"}, WIRED, {**SUPPLY, "value": f"{volts} V"})
            for item in found.repair.proof:
                if item.by == 3:
                    low, high = found.judged[3].low, found.judged[3].high
                    assert low is not None and high is not None
                    self.assertTrue(low * 0.995 <= volts <= high * 1.005, (volts, item.expect))
                    self.assertEqual(item.expect, found.judged[3].expected)


class Stays(TestCase):
    """What was shown stays shown until an act or a bad reading undoes it."""

    def test_only_an_act_that_could_change_it_undoes_a_row(self) -> None:
        feed = [BATTERY, {**LOADED, "value": "2 V"}, WIRED, LOADED]
        for why, readings, shown in (
            ("met", feed, True),
            ("the sensor was replaced after it", [*feed, REPLACED], True),
            ("the wiring was touched again", [*feed, WIRED], False),
            ("an unclear one after it", [*feed, {**LOADED, "value": "13.55 V"}], True),
            ("a bad one after it", [*feed, {**LOADED, "value": "4 V"}], False),
        ):
            with self.subTest(why):
                self.assertEqual("again voltage" in met(proof(*readings)), shown)

    def test_the_new_parts_ohms_out_of_the_box_count_where_the_temperature_is_known(self) -> None:
        boxed = {**SOUND, "of": "new"}
        unknown = {name: value for name, value in boxed.items() if name != "sensor_c"}
        for why, readings, shown in (
            ("read before it was fitted", [*OPEN_ELEMENT, boxed, REPLACED], True),
            ("read after it was noted", [*OPEN_ELEMENT, REPLACED, boxed], True),
            ("at no temperature", [*OPEN_ELEMENT, unknown, REPLACED], False),
            ("of another fitting", [*OPEN_ELEMENT, boxed, REPLACED, BATTERY, REPLACED], False),
        ):
            with self.subTest(why):
                self.assertEqual("again resistance" in met(proof(*readings)), shown)

    def test_the_reading_that_is_laid_out_carries_a_temperature(self) -> None:
        cold = {name: value for name, value in ELEMENT.items() if name != "sensor_c"}
        found = proof(BATTERY, SUPPLY, cold, LAMP, LOADED, NOT_GROUNDED, LOOKED, REPLACED)
        (again,) = (item for item in found.repair.proof if item.before == 2)
        self.assertEqual(again.read.sensor_c, 20.0)

    def test_what_was_just_fitted_is_not_looked_at_again(self) -> None:
        blown = {"measure": "inspect", "target": "fuse", "value": "blown"}
        found = proof(BATTERY, blown, WIRED, FUSED)
        self.assertNotIn("fuse", [getattr(item.read, "target", "") for item in found.repair.proof])

    def test_no_two_rows_say_the_same(self) -> None:
        for before in (OPEN_ELEMENT, [BATTERY, {**SUPPLY, "value": "0 V"}, {**SUPPLY, "key": "on", "value": "0 V"}]):
            said = [item.what for item in proof(*before, WIRED).repair.proof]
            self.assertEqual(len(said), len(set(said)), said)


class Record(TestCase):
    """What was decided stays on the record."""

    def test_the_decision_that_was_acted_on_is_kept_with_its_readings(self) -> None:
        (kept,) = proof(*OPEN_ELEMENT, {**BATTERY, "struck": "twice"}, REPLACED, SOUND).repair.decided
        self.assertEqual((kept.decision, kept.components, kept.acts), ("replace-sensor", ("sensor",), (8,)))
        self.assertEqual((kept.readings, kept.reading), (7, 6))
        self.assertIn("element is open", " ".join(kept.because))
        self.assertEqual(proof(BATTERY, REPLACED).repair.decided, ())

    def test_the_old_part_counts_as_the_sensors_own_until_it_is_replaced(self) -> None:
        out = {**ELEMENT, "of": "old"}
        same = [out if item is ELEMENT else item for item in OPEN_ELEMENT]
        found = proof(*same, REPLACED)
        self.assertEqual(proof(*same).decision, "replace-sensor")
        self.assertFalse(found.repair.done[0].early)
        self.assertNotEqual(proof(*OPEN_ELEMENT, REPLACED, SOUND, AMPS, LATER, out).decision, "replace-sensor")

    def test_a_new_part_read_good_before_it_is_fitted_withdraws_nothing(self) -> None:
        for new in ({**SOUND, "of": "new"}, {**AMPS, "of": "new"}, {**SNAP, "of": "new"}):
            self.assertEqual(proof(*OPEN_ELEMENT, new).decision, "replace-sensor", new)

    def test_what_is_told_before_it_leaves_names_sensors_and_codes_rightly(self) -> None:
        flat = {**VOLTS, "of": "B2S1", "moves": "steady", "value": "0.02 V", "at_s": 600}
        done = proof(*OPEN_ELEMENT, flat, REPLACED).repair
        self.assertEqual(done.done[0].says, "Sensor B2S2 replaced")
        self.assertIn("Sensor B2S1 does not read as it should, either.", " ".join(item.says for item in done.may_come))
        own = answer(case(REPLACED, code="P1135", sensor={**STEADY, "bank": 1, "position": 1})).repair
        self.assertNotIn("P1135 was not worked on.", [item.says for item in own.may_come])
        beside = case_from_plain(
            {**plain_case(*OPEN_ELEMENT, REPLACED), "codes": [{"code": "P0057"}, {"code": "P0440"}]}
        )
        self.assertIn("P0440 was not worked on.", [item.says for item in answer(beside).repair.may_come])

    def test_a_job_closed_as_proven_stays_so(self) -> None:
        closed = {"by": "Ana", "at": "2026-11-24T10:00:00Z", "readings": 8}
        self.assertEqual(proof(*OPEN_ELEMENT, REPLACED, closed=closed).repair.state, "proven")
        self.assertEqual(proof(*OPEN_ELEMENT, REPLACED, SOUND, closed=closed).repair.state, "done")

    def test_a_driver_reads_no_abbreviations(self) -> None:
        self.assertEqual(
            [driver_words(text) for text in ("OL", "n/a", "over 3 kohm")], ["no connection", "no value", "over 3 kohm"]
        )


class Written(TestCase):
    """The rows as they are written out."""

    def test_the_reading_of_each_row_can_be_stored_as_it_is_laid_out(self) -> None:
        for item in proof(*OPEN_ELEMENT, REPLACED).repair.proof:
            self.assertIn("measure", to_plain(item.read))
