"""The case file: what it refuses, naming the field, and that it survives a round trip."""

import json
from unittest import TestCase

from dianoia.case.check import check
from dianoia.case.load import case_from_json, case_from_plain, to_plain
from dianoia.errors import RefusedInput
from tests.cases import ELEMENT, LAMP, SUPPLY, case, plain_case

SPEC = {**{name: ELEMENT[name] for name in ELEMENT if name != "value"}, "range": ["4", "7"], "source": "the manual"}
SCAN = {"measure": "scan", "key": "running"}
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
    ("act without its outcome", plain_case({"measure": "act", "action": "clear-codes", "value": "done"}),
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
        for text in ("{", "[]", '"text"', "[" * 100_000):
            with self.subTest(text[:9]), self.assertRaises(RefusedInput):
                case_from_json(text)


class RoundTrip(TestCase):
    """Reading, writing and reading again."""

    def test_a_case_survives(self) -> None:
        first = case({**SUPPLY, "with": ["rich", "snap"], "jumper": ["chassis", "battery.negative"]}, ELEMENT, LAMP,
                     sensor={"pins": {"3": {"colour": "grey"}}})  # fmt: skip
        self.assertEqual(case_from_json(json.dumps(to_plain(first))), first)

    def test_a_bare_json_number_is_taken_as_typed(self) -> None:
        self.assertEqual(case({**SUPPLY, "value": 13.8}).readings[0].value, "13.8")
