"""What stands beside a reading: the same of the twin, of another part, of the time before the repair, and nothing else."""

from typing import Any
from unittest import TestCase

from dianoia.readings.beside import compared, noted_at
from tests.cases import ELEMENT, SUPPLY, observed

TWIN = {**SUPPLY, "of": "B2S1", "value": "13.9 V"}
NEW = {**SUPPLY, "of": "new", "value": "13.7 V"}
KEY_ON = {**TWIN, "key": "on"}
WARM = {**ELEMENT, "of": "B2S1", "sensor_c": 35}
STRUCK = {**TWIN, "struck": "wrong pin"}
REPAIRED = {"measure": "act", "action": "replace-sensor", "value": "done"}


class Beside(TestCase):
    """Each row: the ledger, and for its first and last reading whose they are and what stands beside them."""

    def test_what_stands_beside_a_reading(self) -> None:
        rows: tuple[tuple[str, list[dict[str, Any]], tuple[Any, ...], tuple[Any, ...]], ...] = (
            ("the twin", [SUPPLY, TWIN], ("", (1, "B2 S1")), ("B2 S1", (0, "this sensor"))),
            ("the newest of the twin's", [SUPPLY, TWIN, TWIN], ("", (2, "B2 S1")), ("B2 S1", (0, "this sensor"))),
            ("another state", [SUPPLY, KEY_ON], ("",), ("B2 S1",)),
            ("an element as warm as it happens to be", [ELEMENT, WARM], ("", (1, "B2 S1")), ("B2 S1", (0, "this sensor"))),
            ("a struck one", [SUPPLY, STRUCK], ("",), ("B2 S1",)),
            ("before and after", [SUPPLY, REPAIRED, SUPPLY], ("before", (2, "after")), ("", (0, "before"))),
            ("the same again", [SUPPLY, SUPPLY], ("",), ("",)),
            ("twin and new", [TWIN, SUPPLY, NEW], ("B2 S1", (1, "this sensor"), (2, "new")), ("new", (0, "B2 S1"), (1, "this sensor"))),
        )  # fmt: skip
        for name, ledger, first, last in rows:
            with self.subTest(name):
                found = compared([observed(**item) for item in ledger])
                told = [(item.whose, *((other.place, other.whose) for other in item.beside)) for item in found]
                self.assertEqual((told[0], told[-1]), (first, last))

    def test_what_is_written_at_a_point_of_the_drawing(self) -> None:
        point = "harness.heater_supply"
        for name, ledger, own, beside, whose in (
            ("this sensor's", [SUPPLY], 0, None, ""),
            ("the newest", [SUPPLY, SUPPLY], 1, None, ""),
            ("a struck one is gone", [SUPPLY, {**SUPPLY, "struck": "wrong pin"}], 0, None, ""),
            ("its twin's under it", [SUPPLY, TWIN], 0, 1, "B2 S1"),
            ("its twin's alone", [TWIN], None, 0, "B2 S1"),
            ("before the repair under after", [SUPPLY, REPAIRED, SUPPLY], 2, 0, "before"),
            ("what a hand did is written nowhere", [{**REPAIRED, "action": "wiggle", "at": point, "value": "changed"}, SUPPLY], 1, None, ""),
        ):  # fmt: skip
            with self.subTest(name):
                taken = [observed(**item) for item in ledger]
                (found,) = noted_at(taken, compared(taken))
                self.assertEqual((found.point, found.own, found.beside, found.whose), (point, own, beside, whose))
