"""What a person types is the number meant, or refused with the field's name."""

import math
from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from dianoia.errors import RefusedInput
from dianoia.quantities.meter import digit, uncertainty
from dianoia.quantities.parse import parse, parse_live
from dianoia.quantities.show import show, show_range
from dianoia.quantities.types import Kind, Span

TYPED: Any = [
    ("18.6k", "resistance", 18600.0, "k alone is kilohm"),
    ("4k7", "resistance", 4700.0, "the letter as decimal point"),
    ("OL", "resistance", math.inf, "over limit"),
    ("0.3 Ω", "resistance", 0.3, "ohm sign"),
    ("1.2M", "resistance", 1.2e6, "capital M is mega"),
    ("450mV", "voltage", 0.45, "no space"),
    ("0,45 V", "voltage", 0.45, "decimal comma"),
    ("450 MV", "voltage", 0.45, "a tablet's capital: nobody has megavolts"),
    ("12.4", "voltage", 12.4, "bare number"),
    ("−0.2", "voltage", -0.2, "typographic minus"),
    ("20 mA", "current", 0.02, "milliamps"),
    ("60 %", "ratio", 0.6, "percent"),
    ("80 ms", "time", 0.08, "milliseconds"),
    ("2.2K", "resistance", 2200.0, "capital K"),
    ("470 m", "resistance", 0.47, "milliohms"),
    ("50 uA", "current", 5e-5, "u for micro"),
    ("50 µA", "current", 5e-5, "the micro sign"),
    ("50 μA", "current", 5e-5, "the Greek letter"),
    ("1.5 kHz", "frequency", 1500.0, "kilohertz"),
    ("21 W", "power", 21.0, "watts"),
    ("-12 °C", "temperature", -12.0, "below freezing"),
    ("0.4 mA", "cell_current", 4e-4, "cell currents are typed in mA"),
    ("0.4", "cell_current", 4e-4, "with or without the unit"),
    ("250 ppm", "ppm", 250.0, "parts per million"),
]
#: A noted value, and how far the true one may be off: share of the reading and last digits, never below a floor.
ACCURATE = [
    ("13.80", "voltage", 0.1304, "0.8 % of 13.8 = 0.1104, two digits of 0.01"),
    ("0.1", "voltage", 0.0048, "0.8 % = 0.0008, two digits of at most 2 % of it = 0.004"),
    ("0.000", "voltage", 0.004, "the floor"),
    ("6.2", "resistance", 0.362, "1 % = 0.062, three digits of 0.1"),
    ("0.1", "resistance", 0.1, "the leads"),
    ("1.20", "current", 0.054, "2 % = 0.024, three digits of 0.01"),
    ("60.0 %", "ratio", 0.013, "2 % of 0.6 = 0.012, a digit of 0.001"),
    ("10.0 Hz", "frequency", 0.3, "2 % = 0.2, a digit of 0.1"),
    ("20.0 °C", "temperature", 2.0, "the floor: 2 °C"),
    ("200.0 °C", "temperature", 4.1, "2 % = 4, a digit of 0.1"),
    ("0.100 s", "time", 0.01, "the floor: a hundredth"),
    ("5.0 W", "power", 0.2, "2 % = 0.1, a digit of 0.1"),
    ("250", "ppm", 13.5, "5 % = 12.5, a digit of 1"),
    ("0.400", "cell_current", 2e-5, "the floor: 0.02 mA"),
    ("2.000", "cell_current", 6.1e-5, "3 % of 2 mA = 0.06, a digit of 0.001"),
]
REFUSED: Any = [
    ("12 ohm", "voltage", "a unit of the wrong kind"),
    ("-5", "resistance", "no negative resistance"),
    ("OL", "voltage", "over limit is no voltage"),
    ("18,600", "resistance", "a comma before three digits is ambiguous"),
    ("1e999", "voltage", "no exponent notation"),
    ("", "voltage", "nothing"),
    ("9" * 50, "voltage", "longer than any display"),
    ("nan", "resistance", "not a number"),
]


LIVE = [
    ("0.1..0.85 V", "voltage", 0.1, 0.85, "dots"),
    ("0.1 to 0.85", "voltage", 0.1, 0.85, "a word"),
    ("0.1–0.85", "voltage", 0.1, 0.85, "a dash"),
    ("0.1-0.85 V", "voltage", 0.1, 0.85, "a hyphen between numbers without sign"),
    ("100..850mV", "voltage", 0.1, 0.85, "one unit for both"),
    ("100 mV - 0.9 V", "voltage", 0.1, 0.9, "each its own unit"),
    ("0,1-0,85", "voltage", 0.1, 0.85, "decimal commas"),
    ("0.85..0.1", "voltage", 0.1, 0.85, "highest first"),
    ("-9..9 %", "ratio", -0.09, 0.09, "signed"),
    ("−9 to −3 %", "ratio", -0.09, -0.03, "typographic minus"),
    ("-0.3..0.4 mA", "cell_current", -3e-4, 4e-4, "milliamps"),
]
NO_SPAN = ("-9-9", "0.1..", "..", "0.1..x", "1..2..3", "0.1..0.85 A")


