"""Two readings of one meter told apart by hundredths of a volt, and a held wire judged by the other sensor's."""

from typing import Any
from unittest import TestCase

from dianoia.diagnosis.verdict.diagnose import diagnose
from tests.cases import case

SENSOR = {"family": "airfuel-4w", "bank": 1, "position": 1}


def _held(terminal: str, value: str, **state: Any) -> dict[str, Any]:
    return {"measure": "voltage", "red": f"harness.{terminal}", "black": "battery.negative", "key": "on",
            "connector": "unplugged", "value": value, **state}  # fmt: skip


def _answer(value: str, stimulus: str) -> dict[str, Any]:
    return _held("cell_positive", value, key="running", connector="mated", **{"with": stimulus})


class Differences(TestCase):
    """What the makers hold the cell wires at differs by a volt; what counts is far smaller."""

    def chances(self, *readings: dict[str, Any]) -> dict[str, float]:
        verdict = diagnose(case(*readings, code="P0130", sensor=SENSOR, vehicle={"label": "Bus 4"}))
        return {item.fault: item.probability for item in verdict.suspects}

    def test_two_wires_at_the_same_volts_touch(self) -> None:
        """Held 0.27 to 0.42 V apart; 2.90 V on both says that they touch, 2.90 and 2.58 V that they do not."""
        touching = self.chances(_held("cell_positive", "2.90 V"), _held("cell_negative", "2.90 V"))
        apart = self.chances(_held("cell_positive", "2.90 V"), _held("cell_negative", "2.58 V"))
        self.assertGreater(touching.get("wire-short-pair:cell_negative", 0.0), 0.7)
        self.assertLess(apart.get("wire-short-pair:cell_negative", 0.0), 0.01)

    def test_hundredths_of_a_volt_that_follow_the_mixture_are_an_answer(self) -> None:
        """40 ohm of source against 300 of cell and 20 of the other wire: a cell that swings by 0.2 V moves the wire by 0.02 V."""
        answers = self.chances(_answer("3.31 V", "rich"), _answer("3.28 V", "lean"))
        silent = self.chances(_answer("3.30 V", "rich"), _answer("3.30 V", "lean"))
        self.assertLess(answers.get("cell-open", 0.0), 0.1)
        self.assertGreater(silent.get("cell-open", 0.0), 0.4)

    def test_a_held_wire_is_judged_by_the_twin(self) -> None:
        other = _held("cell_positive", "3.30 V", of="B2S1")
        for value, result in (("2.62 V", "fail"), ("3.26 V", "pass")):
            verdict = diagnose(
                case(other, _held("cell_positive", value), code="P0130", sensor=SENSOR, vehicle={"label": "Bus 4"})
            )
            self.assertEqual(verdict.judged[1].result, result)
            self.assertEqual(verdict.judged[1].against, "spec")
