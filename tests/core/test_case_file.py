"""The case file: what it refuses, naming the field, and that it survives a round trip."""

import json
from unittest import TestCase

from dianoia.case.check import check
from dianoia.case.load import case_from_json, case_from_plain, to_plain
from dianoia.errors import RefusedInput
from tests.cases import ELEMENT, LAMP, SUPPLY, case, plain_case

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
    ("range upside down", plain_case(specs=[{**ELEMENT, "range": ["9", "4"], "source": "s"}]), "specs[0].value"),
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