class TypedText(TestCase):
    """Parsing and showing."""

    def test_typed_text_is_the_number_meant(self) -> None:
        for text, kind, value, why in TYPED:
            with self.subTest(text, why=why):
                self.assertAlmostEqual(parse(text, kind).value, value) if math.isfinite(value) else self.assertTrue(
                    parse(text, kind).over_limit
                )

    def test_how_far_off_a_noted_value_may_be(self) -> None:
        for text, kind, wanted, why in ACCURATE:
            with self.subTest(text, kind=kind, why=why):
                self.assertAlmostEqual(uncertainty(parse(text, kind)), wanted, places=9)  # type: ignore[arg-type]

    def test_a_number_is_shown_in_the_unit_that_suits_its_size(self) -> None:
        for value, kind, wanted in (
            (999.4, "resistance", "999 ohm"), (999.6, "resistance", "1 kohm"), (1500.0, "resistance", "1.5 kohm"), (1.5e6, "resistance", "1.5 Mohm"),
            (0.47, "resistance", "0.47 ohm"), (0.05, "voltage", "50 mV"), (0.45, "voltage", "0.45 V"), (-0.0042, "voltage", "-4.2 mV"), (13.84, "voltage", "13.8 V"),
            (0.02, "current", "20 mA"), (1.234, "current", "1.23 A"), (0.6, "ratio", "60 %"), (4e-4, "cell_current", "0.4 mA"),
        ):  # fmt: skip
            self.assertEqual(show(value, kind), wanted, (value, kind))  # type: ignore[arg-type]

    def test_a_span_is_its_two_ends(self) -> None:
        for text, kind, low, high, why in LIVE:
            with self.subTest(text, why=why):
                span = parse_live(text, kind)  # type: ignore[arg-type]
                assert isinstance(span, Span)
                self.assertAlmostEqual(span.low.value, low)
                self.assertAlmostEqual(span.high.value, high)
        self.assertEqual(parse_live("0.45 V", "voltage"), parse("0.45 V", "voltage"))
        for text in NO_SPAN:
            with self.subTest(text), self.assertRaises(RefusedInput):
                parse_live(text, "voltage")

    def test_other_text_is_refused_naming_the_field(self) -> None:
        for text, kind, why in REFUSED:
            with self.subTest(text, why=why), self.assertRaises(RefusedInput) as caught:
                parse(text, kind, "readings[3].value")
            self.assertEqual(caught.exception.findings[0].field, "readings[3].value")

    @given(st.text(max_size=60), st.sampled_from(["voltage", "resistance", "current", "ratio", "time"]))
    def test_no_text_crashes_the_parser(self, text: str, kind: Kind) -> None:
        try:
            value = parse(text, kind).value
        except RefusedInput:
            return
        self.assertFalse(math.isnan(value))

    @given(st.floats(0.02, 9e7), st.sampled_from(["voltage", "resistance", "current"]))
    def test_what_is_shown_parses_back_within_its_digits(self, value: float, kind: Kind) -> None:
        self.assertAlmostEqual(parse(show(value, kind), kind).value / value, 1.0, delta=0.06)

    def test_ranges_name_the_unit_once_where_both_ends_share_it(self) -> None:
        self.assertEqual(show_range(13.2, 14.7, "voltage"), "13.2 to 14.7 V")
        self.assertEqual(show_range(0.05, 14.7, "voltage"), "0.05 to 14.7 V")

    @given(st.floats(-90, 90), st.sampled_from(["voltage", "cell_current", "current"]))
    def test_an_instrument_shows_its_zeros_and_the_same_number(self, value: float, kind: Kind) -> None:
        whole, short = show(value, kind, zeros=True), show(value, kind)
        self.assertAlmostEqual(parse(whole, kind).value, parse(short, kind).value)
        self.assertLessEqual(parse(whole, kind).resolution, parse(short, kind).resolution)

    def test_the_last_digit_as_far_as_it_was_noted(self) -> None:
        lasts: tuple[tuple[str, Kind, float], ...] = (("13.80", "voltage", 0.01), ("13", "voltage", 0.26), ("0", "cell_current", 0.0),
                                 ("0.02 mA", "cell_current", 4e-7), ("18.6k", "resistance", 100.0))  # fmt: skip
        for text, kind, last in lasts:
            with self.subTest(text):
                self.assertAlmostEqual(digit(parse(text, kind)), last)

    def test_a_finer_display_is_more_certain(self) -> None:
        self.assertLess(uncertainty(parse("13.80", "voltage")), uncertainty(parse("14", "voltage")))
