"""What an instrument shows under every hypothesis and draw, and how well a reading fits it.

A small share of readings is always held to be slips (misread, wrong pin), or one bad reading would kill the truth.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.network import Array
from dianoia.quantities.meter import digit
from dianoia.quantities.types import Kind, Quantity
from dianoia.readings.scale import distance, step_size, steps

#: Share of readings that are slips of the hand.
SLIP = 0.03
#: The same of a reading that was taken again and came out alike: both would have to be the same slip.
SLIP_TWICE = 0.004
#: Factors by which the figures of a scope or a recording are misread: a wrong range, a wrong division.
MISREAD = (0.1, 0.5, 2.0, 10.0)
#: Width of the comparison, in steps: the instrument's own error and the coarseness of the draws.
WIDTH = 2.2
#: A draw speaks as far as this share of the shortest stretch that holds it and ``NEIGHBOURS`` others; the shortest, so
#: that the last draw of a group (of one bias, of one way to drive) does not reach for the next group.
THIN, NEIGHBOURS = 0.3, 6
#: Range, in steps, over which a slip may fall.
SLIP_RANGE = 120.0
#: Outcome bins of a figure when its information is weighed.
BINS = 48


@dataclass(frozen=True)
class Figure:
    """A number on a display. shown: (hypotheses, draws) in the base unit, NaN where it cannot be measured."""

    kind: Kind
    shown: Array
    #: Further width in steps, broadcastable to ``shown``: what stray leakage makes of a wire that floats.
    stray: Array | None = None

    def fit(self, quantity: Quantity, slip: float = SLIP) -> Array:
        """Log-likelihood of the reading, (hypotheses, draws). slip: chance that it is one."""
        return _or_a_slip(self._near(quantity.value, self._width(quantity)), slip)

    def fit_and_astray(self, quantity: Quantity, slip: float) -> tuple[Array, Array]:
        """``fit``, and the log-likelihood of the figure where the reading as a whole was a slip: half the time misread by
        a factor, else anything; (hypotheses, draws) each. slip: chance that this figure alone is one.
        """
        width = self._width(quantity)
        misread = sum((self._near(quantity.value / factor, width) for factor in MISREAD), np.zeros(1)) / len(MISREAD)
        return _or_a_slip(self._near(quantity.value, width), slip), _or_a_slip(misread, 0.5)

    def _width(self, quantity: Quantity) -> Array:
        coarse = 0.0 if quantity.over_limit else 0.4 * digit(quantity) / step_size(quantity.value, self.kind)
        width: Array = np.hypot(self._widths, coarse)
        return width if self.stray is None else np.hypot(width, self.stray)

    def _near(self, value: float, width: Array) -> Array:
        """Density of a value, a step, around what each draw shows."""
        if np.isinf(value):
            apart = distance(value, self.shown, self.kind) / width
        else:
            apart = np.abs(steps(value, self.kind) - self._placed) / width
        near = np.exp(-0.5 * apart * apart) / (width * np.sqrt(2 * np.pi))
        return np.where(np.isnan(near), 0.0, near)

    @cached_property
    def _placed(self) -> Array:
        """Where each draw stands on the scale of steps."""
        return steps(self.shown, self.kind)

    @cached_property
    def _widths(self) -> Array:
        """How far each draw speaks for its surroundings, in steps: wider where the draws lie thin."""
        placed = np.nan_to_num(self._placed, nan=1e6)
        order = np.argsort(placed, axis=1)
        ranked = np.take_along_axis(placed, order, axis=1)
        count = ranked.shape[1]
        reach = min(NEIGHBOURS, count - 1)
        stretch = ranked[:, reach:] - ranked[:, : count - reach]
        spacing = np.full_like(ranked, np.inf)
        for first in range(reach + 1):  # of the stretches that hold it, each begins so many draws before it
            held = spacing[:, first : first + stretch.shape[1]]
            np.minimum(held, stretch, out=held)
        widths = np.empty_like(spacing)
        np.put_along_axis(widths, order, np.hypot(WIDTH, THIN * np.minimum(spacing, 200.0)), axis=1)
        return widths

    def bins(self) -> NDArray[np.uint8]:
        """Outcome bin of every hypothesis and draw, as whole numbers below ``BINS``; NaN falls in the last."""
        placed = self._placed
        finite = placed[np.isfinite(placed)]
        if finite.size == 0:
            return np.full(placed.shape, BINS - 1, dtype=np.uint8)
        low, high = float(finite.min()), float(finite.max())
        width = max((high - low) / (BINS - 2), 2.5 * WIDTH)
        binned = np.floor((placed - low) / width)
        return np.where(np.isfinite(binned), binned, BINS - 1).astype(np.uint8)


def _or_a_slip(near: Array, slip: float) -> Array:
    fitted: Array = np.log((1 - slip) * near + slip / SLIP_RANGE)
    return fitted


@dataclass(frozen=True)
class Words:
    """A display of words. chance: word -> (hypotheses, draws), NaN where it cannot be measured."""

    chance: Mapping[str, Array]

    def fit(self, word: str, slip: float = SLIP) -> Array:
        """Log-likelihood of the word, (hypotheses, draws). slip: chance that it is one."""
        chance = self.chance.get(word)
        if chance is None:
            return np.zeros_like(next(iter(self.chance.values())))
        fitted: Array = np.log((1 - slip) * np.nan_to_num(chance) + slip / max(len(self.chance), 2))
        return fitted

    def astray(self) -> float:
        """Log-likelihood of any word where the reading was a slip."""
        return -float(np.log(max(len(self.chance), 2)))


Display = Figure | Words


class Outcomes:
    """A display's outcomes, worked out once: chances follow from the draws' present weights."""

    def __init__(self, display: Display, shape: tuple[int, int]) -> None:
        self._places: NDArray[np.int64] | None = None
        self._used = 0
        self._words: Array | None = None
        if isinstance(display, Words):
            chance = np.stack([np.broadcast_to(item, shape) for item in display.chance.values()], axis=2)
            self._words = np.nan_to_num(chance).astype(np.float32)
        else:
            bins = np.broadcast_to(display.bins(), shape)
            used = np.flatnonzero(np.bincount(bins.ravel(), minlength=BINS))
            place = np.zeros(BINS, dtype=np.int64)
            place[used] = np.arange(used.size)
            self._places, self._used = place[bins], used.size

    def chances(self, draws: Array, shown: NDArray[np.int64]) -> Array:
        """Chance of each outcome, (rows, outcomes), from the draws' chances (rows, draws) and the rows of the
        hypotheses that the reading meets.
        """
        if self._words is not None:
            return np.einsum("hd,hdw->hw", draws, self._words[shown])
        assert self._places is not None
        places = np.arange(shown.size)[:, None] * self._used + self._places[shown]
        table = np.bincount(places.ravel(), weights=draws.ravel(), minlength=shown.size * self._used)
        return table.reshape(shown.size, self._used)
