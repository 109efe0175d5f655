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

    def test_after_a_snap_the_closing_throttle_cuts_the_fuel(self) -> None:
        """Enriched while it opens, air while it closes: who notes all of it sees both, behind the catalyst too."""
        rear = {"family": "switching-4w", "bank": 1, "position": 2, "bias_v": 0.45}
        for value, result in (
            ("0.05..0.85 V", "pass"),
            ("0.6..0.85 V", "pass"),
            ("0.43..0.46 V", "fail"),
            ("0.05..0.2 V", "fail"),
        ):
            found = diagnose(case({**SCAN, "with": "snap", "value": value}, code="P0136", sensor=rear))
            self.assertEqual(found.judged[0].result, result, value)

    def test_a_lively_span_clears_the_cell_and_a_flat_one_accuses_the_circuit(self) -> None:
        def dead(value: str) -> float:
            return next(item.probability for item in seen(**SCAN, value=value).suspects if item.fault == "cell-open")

        self.assertLess(dead("0.1..0.8 V"), 0.02)
        self.assertGreater(dead("0.43..0.46 V"), 0.2)

    def test_one_look_at_what_moves_proves_little(self) -> None:
        for volts in ("0.12 V", "0.45 V", "0.78 V"):
            found = seen(**SCAN, value=volts)
            self.assertEqual(found.judged[0].result, "unclear", volts)
        rich = next(item for item in seen(**SCAN, value="0.78 V").suspects if item.fault == "engine-rich")
        self.assertLess(rich.probability, 0.1)

    def test_its_movement_is_a_finding(self) -> None:
        flat = seen(**SCAN, value="0.45 V", moves="steady")
        lively = seen(**SCAN, value="0.3 V", moves="switching")
        self.assertEqual(flat.judged[0].result, "fail")
        dead = [
            next(item.probability for item in found.suspects if item.fault == "cell-open") for found in (flat, lively)
        ]
        self.assertGreater(dead[0], 5 * dead[1])

    def test_after_a_stimulus_one_number_is_where_it_settled_and_standing_still_is_no_finding(self) -> None:
        for value, moves, result in (
            ("0.85 V", None, "pass"),
            ("0.85 V", "steady", "pass"),
            ("0.45 V", "steady", "fail"),
        ):
            said = {"moves": moves} if moves else {}
            found = seen(**{**SCAN, "with": "rich", "value": value, **said})
            self.assertEqual(found.judged[0].result, result, f"{value} {moves}")

    def test_a_rear_sensor_that_stands_still_is_well(self) -> None:
        sensor = {"family": "switching-4w", "bank": 1, "position": 2, "bias_v": 0.45}
        found = diagnose(case({**SCAN, "value": "0.68 V", "moves": "steady"}, code="P0136", sensor=sensor))
        self.assertIn(found.judged[0].result, ("pass", "unclear"))

    def test_a_fed_wire_shows_what_the_divider_gives(self) -> None:
        # 0.8 V through 10 k against a bias of 0.45 V (5 % either way) through 100 k to 1 M. With 100 k
        # (0.8 * 100 + 0.43 * 10) / 110 = 0.766 V, less what 1.5 M to ground takes; with 1 M 0.797 V
        judged = seen(**FED, value="0.79 V").judged[0]
        assert judged.low is not None and judged.high is not None
        self.assertEqual(judged.result, "pass")
        # a tool reads up to 0.12 V more, and the range allows 0.06 V for the instrument
        self.assertTrue(0.7 < judged.low < judged.high < 0.97, judged.expected)
        top = seen(**FED, value="0.45 V").suspects[0].fault
        self.assertIn(top, ("wire-open:signal", "wire-high:signal"))
