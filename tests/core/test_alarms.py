"""Alarms that are right: none over what a repair, a swap, an old part, another sensor or a heater at work explains."""

from typing import Any
from unittest import TestCase

from dianoia.diagnosis.verdict.diagnose import diagnose
from dianoia.diagnosis.verdict.types import Verdict
from tests.cases import BATTERY, ELEMENT, STEADY, SUPPLY, case

SOUND = {**ELEMENT, "value": "6 ohm"}
CONTROL = {"measure": "voltage", "red": "harness.heater_control", "black": "battery.negative", "key": "running", "connector": "mated", "value": "13.6 V"}  # fmt: skip
ACROSS = {**CONTROL, "red": "harness.heater_supply", "black": "harness.heater_control", "value": "12.3 V"}
CURRENT = {"measure": "scan", "pid": "heater_current", "key": "running", "value": "0.9 A"}
DEAD = {**SUPPLY, "value": "0 V"}


def act(action: str, value: str = "done", **more: str) -> dict[str, Any]:
    """Something done."""
    return {"measure": "act", "action": action, "value": value, **more}


def verdict(*readings: dict[str, Any]) -> Verdict:
    """Of a steady low-side heater of 4 to 7.5 ohm in bank 1, position 1."""
    return diagnose(case(*readings, sensor={**STEADY, "bank": 1, "position": 1}))


class Alarms(TestCase):
    """What is warned of, and at which readings."""

    def test_readings_contradict_only_where_nothing_that_was_done_explains_them(self) -> None:
        for why, readings, places in (
            ("two values of one element", (SOUND, {**SOUND, "value": "6.1 ohm"}, BATTERY, ELEMENT), [3]),
            ("a new sensor", (ELEMENT, act("replace-sensor"), CURRENT), []),
            ("the old one on the bench", (ELEMENT, act("replace-sensor"), SOUND, {**ELEMENT, "of": "old"}), []),
            ("a mended wire", (DEAD, act("repair-wiring"), SUPPLY), []),
            ("a new fuse", (DEAD, act("replace-fuse"), SUPPLY), []),
            ("a sensor that was swapped in", (ELEMENT, act("swap-sensors", "code-moved"), SOUND), []),
            ("the swapped one, over there", (ELEMENT, act("swap-sensors", "code-moved"), {**ELEMENT, "of": "B2S1"}), []),
            ("another sensor with a fault of its own", (SOUND, CURRENT, {**ELEMENT, "of": "B2S1"}), []),
        ):  # fmt: skip
            found = [
                item.reading for item in verdict(BATTERY, *readings).warnings if item.warning == "readings-contradict"
            ]
            self.assertEqual(found, [place + 1 for place in places], why)

    def test_a_heater_that_is_driven_is_not_latched_off(self) -> None:
        for why, reading, latched in (
            ("battery on the control wire", CONTROL, True), ("most of the battery across it", ACROSS, False),
            ("nothing across it", {**ACROSS, "value": "0 V"}, True), ("its current", CURRENT, False),
        ):  # fmt: skip
            found = [item.warning for item in verdict(BATTERY, ELEMENT, reading).warnings]
            self.assertEqual("heater-latched-off" in found, latched, why)

    def test_what_many_sound_circuits_show_is_not_judged_failed(self) -> None:
        """A module that sees the plug apart may well not drive: a lamp that stays dark there tells little, codes cleared a lot."""
        lamp = {
            "measure": "lamp",
            "red": "battery.positive",
            "black": "harness.heater_control",
            "key": "running",
            "connector": "unplugged",
            "value": "off",
        }
        for reading, result in (
            (lamp, "unclear"),
            ({**lamp, "codes_cleared": True}, "fail"),
            ({**lamp, "value": "bright"}, "pass"),
        ):
            self.assertEqual(verdict(BATTERY, reading).judged[1].result, result, reading)


class Swapped(TestCase):
    """After a swap the evidence follows the part."""

    def test_the_bad_part_is_found_where_it_sits_now(self) -> None:
        for why, readings, least, most, at in (
            ("the good one reads well here", (SOUND,), 0.9, 1.0, "B2S1"),
            ("the bad one reads badly there", ({**ELEMENT, "of": "B2S1"},), 0.9, 1.0, "B2S1"),
            ("the bad one reads well there", ({**SOUND, "of": "B2S1"}, {**SOUND, "of": "B2S1", "value": "6.1 ohm"}), 0.0, 0.5, "B2S1"),
            ("swapped back it is here again", (act("swap-sensors", "code-moved"), ELEMENT), 0.9, 1.0, None),
        ):  # fmt: skip
            found = verdict(BATTERY, act("swap-sensors", "code-moved"), *readings)
            chance = found.by_component["sensor"]
            self.assertTrue(least <= chance <= most, f"{why} {chance}")
            self.assertEqual(found.at, at, why)
