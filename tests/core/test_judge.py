"""A reading against published figures: which of them it is held against, and at their ends."""

from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from dianoia.case.check import check
from dianoia.case.job import job_of
from dianoia.quantities.parse import parse
from dianoia.readings.judge import expect, judge
from tests.cases import ELEMENT, LAMP, STEADY, SUPPLY, case

CURRENT = {"measure": "scan", "pid": "heater_current", "key": "running", "at_s": 60}
RANGE = {name: SUPPLY[name] for name in SUPPLY if name != "value"} | {"range": ["12", "15"], "source": "the manual"}


def result(taken: dict[str, Any], *specs: dict[str, Any], **sensor: Any) -> tuple[str, str | None]:
    """pass, fail or unclear by published figures alone, and their source."""
    own = case(taken, specs=list(specs), **({"sensor": sensor} if sensor else {}))
    check(own)
    job = job_of(own)
    expected = expect(job.readings[0].probe, job, None, None)
    return judge(job.readings[0], expected)[0], expected.source if expected else None


class Published(TestCase):
    """The job's own ranges come first, then the sensor's data; a range holds for its own measurement only."""

    def test_a_range_holds_where_and_how_it_was_published(self) -> None:
        volts = {**SUPPLY, "value": "13.8 V"}
        for why, taken, spec, expected in (
            ("the same", volts, RANGE, "pass"),
            ("below", {**volts, "value": "9 V"}, RANGE, "fail"),
            ("an open end", {**volts, "value": "40 V"}, {**RANGE, "range": ["12", None]}, "pass"),
            ("an open low end", {**volts, "value": "-3 V"}, {**RANGE, "range": [None, "15"]}, "pass"),
            ("another point", {**volts, "red": "harness.heater_control"}, RANGE, None),
            ("leads the other way round", {**volts, "red": volts["black"], "black": volts["red"]}, RANGE, None),
            ("another key position", {**volts, "key": "on"}, RANGE, None),
            ("another condition", {**volts, "with": "rich"}, RANGE, None),
            ("under load", {**volts, "load": "lamp"}, {**RANGE, "load": "lamp"}, "pass"),
            ("another instrument", {**LAMP, "red": volts["red"], "black": volts["black"]}, RANGE, None),
            ("ohms have no direction", {**ELEMENT, "red": ELEMENT["black"], "black": ELEMENT["red"], "value": "5"},
             {**{name: ELEMENT[name] for name in ELEMENT if name != "value"}, "range": ["4", "7"], "source": "s"}, "pass"),
            ("a trim", {"measure": "scan", "pid": "long_trim", "key": "running", "value": "-12"},
             {"measure": "scan", "pid": "long_trim", "key": "running", "range": ["-10", "10"], "source": "s"}, "fail"),
        ):  # fmt: skip
            with self.subTest(why):
                said, source = result(taken, spec)
                self.assertEqual(said, expected or "unclear")
                self.assertEqual(source is not None, expected is not None)

    def test_an_element_is_held_against_its_range_at_its_temperature(self) -> None:
        for celsius, ohms, expected in (
            (20, "6", "pass"), (20, "8.5", "fail"), (20, "3.2", "fail"), (20, "OL", "fail"),
            (120, "8.5", "pass"), (-20, "3.7", "pass"), ("hot", "8.5", "pass"), ("hot", "40", "fail"), (None, "8", "pass"),
        ):  # fmt: skip
            with self.subTest(celsius=celsius, ohms=ohms):
                taken = {**ELEMENT, "value": ohms, "sensor_c": celsius}
                self.assertEqual(result(taken, **STEADY, spec_source="its sheet"), (expected, "its sheet"))

    def test_a_heaters_current_is_held_against_its_range_once_it_has_settled(self) -> None:
        own = {**STEADY, "heater_amps": [0.8, 1.4]}
        for why, taken, sensor, expected in (
            ("settled", {**CURRENT, "value": "1.1"}, own, "pass"),
            ("too much", {**CURRENT, "value": "2.9"}, own, "fail"),
            ("still cold", {**CURRENT, "value": "2.9", "at_s": 5}, own, "unclear"),
            ("an average of pulses", {**CURRENT, "value": "0.5"}, {**own, "heater_drive": "pwm"}, "unclear"),
            ("by clamp", {"measure": "current", "at": "harness.heater_supply", "key": "running", "connector": "mated",
                          "value": "0.1"}, own, "fail"),
            ("another wire", {"measure": "current", "at": "harness.signal", "key": "running", "connector": "mated",
                              "value": "0.1"}, own, "unclear"),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertEqual(result(taken, **sensor)[0], expected)

    def test_another_sensors_element_is_not_held_against_this_ones_range(self) -> None:
        taken = {**ELEMENT, "value": "90", "of": "B2S1"}
        self.assertEqual(result(taken, **STEADY), ("unclear", None))
        self.assertEqual(result({**taken, "of": "new"}, **STEADY)[0], "fail")

    @given(st.floats(0.1, 99.0), st.floats(0.1, 99.0), st.integers(0, 2))
    def test_no_figure_inside_fails_and_none_outside_passes(self, low: float, width: float, digits: int) -> None:
        spec = {**RANGE, "range": [f"{low:.6f}", f"{low + width:.6f}"]}
        for place in (low - width, low - 0.01, low, low + width / 2, low + width, low + width + 0.01):
            text = f"{place:.{digits}f} V"
            said = result({**SUPPLY, "value": text}, spec)[0]
            inside = low - 1e-6 <= parse(text, "voltage").value <= low + width + 1e-6
            self.assertNotEqual(said, "fail" if inside else "pass", (text, spec["range"]))
