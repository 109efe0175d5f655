"""How the gas at a cell moves: between which places of the scale from lean (0) to rich (1), how much of the time up, how often.

A closed loop keeps a front switching sensor going between its two levels; a continuous one stays about the middle. A mixture
fault is mostly made up for by the trims, and the sensor goes on switching; only past their end it stays at one level. Behind
a good catalyst the gas drifts a little on the rich side; behind a worn one it follows the front.
"""

from dataclasses import dataclass

import numpy as np

from dianoia.case.setting import Setting
from dianoia.circuit.network import Array

#: What is done to the mixture -> where the sensor settles; the first of these that is named counts.
SETTLES = {"rich": 1.0, "snap": 1.0, "lean": 0.0, "fuel-cut": 0.0, "fresh-air": 0.0}
#: Share of mixture faults and leaks that the trims cannot make up for; own estimate.
PAST_THE_TRIMS = 0.35
#: Share of leaks through which an enriched mixture still reads rich.
RICH_THROUGH_A_LEAK = 0.85
#: The same of a sensor that says how lean: what leaks in adds to what it reads.
LEAN_THROUGH_A_LEAK = 0.5
#: Above this engine speed little air leaks in against what flows, in 1/min.
FAST_RPM = 1700.0


@dataclass(frozen=True)
class Movement:
    """low, high: places on the scale; up: share of the time near high; changes: a minute; (hypotheses, draws) each, or
    broadcastable. settled: where it comes to rest after a stimulus, None without; steps: of a
    sensor that only says which side.
    """

    low: Array
    high: Array
    up: Array
    changes: Array
    settled: Array | None = None
    steps: bool = True


@dataclass(frozen=True)
class Gas:
    """The hypotheses' marks, (hypotheses, 1) each, and the draws' samples, (1, draws)."""

    slow: Array
    lean: Array
    rich: Array
    leak: Array
    worn: Array
    swapped: Array
    mixture: Array
    rate: Array
    swing: Array
    place: Array
    past: Array

    def at_rest(self) -> Movement:
        """Engine off: the cell is in air or in what is left of the gas."""
        still = np.zeros_like(self.mixture)
        return Movement(still, still, still, still)

    def front(self, setting: Setting) -> Movement:
        """A switching sensor ahead of the catalyst."""
        changes = np.where(self.slow, 4.0 + 20.0 * self.rate, 35.0 + 90.0 * self.rate)
        low, high = np.zeros_like(changes), np.ones_like(changes)
        lean, rich = self._stays(setting)
        low, high = np.where(rich, 1.0 - 0.4 * self.swing, low), np.where(lean, 0.4 * self.swing, high)
        return Movement(low, high, 0.38 + 0.24 * self.mixture, np.where(lean | rich, 3.0 * self.rate, changes))

    def continuous(self, setting: Setting) -> Movement:
        """One that says how rich or lean, held at the middle by its loop."""
        half = np.where(self.slow, 0.05 + 0.25 * self.swing, 0.01 + 0.2 * self.swing**2)
        lean, rich = self._stays(setting)
        middle = np.where(lean, 0.35 * self.place, np.where(rich, 1.0 - 0.35 * self.place, 0.48 + 0.04 * self.place))
        return Movement(middle - half, middle + half, 0.38 + 0.24 * self.mixture, 10.0 + 60.0 * self.rate, steps=False)

    def rear(self, setting: Setting) -> Movement:
        """One behind the catalyst."""
        lean, rich = self._stays(setting)
        low = np.where(self.worn, 0.15 * self.place, 0.42 + 0.3 * self.place)
        high = np.where(self.worn, 0.8 + 0.2 * self.swing, np.minimum(low + 0.06 + 0.3 * self.swing, 0.95))
        changes = np.where(self.worn, 25.0 + 60.0 * self.rate, 6.0 * self.rate)
        leaking = self.leak & ~self._at_speed(setting)
        low = np.where(leaking | lean, 0.0, np.where(rich, 0.85, low))
        high = np.where(
            leaking, 0.05 + 0.3 * self.swing, np.where(lean, 0.1 + 0.3 * self.swing, np.where(rich, 1.0, high))
        )
        return Movement(low, high, 0.3 + 0.5 * self.mixture, changes)

    def stirred(self, setting: Setting, asked: str, idle: Movement) -> Movement:
        """After a stimulus: from anywhere to where it settles."""
        settled = np.full_like(self.mixture, SETTLES[asked]) + np.zeros_like(idle.high)
        if asked == "rich":
            through = RICH_THROUGH_A_LEAK if idle.steps else LEAN_THROUGH_A_LEAK
            thinned = self.leak & (self.place > through) & ~self._at_speed(setting)
            settled = np.where(thinned, 0.1, settled)
        # some note the span from the stimulus on, some the band in which it settles
        start = np.where(self.rate < 0.5, 0.9 + 0.1 * self.swing, 0.5 * self.swing) + np.zeros_like(settled)
        low = np.where(settled > 0.5, start, settled)
        high = np.where(settled > 0.5, settled, np.maximum(1.0 - start, settled))
        settled = np.where(self.swapped, idle.low + (idle.high - idle.low) * self.mixture, settled)
        low, high = np.where(self.swapped, idle.low, low), np.where(self.swapped, idle.high, high)
        return Movement(low, high, 0.5 + np.zeros_like(low), idle.changes, settled)

    def _stays(self, setting: Setting) -> tuple[Array, Array]:
        """Where the trims cannot make up for a mixture fault or a leak: at lean, at rich."""
        beyond = self.past < PAST_THE_TRIMS
        leaking = self.leak & ~self._at_speed(setting)
        return (self.lean | leaking) & beyond, self.rich & beyond

    def _at_speed(self, setting: Setting) -> bool:
        return setting.rpm is not None and setting.rpm > FAST_RPM
