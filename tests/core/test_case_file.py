"""The case file: what it refuses, naming the field, and that it survives a round trip."""

import json
from unittest import TestCase

from dianoia.case.job import job_of
from dianoia.case.load import case_from_json, case_from_plain, to_plain
from dianoia.diagnosis.verdict.check import check
from dianoia.errors import RefusedInput
from tests.cases import ELEMENT, LAMP, SUPPLY, case, plain_case

SPEC = {**{name: ELEMENT[name] for name in ELEMENT if name != "value"}, "range": ["4", "7"], "source": "the manual"}
SCAN = {"measure": "scan", "key": "running"}
TRACE = {"measure": "trace", "signal": "sensor_voltage", "key": "running"}
SIGNAL = {**SUPPLY, "red": "harness.signal", "value": "0.45 V"}
IN_PLACE = {"measure": "lamp", "in_place_of": "heater", "key": "running", "connector": "unplugged", "value": "bright"}
FITTED = {"measure": "act", "action": "replace-sensor", "value": "done"}
#: What the format takes besides, each as a person would write it.
TAKEN = [
    ("complaint", plain_case(complaint="Shakes when cold, lamp since Tuesday")),
    ("span on a signal wire", plain_case({**SIGNAL, "value": "0.1-0.85 V", "moves": "switching"})),
    ("span at a pin", plain_case({**SIGNAL, "red": "harness.3", "value": "0.1 to 0.85"},
     sensor={"pins": {"3": {"terminal": "signal"}}})),
    ("span of a trim", plain_case({**SCAN, "pid": "short_trim", "value": "-9..9 %", "moves": "switching"})),
    ("fed", plain_case({**SIGNAL, "with": "signal-fed", "fed_v": 0.6})),
    ("others off the feed", plain_case({**ELEMENT, "others": "unplugged"})),
    ("intake", plain_case({"measure": "inspect", "target": "intake", "value": "leak"})),
    ("swapped, not driven", plain_case({"measure": "act", "action": "swap-sensors", "value": "not-driven"})),
    ("lamp in its place", plain_case(IN_PLACE)),
    ("halves of the in-line plug", plain_case({**ELEMENT, "red": "inline.module.signal", "black": "module.signal"})),
    ("a bigger lamp as load", plain_case({**SUPPLY, "load": "lamp", "watts": 21})),
    ("what was mended, and with what", plain_case({**FITTED, "of_fault": "heater-open", "part": "SP-2207"})),
    ("what a scan tool shows of nothing", plain_case({**SCAN, "pid": "nox", "value": "n/a"}, code="P229E")),
]  # fmt: skip
REFUSED = [
    ("no code at all", plain_case(code="hello"), "codes[0].code"),
    ("no sensor code", plain_case(code="P0456"), "codes"),
    ("unknown name", {**plain_case(), "colour": "red"}, "colour"),
    ("unknown point", plain_case({**SUPPLY, "red": "harness.nowhere"}), "readings[0].red"),
    ("terminal of another family", plain_case({**SUPPLY, "red": "harness.pump"}), "readings[0].red"),
    ("wrong unit", plain_case({**SUPPLY, "value": "13.8 ohm"}), "readings[0].value"),
    ("negative resistance", plain_case({**ELEMENT, "value": "-6"}), "readings[0].value"),
    ("red equal to black", plain_case({**SUPPLY, "black": "harness.heater_supply"}), "readings[0].black"),
    ("sensor side while plugged in", plain_case({**ELEMENT, "connector": "mated"}), "readings[0].connector"),
    ("module pin while plugged in", plain_case({**SUPPLY, "red": "module_pin.heater_control"}),
     "readings[0].module_connector"),
    ("no key", plain_case({name: SUPPLY[name] for name in SUPPLY if name != "key"}), "readings[0].key"),
    ("no connector at the plug", plain_case({name: SUPPLY[name] for name in SUPPLY if name != "connector"}),
     "readings[0].connector"),
    ("unknown measure", plain_case({**SUPPLY, "measure": "volts"}), "readings[0].measure"),
    ("lamp cannot hum", plain_case({**LAMP, "value": "humming"}), "readings[0].value"),
    ("act without its outcome", plain_case({"measure": "act", "action": "wiggle", "value": "done"}),
     "readings[0].value"),
    ("empty pin", plain_case({**SUPPLY, "red": "harness.3"}), "readings[0].red"),
    ("two pins, one terminal", plain_case(sensor={"pins": {"1": {"terminal": "signal"}, "2": {"terminal": "signal"}}}),
     "sensor.pins.2.terminal"),
    ("range upside down", plain_case(specs=[{**SPEC, "range": ["9", "4"]}]), "specs[0].range"),
    ("range without ends", plain_case(specs=[{**SPEC, "range": [None, None]}]), "specs[0].range"),
    ("range of no number", plain_case(specs=[{**SPEC, "range": ["4", "many"]}]), "specs[0].range[1]"),
    ("range without its source", plain_case(specs=[{name: SPEC[name] for name in SPEC if name != "source"}]),
     "specs[0].source"),
    ("range of words", plain_case(specs=[{"measure": "scan", "pid": "loop", "range": ["1", "2"], "source": "s"}]),
     "specs[0].pid"),
    ("a value in a range", plain_case(specs=[{**SPEC, "value": "6"}]), "specs[0].value"),
    ("own range upside down", plain_case(sensor={"heater_ohms_20c": [9, 4]}), "sensor.heater_ohms_20c"),
    ("pin of another family", plain_case(sensor={"family": "switching-4w", "pins": {"1": {"terminal": "pump"}}}),
     "sensor.pins.1.terminal"),
    ("leads in volts", plain_case({**ELEMENT, "leads": "0.2 V"}), "readings[0].leads"),
    ("a place that is not looked at", plain_case({"measure": "inspect", "target": "fuse", "at": "before-front",
     "value": "ok"}), "readings[0].at"),
    ("bridge onto itself", plain_case({**SUPPLY, "jumper": ["chassis", "chassis"]}), "readings[0].jumper"),
    ("bridge to nowhere", plain_case({**SUPPLY, "jumper": ["chassis", "moon"]}), "readings[0].jumper[1]"),
    ("word a tool never shows", plain_case({**SCAN, "pid": "loop", "value": "ajar"}), "readings[0].value"),
    ("neither word nor figure", plain_case({**SCAN, "pid": "heater_command", "value": "sometimes"}),
     "readings[0].value"),
    ("empty screen", plain_case({**SUPPLY, "measure": "scope", "value": {}}), "readings[0].value"),
    ("recording in words", plain_case({"measure": "trace", "signal": "sensor_voltage", "key": "running",
     "value": {"min": "low"}}), "readings[0].value.min"),
    ("control grounded without a heater", plain_case({**SUPPLY, "red": "harness.signal", "with": "control-grounded"},
     code="P0130", sensor={"family": "switching-1w"}), "readings[0].with"),
    ("stronger than a lamp", plain_case({**LAMP, "watts": 2100}), "readings[0].watts"),
    ("bank of no engine", plain_case(sensor={"bank": 9}), "sensor.bank"),
    ("another format", {**plain_case(), "format": "dianoia-case/9"}, "format"),
    ("signal grounded without a signal", plain_case({**SUPPLY, "with": "signal-grounded"}, sensor={
        "family": "airfuel-4w"}), "readings[0].with"),
    ("not a time", plain_case({**SUPPLY, "taken": "yesterday"}), "readings[0].taken"),
    ("leads that are open", plain_case({**ELEMENT, "leads": "OL"}), "readings[0].leads"),
    ("a week of the year", plain_case({**SUPPLY, "taken": "2026-W11-6"}), "readings[0].taken"),
    ("an offset of no place", plain_case({**SUPPLY, "taken": "2026-03-14T09:30:00+23:59:59"}), "readings[0].taken"),
    ("endless element", plain_case(sensor={"heater_ohms_20c": [1e999, 1e999]}), "sensor.heater_ohms_20c[0]"),
    ("endless edge", plain_case({**TRACE, "value": {"rise_s": 1e999}}), "readings[0].value.rise_s"),
    ("a feed that spans", plain_case({**SUPPLY, "value": "12..13 V"}), "readings[0].value"),
    ("a span of two units", plain_case({**SIGNAL, "value": "0.1 V..0.8 A"}), "readings[0].value"),
    ("a feed that switches", plain_case({**SUPPLY, "moves": "switching"}), "readings[0].moves"),
    ("fed without volts", plain_case({**SIGNAL, "with": "signal-fed"}), "readings[0].fed_v"),
    ("volts without feeding", plain_case({**SIGNAL, "fed_v": 0.5}), "readings[0].fed_v"),
    ("battery on a signal wire", plain_case({**SIGNAL, "with": "signal-fed", "fed_v": 12}), "readings[0].fed_v"),
    ("an air-fuel cell fed", plain_case({**SUPPLY, "with": "signal-fed", "fed_v": 0.5}, sensor={"family": "airfuel-4w"}),
     "readings[0].with"),
    ("a pulsed heater held on", plain_case({**SUPPLY, "with": "control-grounded"}, sensor={"heater_drive": "pwm"}),
     "readings[0].with"),
    ("a lamp nowhere", plain_case({**LAMP, "red": "", "black": "", "in_place_of": None}), "readings[0].red"),
    ("in place of what is plugged in", plain_case({**LAMP, "connector": "mated"}), "readings[0].connector"),
    ("in place of no heater", plain_case({**IN_PLACE}, code="P0130", sensor={"family": "switching-1w"}),
     "readings[0].in_place_of"),
    ("a lamp's watts without a lamp", plain_case({**SUPPLY, "watts": 21}), "readings[0].watts"),
    ("half of no connector", plain_case({**SUPPLY, "red": "inline.left.signal"}), "readings[0].red"),
    ("a part for a wiggle", plain_case({"measure": "act", "action": "wiggle", "value": "changed", "part": "x"}),
     "readings[0].part"),
    ("a fault on no list", plain_case({**FITTED, "of_fault": "gremlins"}), "readings[0].of_fault"),
    ("10,000 readings", plain_case(*[SUPPLY] * 10_000), "readings"),
]  # fmt: skip


