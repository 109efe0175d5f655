"""A reading parsed once, at the door: its figures, what it is held against, and what makes two readings the same."""

from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from dianoia.case.job import job_of
from dianoia.case.measures.current import CurrentProbe
from dianoia.case.measures.lamp import LampProbe
from dianoia.case.observed import Observed
from dianoia.families.tables import families
from dianoia.quantities.types import Quantity
from tests.cases import ELEMENT, LAMP, STEADY, SUPPLY, case, observed
from tests.strategies import ledgers

SIGNAL = {**SUPPLY, "red": "harness.signal"}
SCAN = {"measure": "scan", "pid": "sensor_voltage", "key": "running"}
TRACE = {"measure": "trace", "signal": "sensor_voltage", "key": "running"}
SCOPE = {**SUPPLY, "measure": "scope"}
LOOK = {"measure": "inspect", "target": "pins", "value": "loose"}
DID = {"measure": "act", "action": "clear-codes", "value": "returned-later"}


def figures(item: Observed) -> dict[str, Any]:
    return {name: shown.value if isinstance(shown, Quantity) else shown for name, shown in item.figures}


class Figures(TestCase):
    """Text becomes numbers in the base unit, or words, by the kind of reading."""

    def test_every_kind(self) -> None:
        for why, taken, wanted, says in (
            ("volts", {**SUPPLY, "value": "450mV"}, {"value": 0.45}, "0.45 V"),
            ("ohms", {**ELEMENT, "value": "18.6k"}, {"value": 18600.0}, "18.6 kohm"),
            ("over limit", ELEMENT, {"value": float("inf")}, "OL"),
            ("a lamp", LAMP, {"value": "bright"}, "bright"),
            ("amperes", {"measure": "current", "at": "fuse.in", "key": "on", "value": "0,74"}, {"value": 0.74}, "0.74 A"),
            ("a span of a wire", {**SIGNAL, "value": "0.85..0.1 V"}, {"min": 0.1, "max": 0.85}, "0.1 to 0.85 V"),
            ("a span on the tool", {**SCAN, "value": "0.1 to 0.85", "moves": "switching"}, {"min": 0.1, "max": 0.85},
             "0.1 to 0.85 V, switching"),
            ("a trim in percent", {**SCAN, "pid": "long_trim", "value": "-12 %"}, {"value": -0.12}, "-12 %"),
            ("milliamperes", {**SCAN, "pid": "cell_current", "value": "0.4"}, {"value": 0.0004}, "0.4 mA"),
            ("a word of the tool", {**SCAN, "pid": "loop", "value": " Closed "}, {"value": "closed"}, "closed"),
            ("no value", {**SCAN, "pid": "nox", "value": "N/A"}, {"value": "n/a"}, "n/a"),
            ("a command as a share", {**SCAN, "pid": "heater_command", "value": "62 %"}, {"value": 0.62}, "62 %"),
            ("a command as a word", {**SCAN, "pid": "heater_command", "value": "Off"}, {"value": "off"}, "off"),
            ("a scope", {**SCOPE, "value": {"high": "13.8", "duty_low": "60"}}, {"high": 13.8, "duty_low": 0.6}, "high 13.8 V, duty low 60 %"),
            ("a recording", {**TRACE, "value": {"max": "0.8", "rise_s": 0.1, "switches_per_min": 40}},
             {"max": 0.8, "rise_s": 0.1, "switches_per_min": 40.0}, "max 0.8 V, switches per min 40, rise s 0.1 s"),
            ("a look", LOOK, {"value": "loose"}, "loose"), ("an act", DID, {"value": "returned-later"}, "returned-later"),
        ):  # fmt: skip
            with self.subTest(why):
                item = observed(**taken)
                self.assertEqual(
                    {
                        name: round(shown, 9) if isinstance(shown, float) else shown
                        for name, shown in figures(item).items()
                    },
                    wanted,
                )
                self.assertEqual(item.said, says)

    def test_a_heater_is_said_to_be_commanded(self) -> None:
        for value, commanded in (("on", True), ("62 %", True), ("1 %", False), ("off", False)):
            self.assertEqual(
                observed(**{**SCAN, "pid": "heater_command", "value": value}).says_commanded, commanded, value
            )
        self.assertFalse(observed(**{**SCAN, "value": "0.8"}).says_commanded)


class Sameness(TestCase):
    """What two probes have in common."""

    def test_what_is_asked_and_what_is_shown(self) -> None:
        probe = observed(**SUPPLY).probe
        for why, changed, asks, shows in (
            ("the value", {"value": "2"}, True, True), ("the connector said or not", {"connector": None}, True, True),
            ("the key", {"key": "on"}, True, False), ("the plug", {"connector": "unplugged"}, True, False),
            ("the other lead", {"black": "chassis"}, False, False), ("a load", {"load": "lamp"}, False, False),
            ("another part", {"of": "new"}, False, False), ("a bridge", {"jumper": ["chassis", "battery.negative"]}, False, False),
        ):  # fmt: skip
            with self.subTest(why):
                other = observed(**{**SUPPLY, **changed}).probe
                self.assertEqual((probe.asks == other.asks, probe.shows == other.shows), (asks, shows))
        small, large = (observed(**{**LAMP, "watts": watts}).probe for watts in (5, 21))
        self.assertEqual((small.asks == large.asks, small.shows == large.shows), (True, False))

    def test_what_stands_where_nothing_is_said(self) -> None:
        self.assertEqual(observed(**{**ELEMENT, "connector": None}).probe.setting.connector, "unplugged")
        self.assertEqual(observed(**{**SCAN, "value": "0.4"}).probe.setting.connector, "mated")
        grounded = observed(**{**SIGNAL, "with": ["rich", "signal-grounded"]}).probe.setting
        self.assertEqual((grounded.jumpers, grounded.fed_v), ((("harness.signal", "battery.negative"),), None))

    def test_a_pin_number_a_clamp_and_a_lamp_in_the_heaters_place_become_points(self) -> None:
        pins = {**STEADY, "pins": {"3": {"terminal": "signal"}}}
        job = job_of(case({**SIGNAL, "red": "harness.3"}, {"measure": "current", "at": "sensor.3", "key": "on", "connector": "mated", "value": "0"},
                          {**LAMP, "red": "", "black": "", "connector": None}, sensor=pins))  # fmt: skip
        wire, clamp, lamp = job.readings
        self.assertEqual(wire.probe.points, ("harness.signal", "battery.negative"))
        assert isinstance(clamp.probe, CurrentProbe) and isinstance(lamp.probe, LampProbe)
        self.assertEqual(
            (clamp.probe.at, lamp.probe.points), ("harness.signal", ("harness.heater_supply", "harness.heater_control"))
        )
        self.assertEqual(lamp.probe.connector, "unplugged")

    @given(st.data())
    def test_parsing_is_the_same_each_time_and_can_be_looked_up(self, data: st.DataObject) -> None:
        family = families()["switching-4w"]
        taken = data.draw(ledgers(family))
        once, again = (job_of(case(*taken, code="P0130", sensor={"family": family.id})).readings for _ in range(2))
        self.assertEqual(once, again)
        self.assertEqual({item: place for place, item in enumerate(once)}[again[-1]], len(once) - 1)
