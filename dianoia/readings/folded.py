"""Tables of which many rows are alike: most faults change nothing of what one instrument shows, so each row is kept once."""

from collections.abc import Mapping
from typing import Generic, TypeVar

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.network import Array
from dianoia.readings.display import Categorical, Numeric
from dianoia.readings.moving import MovingValue

T = TypeVar("T", bound=np.generic)


class Folded(Generic[T]):
    """A table by its rows that differ. rows: which of ``few`` each row of the whole table is.

    >>> few = Folded(np.array([[1, 2], [3, 4], [1, 2]]))
    >>> few.rows.tolist(), few.few.tolist()
    ([0, 1, 0], [[1, 2], [3, 4]])
    """

    def __init__(self, table: NDArray[T]) -> None:
        found: dict[bytes, int] = {}
        self.rows = np.array([found.setdefault(row.tobytes(), len(found)) for row in table], dtype=np.int32)
        self.few: NDArray[T] = table[np.unique(self.rows, return_index=True)[1]]

    def of(self, rows: NDArray[np.int64]) -> NDArray[T]:
        """Some of the rows."""
        return self.few[self.rows[rows]]

    @property
    def whole(self) -> NDArray[T]:
        """All rows."""
        return self.few[self.rows]


def healthy(shown: Mapping[str, Numeric | Categorical | MovingValue]) -> dict[str, Numeric | Categorical | MovingValue]:
    """The same displays of a healthy circuit alone: their first row."""
    return {name: _first(item) for name, item in shown.items()}


def _first(item: Numeric | Categorical | MovingValue) -> Numeric | Categorical | MovingValue:
    if isinstance(item, Categorical):
        return Categorical({word: _row(chance) for word, chance in item.chance.items()})
    if isinstance(item, MovingValue):
        return MovingValue(_figure(item.low), _figure(item.high), _row(item.up))
    return _figure(item)


def _figure(item: Numeric) -> Numeric:
    return Numeric(item.kind, _row(item.shown), scaled=item.scaled)


def _row(table: Array) -> Array:
    """A copy, so that the rest can go."""
    return np.array(np.atleast_2d(table)[:1])
