"""The module's mixture control: what it hears of the front cell, and what its trims then make up for.

The long trim holds what has been learnt, the short one the rest, so that their sum says how far the mixture is off.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dianoia.circuit.cells.cell import LEAN, RICH
from dianoia.circuit.network import Array

#: A cell that swings by less than this share of what a sound one does is not followed.
HEARD_FROM = 0.3
#: What a continuous loop holds, between what it hears of lean (0) and of rich (1) gas.
MIDDLE = 0.48
#: Share of the modules that open the loop where they hear one side for good, instead of running the trims to their end.
GIVEN_UP = 0.4
#: Trims at a fault as shares: what makes up for a mixture fault or a leak at idle, for a cell that reads off, and what is usual. At speed a leak matters a quarter as much, and so do half of the lean engines (air past the meter).
MIXTURE, LEAK, OFF, USUAL, LESS_AT_SPEED = (0.08, 0.45), (0.03, 0.4), (0.04, 0.15), 0.08, 0.25
#: Ends of the long trim, which modules differ in, and of the short one.
LONG_END, SHORT_END = (0.2, 0.4), 0.25
#: Share of the cars in which all that is off has been learnt; in the rest a part of it.
LEARNT = 0.7
#: How far the short trim is off its place when it is looked at.
WANDERS = 0.03


@dataclass(frozen=True)
class ControlInput:
    """What the module hears of a front cell, (hypotheses, draws): lean or rich for good, while it acts on it; or
    nothing to act on. Where none is True the loop works.
    """

    lean: Array
    rich: Array
    nothing: Array
    held: Array
    """Where between lean (0) and rich (1) gas a continuous loop then holds the mixture, so that what it hears is the
    middle.
    """


def deaf_to_none() -> ControlInput:
    """A loop that works under every hypothesis."""
    no = np.zeros((1, 1), dtype=bool)
    return ControlInput(no, no, no, np.full((1, 1), MIDDLE))


def heard(at: Mapping[str, Array], hot: Mapping[str, Array], gives_up: Array) -> ControlInput:
    """From what arrives at the module from a lean and a rich cell, (hypotheses, draws); the first hypothesis is the sound one.

    hot: the same with the cell at its heat; gives_up: (1, draws) True where the module opens the loop on hearing one side only.
    """
    lean, swing = hot[LEAN][:1], hot[RICH][:1] - hot[LEAN][:1]
    swing = np.where(np.abs(swing) < 1e-9, np.nan, swing)
    places = [(at[phase] - lean) / swing for phase in (LEAN, RICH)]
    low, high = np.minimum(*places), np.maximum(*places)
    held = (MIDDLE - places[0]) / np.where(np.abs(places[1] - places[0]) < 1e-6, np.nan, places[1] - places[0])
    # a signal that does not reach the other side of the middle, and one that stands still near it
    only_lean, only_rich = high < 0.45, low > 0.55
    still = (high - low < HEARD_FROM) & ~(high < 0.3) & ~(low > 0.8)
    nothing = np.where(np.isnan(swing), False, still | ((only_lean | only_rich) & gives_up))
    return ControlInput(
        only_lean & ~nothing, only_rich & ~nothing, nothing, np.clip(np.nan_to_num(held, nan=MIDDLE), 0.0, 1.0)
    )


@dataclass(frozen=True)
class Trims:
    """What the trims show."""

    lean: Array
    """(hypotheses, 1) marks of the faults."""
    rich: Array
    """(hypotheses, 1) marks of the faults."""
    leak: Array
    """(hypotheses, 1) marks of the faults."""
    reads_lean: Array
    """(hypotheses, 1) marks of the faults."""
    reads_rich: Array
    """(hypotheses, 1) marks of the faults."""
    swapped: Array
    """(hypotheses, 1) marks of the faults."""
    heard: ControlInput
    """Of the front cell."""
    front: bool
    """Whether the job's sensor is one."""
    size: Array
    kind: Array
    side: Array
    wanders: Array
    beyond: Array
    """(1, draws) True where a fault is past the trims' end, where crossed sensors have driven them there, and where
    the module opens the loop over it; the rest are unit samples, (1, draws).
    """
    run_away: Array
    """(1, draws) True where a fault is past the trims' end, where crossed sensors have driven them there, and where
    the module opens the loop over it; the rest are unit samples, (1, draws).
    """
    gives_up: Array
    """(1, draws) True where a fault is past the trims' end, where crossed sensors have driven them there, and where
    the module opens the loop over it; the rest are unit samples, (1, draws).
    """
    learnt: Array
    end: Array

    def total(self, fast: bool) -> Array:
        """How much is made up for, (hypotheses, draws). fast: above idle."""
        usual = USUAL * (2.0 * self.size - 1.0)
        much = between(MIXTURE, self.size)
        air = np.where(self.kind < 0.5, LESS_AT_SPEED, 1.0) if fast else np.ones_like(much)
        end = between(LONG_END, self.end) + SHORT_END
        found = np.where(self.lean, much * air, np.where(self.rich, -much, usual))
        found = np.where(self.beyond & (self.lean | self.rich), np.where(self.lean, end * air, -end), found)
        if not self.front:
            return found
        off = between(OFF, self.size)
        leak = np.where(self.beyond, end, between(LEAK, self.size)) * (LESS_AT_SPEED if fast else 1.0)
        found = np.where(self.leak, leak, found)
        found = np.where(self.reads_lean, usual + off, np.where(self.reads_rich, usual - off, found))
        found = np.where(self.swapped & self.run_away, np.where(self.side < 0.5, end, -end), found)
        found = np.where(self.heard.lean, end, np.where(self.heard.rich, -end, found))
        return np.where(self.heard.nothing, usual, found)

    def long(self, fast: bool, cleared: bool) -> Array:
        """The learnt one. cleared: with the codes what was learnt is lost."""
        end = between(LONG_END, self.end)
        part = np.where(self.learnt < LEARNT, 1.0, (self.learnt - LEARNT) / (1.0 - LEARNT))
        return np.clip((0.3 * self.learnt if cleared else part) * self.total(fast), -end, end)

    def short(self, fast: bool, cleared: bool) -> Array:
        """What is left to it; with the loop open it stands at nought."""
        left = np.clip(self.total(fast) - self.long(fast, cleared), -SHORT_END, SHORT_END)
        opened = self.beyond & self.gives_up & (self.lean | self.rich | (self.leak & self.front))
        return np.where(self.heard.nothing | opened, 0.0, left + WANDERS * (2.0 * self.wanders - 1.0))


def between(ends: tuple[float, float], unit: Array) -> Array:
    """A unit sample between two ends."""
    return ends[0] + (ends[1] - ends[0]) * unit