class Refusals(TestCase):
    """Bad input is refused whole, each finding naming its field."""

    def test_each_refusal_names_its_field(self) -> None:
        for why, plain, field in REFUSED:
            with self.subTest(why), self.assertRaises(RefusedInput) as caught:
                check(case_from_plain(plain))
            self.assertIn(field, [finding.field for finding in caught.exception.findings])

    def test_all_findings_are_reported_not_only_the_first(self) -> None:
        with self.assertRaises(RefusedInput) as caught:
            check(case({**SUPPLY, "value": "x"}, {**ELEMENT, "value": "-1"}))
        self.assertEqual(len(caught.exception.findings), 2)

    def test_malformed_json_is_refused(self) -> None:
        infinite, half = json.dumps(plain_case(sensor={"bias_v": float("inf")})), json.dumps(plain_case(title="\ud800"))
        for text in ("{", "[]", '"text"', "[" * 100_000, infinite, half):
            with self.subTest(text[:9]), self.assertRaises(RefusedInput):
                case_from_json(text)


class RoundTrip(TestCase):
    """Reading, writing and reading again."""

    def test_what_the_format_has_is_taken_and_comes_back(self) -> None:
        for why, plain in TAKEN:
            with self.subTest(why):
                loaded = case_from_plain(plain)
                check(loaded)
                self.assertEqual(case_from_json(json.dumps(to_plain(loaded))), loaded)
                for name, said in (plain["readings"] or [{}])[0].items():
                    self.assertEqual(to_plain(loaded)["readings"][0][name], said)

    def test_a_lamp_in_place_of_the_heater_stands_across_its_terminals(self) -> None:
        (lamp,) = job_of(case(IN_PLACE)).readings
        self.assertEqual(lamp.probe.points, ("harness.heater_supply", "harness.heater_control"))

    def test_a_case_survives(self) -> None:
        first = case({**SUPPLY, "with": ["rich", "snap"], "jumper": ["chassis", "battery.negative"]}, ELEMENT, LAMP,
                     sensor={"pins": {"3": {"colour": "grey"}}})  # fmt: skip
        self.assertEqual(case_from_json(json.dumps(to_plain(first))), first)

    def test_a_bare_json_number_is_taken_as_typed(self) -> None:
        self.assertEqual(case({**SUPPLY, "value": 13.8}).readings[0].value, "13.8")
