"""What an instrument shows of a signal that moves: one look, a span, and whether it stands still, drifts or switches.

A meter averages about a third of a second and a scan tool refreshes one to ten times a second: both shrink a span and miss
changes. One look fits anything between the lowest and the highest, mostly near one of them.
"""

from dataclasses import dataclass

import numpy as np

from dianoia.circuit.network import Array
from dianoia.quantities.types import Kind, Quantity
from dianoia.readings.display import GROSS_ERROR, GROSS_ERROR_RANGE, Categorical, Numeric
from dianoia.readings.scale import error_unit, error_units

#: A meter averages over about so long, in s.
METER_S = 0.3
#: Share of looks that fall between the lowest and the highest, on the way from one to the other.
BETWEEN = 0.3
#: A swing of this much is called standing still as often as not, in the base unit; people round.
VISIBLE: dict[Kind, float] = {"voltage": 0.1, "cell_current": 5e-5, "lambda": 0.02, "ratio": 0.04}
#: So many changes a minute are called slow as often as switching.
FAST_PER_MIN = 10.0
#: Share of people who call a slow swing of more than this (in times ``VISIBLE``) switching.
LOOSE, WIDE = 0.3, 3.0
#: Nothing is said so surely of a movement that another word would not be noted now and then.
WORD_ASTRAY = 0.02


@dataclass(frozen=True)
class MovingValue:
    """A figure that moves between two."""

    low: Numeric
    """What it moves between."""
    high: Numeric
    """What it moves between."""
    up: Array
    """Share of the time near high, broadcastable."""

    @property
    def kind(self) -> Kind:
        """Of both ends."""
        return self.low.kind

    @property
    def shown(self) -> Array:
        """Its mean, (hypotheses, draws)."""
        mean: Array = self.up * self.high.shown + (1.0 - self.up) * self.low.shown
        return mean

    def fit(self, quantity: Quantity, gross_error: float = GROSS_ERROR) -> Array:
        """Log-likelihood of one look, (hypotheses, draws)."""
        near = self._near(quantity)
        found: Array = np.log((1.0 - gross_error) * near + gross_error * self._anything())
        return found

    def astray(self, quantity: Quantity) -> Array:
        """Log-likelihood of a look that was a gross error."""
        return np.full(np.broadcast_shapes(self.low.shown.shape, self.high.shown.shape), np.log(self._anything()))

    def _anything(self) -> float:
        return 1.0 / GROSS_ERROR_RANGE

    def _near(self, quantity: Quantity) -> Array:
        at_ends = self.up * self.high.density(quantity) + (1.0 - self.up) * self.low.density(quantity)
        low, high = (error_units(np.asarray(end.shown, dtype=np.float32), self.kind) for end in (self.low, self.high))
        place, apart = float(error_units(quantity.value, self.kind)), np.maximum(high - low, 1.0)
        inside = ((place >= low) & (place <= high)) / apart
        share = np.where(high - low > 3.0, BETWEEN, 0.0)
        found: Array = (1.0 - share) * at_ends + share * inside
        return np.nan_to_num(found)

    def spread(self, parts: int = 5) -> list[tuple[Array, Array]]:
        """Values it takes with their chances, for what is foreseen of a look."""
        between = np.where(np.abs(self.high.shown - self.low.shown) > 3 * error_unit(0.0, self.kind), BETWEEN, 0.0)
        ends = [(self.low.shown, (1.0 - between) * (1.0 - self.up)), (self.high.shown, (1.0 - between) * self.up)]
        inside = [(n + 0.5) / parts for n in range(parts)]
        return ends + [(self.low.shown + at * (self.high.shown - self.low.shown), between / parts) for at in inside]


@dataclass(frozen=True)
class Levels:
    """A signal between its lean and its rich level."""

    kind: Kind
    low: Array
    """In the base unit, low the lower."""
    high: Array
    """In the base unit, low the lower."""
    up: Array
    """Share of the time near high."""
    changes: Array
    """A minute; all (hypotheses, draws) or broadcastable to it."""

    def seen(self, kept: Array) -> "Levels":
        """Through an instrument that keeps this share of the swing."""
        middle, half = (self.low + self.high) / 2.0, (self.high - self.low) / 2.0
        return Levels(self.kind, middle - kept * half, middle + kept * half, self.up, self.changes)

    def through_meter(self) -> "Levels":
        """Through a meter: a half-wave shorter than it averages over loses as much."""
        return self.seen(np.minimum(60.0 / np.maximum(self.changes, 0.1) / METER_S, 1.0))

    def look(self) -> MovingValue:
        """One look."""
        return MovingValue(*self.ends(), self.up)

    def ends(self) -> tuple[Numeric, Numeric]:
        """The lowest and the highest of a span."""
        return live(self.kind, self.low), live(self.kind, self.high)

    def moves(self) -> Categorical:
        """How often it is called steady, slow and switching."""
        swing = np.abs(self.high - self.low) / VISIBLE[self.kind]
        visible = swing**3 / (1.0 + swing**3)
        fast = self.changes**3 / (FAST_PER_MIN**3 + self.changes**3)
        loose = np.where(swing > WIDE, LOOSE, 0.0)
        switching = visible * (fast + (1.0 - fast) * loose)
        chance = {"steady": 1.0 - visible, "slow": visible - switching, "switching": switching}
        return Categorical({word: (1.0 - 3 * WORD_ASTRAY) * share + WORD_ASTRAY for word, share in chance.items()})


def live(kind: Kind, shown: Array) -> Numeric:
    """A figure as a tool prints it, or as it is told of a signal that moves."""
    return Numeric(kind, shown, scaled=False)
