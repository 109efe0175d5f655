"""What a display may show, binned: the chances that what is foreseen of a reading is worked out from."""

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.network import Array
from dianoia.readings.display import BINS, Categorical, Numeric
from dianoia.readings.folded import Folded
from dianoia.readings.moving import MovingValue
from dianoia.readings.scale import error_units

Display = Numeric | Categorical | MovingValue
#: Outcome bins of a figure that moves: each draw falls in several.
MOVING_BINS = 14


class Outcomes:
    """A display's outcomes, worked out once: chances follow from the draws' present weights.

    All that is kept of most displays, so it is kept small. It is a byte for the bin of a draw, or for the chance of a word, and once for
    all hypotheses that change nothing here.
    """

    def __init__(self, display: Display, shape: tuple[int, int]) -> None:
        self._places: Folded[np.uint8] | None = None
        self._used = 0
        self._words: Folded[np.uint8] | None = None
        if isinstance(display, Categorical):
            told = np.nan_to_num([np.broadcast_to(item, shape) for item in display.chance.values()])
            silent = np.maximum(1.0 - told.sum(axis=0), 0.0)  # where nothing is shown, that is what is seen
            self._words = Folded(_in_bytes(np.stack([*told, silent], axis=2)))
        elif isinstance(display, MovingValue):
            self._words = Folded(_in_bytes(_spread(display, shape)))
        else:
            bins = np.broadcast_to(display.bins(), shape)
            used = np.flatnonzero(np.bincount(bins.ravel(), minlength=BINS))
            place = np.zeros(BINS, dtype=np.uint8)
            place[used] = np.arange(used.size)
            self._places, self._used = Folded(place[bins]), used.size

    def chances(self, draws: Array, shown: NDArray[np.int64]) -> Array:
        """Chance of each outcome, (rows, outcomes), from the draws' chances (rows, draws) and the rows of the
        hypotheses that the reading meets.
        """
        if self._words is not None:
            parts = self._words.of(shown).astype(np.float32)
            found = np.einsum("hd,hdw->hw", draws.astype(np.float32), parts)
            whole: Array = found / np.maximum(found.sum(axis=1, keepdims=True), np.float32(1e-30))
            return whole
        assert self._places is not None
        places = np.arange(shown.size)[:, None] * self._used + self._places.of(shown)
        table = np.bincount(places.ravel(), weights=draws.ravel(), minlength=shown.size * self._used)
        return table.reshape(shown.size, self._used)


def _in_bytes(chances: Array) -> NDArray[np.uint8]:
    """Chances of 0..1 as parts of 255."""
    return np.rint(np.clip(chances, 0.0, 1.0) * 255.0).astype(np.uint8)


def _spread(display: MovingValue, shape: tuple[int, int]) -> Array:
    """Chance of each stretch of values, (hypotheses, draws, stretches)."""
    values = [(np.broadcast_to(value, shape), np.broadcast_to(chance, shape)) for value, chance in display.spread()]
    placed = [error_units(value, display.kind) for value, _ in values]
    known = np.concatenate([item[np.isfinite(item)] for item in placed])
    low, high = (float(known.min()), float(known.max())) if known.size else (0.0, 1.0)
    width = max((high - low) / (MOVING_BINS - 1), 1.0)
    told = np.zeros((*shape, MOVING_BINS + 1), dtype=np.float32)
    rows, draws = np.indices(shape, sparse=True)
    for place, (_, chance) in zip(placed, values, strict=True):
        found = np.where(np.isfinite(place), np.floor((np.nan_to_num(place) - low) / width), MOVING_BINS).astype(
            np.int64
        )
        told[rows, draws, np.clip(found, 0, MOVING_BINS)] += chance  # each of a draw's values falls in one stretch
    return told
