"""Live values: a span is weighed by its two ends, a single value of what moves by nothing, a fed wire by Ohm's law."""

from typing import Any
from unittest import TestCase

from dianoia.diagnosis.verdict.diagnose import diagnose
from dianoia.diagnosis.verdict.types import Verdict
from tests.cases import case

SCAN = {"measure": "scan", "pid": "sensor_voltage", "key": "running"}
WIRE = {
    "measure": "voltage",
    "red": "harness.signal",
    "black": "harness.signal_return",
    "key": "running",
    "connector": "mated",
}
FED = {
    "measure": "scan",
    "pid": "sensor_voltage",
    "key": "on",
    "connector": "unplugged",
    "with": "signal-fed",
    "fed_v": 0.8,
}


def seen(**reading: Any) -> Verdict:
    sensor = {"family": "switching-4w", "bank": 1, "position": 1, "bias_v": 0.45}
    return diagnose(case(reading, code="P0130", sensor=sensor))


class LiveValues(TestCase):
    """Of a front switching sensor."""

    def test_a_span_is_judged_by_both_ends_and_never_by_its_middle(self) -> None:
        for why, probe, value, result in (
            ("switches as it should", SCAN, "0.1..0.8 V", "pass"),
            ("the same on the wire", WIRE, "0.15-0.78", "pass"),
            ("the same mean, and dead", SCAN, "0.43..0.46 V", "fail"),
            ("never gets lean", SCAN, "0.5..0.8 V", "fail"),
            ("never gets rich", WIRE, "0.1..0.4 V", "fail"),
        ):
            with self.subTest(why):
                self.assertEqual(seen(**probe, value=value).judged[0].result, result)

    def test_a_lively_span_clears_the_cell_and_a_flat_one_accuses_the_circuit(self) -> None:
        def dead(value: str) -> float:
            return next(item.probability for item in seen(**SCAN, value=value).suspects if item.fault == "cell-open")

        self.assertLess(dead("0.1..0.8 V"), 0.02)
        self.assertGreater(dead("0.43..0.46 V"), 0.2)

    def test_one_value_of_what_moves_says_nothing(self) -> None:
        before = diagnose(
            case(code="P0130", sensor={"family": "switching-4w", "bank": 1, "position": 1, "bias_v": 0.45})
        )
        for moves in ("slow", "switching"):
            self.assertEqual(seen(**SCAN, value="0.3 V", moves=moves).suspects, before.suspects)
        self.assertNotEqual(seen(**SCAN, value="0.45 V", moves="steady").suspects, before.suspects)

    def test_a_fed_wire_shows_what_the_divider_gives(self) -> None:
        # 0.8 V through 10 k against a bias of 0.45 V (5 % either way) through 100 k to 1 M: with 100 k
        # (0.8 * 100 + 0.43 * 10) / 110 = 0.766 V, less what 1.5 M to ground takes; with 1 M 0.797 V
        judged = seen(**FED, value="0.79 V").judged[0]
        assert judged.low is not None and judged.high is not None
        self.assertEqual(judged.result, "pass")
        self.assertTrue(0.755 < judged.low < judged.high < 0.80, judged.expected)
        top = seen(**FED, value="0.45 V").suspects[0].fault
        self.assertIn(top, ("wire-open:signal", "wire-high:signal"))
