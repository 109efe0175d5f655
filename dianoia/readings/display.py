"""What an instrument shows under every hypothesis and draw, and how well a reading fits it.

A small share of readings is always held to be gross errors (misread, wrong pin), or one bad reading would rule the truth out.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.network import Array
from dianoia.quantities.meter import digit
from dianoia.quantities.types import Kind, Quantity
from dianoia.readings.scale import OL_FROM, error_unit, error_units

#: Share of readings that are gross errors.
GROSS_ERROR = 0.02
#: The same of a reading that was taken again and came out alike: both would have to be the same gross_error.
GROSS_ERROR_TWICE = 0.004
#: Factors by which the figures of a meter or a scope are misread: a wrong range, a wrong division.
MISREAD = (0.1, 0.5, 2.0, 10.0)
#: Width of the comparison, in steps: the instrument's own error and the coarseness of the draws.
WIDTH = 2.2
#: A draw speaks as far as this share of the shortest stretch that holds it and ``NEIGHBOURS`` others. It is the shortest, so that the last draw of a group (of one bias, of one way to drive) does not reach for the next group.
THIN, NEIGHBOURS = 0.3, 6
#: So many draws lie thin nowhere that matters.
ENOUGH = 400
#: Range, in error units, over which a gross error may fall: of ohms from a few hundredths to ``OL``, else of what is usual.
GROSS_ERROR_RANGE = 120.0
GROSS_ERROR_RANGE_OHMS = 260.0
#: Share of the gross errors that are misread by a factor; the rest is anything.
MISREAD_SHARE = 0.5
#: Share of the gross errors of an ohmmeter that are ``OL``: a tip that did not touch is mostly noticed; own estimate.
OL_SHARE = 0.05
#: Outcome bins of a figure when its information is weighed.
BINS = 48


@dataclass(frozen=True)
class Numeric:
    """A number on a display."""

    kind: Kind
    shown: Array
    """(hypotheses, draws) in the base unit, NaN where it cannot be measured."""
    #: Further width in error units, broadcastable to ``shown``: what stray leakage makes of a wire that floats.
    stray: Array | None = None
    #: Whether a factor may be misread: of a range or a division, not of what a tool prints.
    scaled: bool = True

    def fit(self, quantity: Quantity, gross_error: float = GROSS_ERROR) -> Array:
        """Log-likelihood of the reading, (hypotheses, draws). gross_error: chance that it is one."""
        width = self._width(quantity)
        near = self._near([quantity.value], width)
        return np.log((1 - gross_error) * near + gross_error * self._gross_error_density(quantity, width))

    def fit_and_gross_error(self, quantity: Quantity, gross_error: float) -> tuple[Array, Array]:
        """``fit``, and the log-likelihood of the figure where the reading as a whole was a gross error: half the time misread by a factor, else anything. Both are (hypotheses, draws). gross_error: chance that this figure alone is one."""
        width = self._width(quantity)
        astray = self._gross_error_density(quantity, width)
        near = self._near([quantity.value], width)
        return np.log((1 - gross_error) * near + gross_error * astray), np.log(astray)

    def astray(self, quantity: Quantity) -> Array:
        """Log-likelihood of the reading where it was a gross error, (hypotheses, draws)."""
        return np.log(self._gross_error_density(quantity, self._width(quantity)))

    def _gross_error_density(self, quantity: Quantity, width: Array) -> Array:
        """Density of a gross error (of ``OL``: its share): misread by a factor, else anything."""
        if quantity.over_limit:
            return np.full_like(width, OL_SHARE)
        anything = 1.0 / (GROSS_ERROR_RANGE_OHMS if self.kind == "resistance" else GROSS_ERROR_RANGE)
        if not self.scaled:
            return np.full_like(width, anything)
        misread = self._near([quantity.value / factor for factor in MISREAD], width)
        found: Array = MISREAD_SHARE * misread + (1.0 - MISREAD_SHARE) * anything
        return found

    def density(self, quantity: Quantity) -> Array:
        """Of a reading per error unit, were it none astray, (hypotheses, draws)."""
        return self._near([quantity.value], self._width(quantity))

    def _width(self, quantity: Quantity) -> Array:
        coarse = 0.0 if quantity.over_limit else 0.4 * digit(quantity) / error_unit(quantity.value, self.kind)
        added = np.float32(coarse**2) if self.stray is None else (coarse**2 + self.stray**2).astype(np.float32)
        width: Array = np.sqrt(self._squared_widths + added)
        return width

    def _near(self, values: Sequence[float], width: Array) -> Array:
        """Density per error unit around what each draw shows: its mean over some values; of ``OL`` the chance that it is shown."""
        if len(values) == 1 and np.isinf(values[0]):
            return self._over_limit
        narrow = np.float32(np.sqrt(0.5)) / width
        total = np.zeros_like(width)
        for value in values:
            apart = self._apart(value) * narrow
            apart *= apart
            total += np.exp(np.negative(apart, out=apart), out=apart)
        total *= narrow
        total /= np.float32(len(values) * np.sqrt(np.pi))
        total[np.isnan(total)] = 0.0
        return total

    def _apart(self, value: float) -> Array:
        """Error units between a value and what each draw shows."""
        apart: Array = np.float32(error_units(value, self.kind)) - self._placed
        return apart

    @cached_property
    def _over_limit(self) -> Array:
        """Chance that each draw shows ``OL``: one from where the first meters do, less the further below it stands."""
        below = np.maximum(self._apart(OL_FROM), np.float32(0.0)) / np.float32(WIDTH)
        chance: Array = np.exp(np.float32(-0.5) * below * below)
        return np.nan_to_num(chance)

    @cached_property
    def _placed(self) -> Array:
        """Where each draw stands on the scale of error units; at single precision, like all that is made of it."""
        return error_units(np.asarray(self.shown, dtype=np.float32), self.kind)

    @cached_property
    def _squared_widths(self) -> Array:
        """How far each draw speaks for its surroundings, in error units, squared: wider where the draws lie thin."""
        if self._placed.shape[-1] >= ENOUGH:
            return np.full_like(self._placed, WIDTH**2)
        placed = np.fmin(self._placed, np.float32(1e6))  # and what is not a number
        order = np.argsort(placed, axis=1)
        ranked = np.take_along_axis(placed, order, axis=1)
        reach = np.float32(THIN) * np.minimum(
            _shortest_held(ranked, min(NEIGHBOURS, ranked.shape[1] - 1)), np.float32(200)
        )
        squared = np.empty_like(ranked)
        np.put_along_axis(squared, order, np.float32(WIDTH**2) + reach * reach, axis=1)
        return squared

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


def _shortest_held(ranked: Array, reach: int) -> Array:
    """For each of some ranked values the shortest stretch that holds it and ``reach`` others of its row."""
    rows, count = ranked.shape
    held = np.full((rows, count + reach), np.inf, dtype=ranked.dtype)
    held[:, reach:count] = ranked[:, reach:] - ranked[:, : count - reach]
    seen = 1  # stretches looked at so far, each beginning one value later
    while seen < reach + 1:
        further = min(seen, reach + 1 - seen)
        held = np.minimum(held[:, :-further], held[:, further:])
        seen += further
    return held


@dataclass(frozen=True)
class Categorical:
    """A display of words."""

    chance: Mapping[str, Array]
    """Word -> (hypotheses, draws), NaN where it cannot be measured; kept at single precision."""

    def __post_init__(self) -> None:
        narrow = {word: np.asarray(chance, dtype=np.float32) for word, chance in self.chance.items()}
        object.__setattr__(self, "chance", narrow)

    def fit(self, word: str, gross_error: float = GROSS_ERROR) -> Array:
        """Log-likelihood of the word, (hypotheses, draws). gross_error: chance that it is one."""
        chance = self.chance.get(word)
        if chance is None:
            return np.zeros_like(next(iter(self.chance.values())))
        fitted: Array = np.log((1 - gross_error) * np.nan_to_num(chance) + gross_error / max(len(self.chance), 2))
        return fitted

    def astray(self) -> float:
        """Log-likelihood of any word where the reading was a gross error."""
        return -float(np.log(max(len(self.chance), 2)))
