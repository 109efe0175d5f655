"""How the gas at a cell moves: between which places of the scale from lean (0) to rich (1), how much of the time up, how often.

A closed loop keeps a front switching sensor going between its two levels; a continuous one stays about the middle. A mixture
fault is mostly made up for by the trims, and the sensor goes on switching; only past their end it stays at one level. The loop
goes by what the module hears: where it hears lean for good it makes the gas rich, and where it hears nothing it lets go. Behind
a good catalyst the gas drifts a little on the rich side; behind a worn one it follows the front.
"""

from dataclasses import dataclass

import numpy as np

from dianoia.case.setting import Setting
from dianoia.circuit.network import Array
from dianoia.readings.control import ControlInput

#: What is done to the mixture -> where the sensor settles; the first of these that is named counts.
SETTLES = {"rich": 1.0, "snap": 1.0, "lean": 0.0, "fuel-cut": 0.0, "fresh-air": 0.0}
#: Share of mixture faults and leaks that the trims cannot make up for; own estimate.
PAST_THE_TRIMS = 0.35
#: Share of leaks through which an enriched mixture still reads rich to a sensor that only says which side, in front and behind.
RICH_THROUGH_A_LEAK = (0.85, 0.65)
#: Switches a minute of a sound front sensor: a half-wave lasts twice the way from the valve to the cell, 0.2 to 0.5 s at idle.
SWITCHES = (35.0, 150.0)
#: A slow edge from 0.3 to 0.6 V holds up each half-wave by so many times its length, there and back.
HELD_UP = 3.0
#: Share of people who note the band in which a stirred signal settles, and who note a part of the way to it.
BAND_NOTED, PART_NOTED = 0.45, 0.2
#: Share of people who go on noting until the throttle has closed after a snap: the fuel is cut meanwhile; own estimate.
CLOSING_NOTED = 0.5
#: Share of the healthy catalysts that a strong swing of the mixture passes now and then, so that the signal dips.
PASSED_NOW_AND_THEN = 0.15
#: What puts a probe in air: a cell that says how lean then shows up to so many times, and one more, of what a lean mixture makes it show.
AIR, LEANEST = frozenset(("fuel-cut", "fresh-air")), 4.0
#: Of the crossed front sensors, those that have run the trims to their opposite ends.
RUN_AWAY = 0.75
#: Without a closed loop the gas stands at one side, and passes from one to the other in this share of the cars.
PASSING = 0.25
#: Above this engine speed little air leaks in against what flows, in 1/min.
FAST_RPM = 1700.0


@dataclass(frozen=True)
class Movement:
    """How a signal moves."""

    low: Array
    """Places on the scale."""
    high: Array
    """Places on the scale."""
    up: Array
    """Share of the time near high."""
    changes: Array
    """A minute; (hypotheses, draws) each, or broadcastable."""
    settled: Array | None = None
    """Where it comes to rest after a stimulus, None without."""
    steps: bool = True
    """Of a sensor that only says which side."""


@dataclass(frozen=True)
class Gas:
    """The hypotheses' marks, (hypotheses, 1) each, and the draws' samples, (1, draws)."""

    slow: Array
    """A cell slow enough to be held off its middle."""
    edge_s: Array
    """From 0.3 to 0.6 V, more than a sound one's, (hypotheses, draws)."""
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
    dips: Array
    air: Array
    noted: Array
    """How people note what they stirred, which goes with nothing else."""
    part: Array
    """How people note what they stirred, which goes with nothing else."""
    closing: Array
    """How people note what they stirred, which goes with nothing else."""

    def at_rest(self) -> Movement:
        """Engine off: the cell is in air or in what is left of the gas."""
        still = np.zeros_like(self.mixture)
        return Movement(still, still, still, still)

    def front(self, setting: Setting, heard: ControlInput) -> Movement:
        """A switching sensor ahead of the catalyst."""
        low, high, changes = self._closed(setting)
        for side, where in ((1.0, heard.lean), (0.0, heard.rich)):
            low, high = np.where(where, side, low), np.where(where, side, high)
        changes = np.where(heard.lean | heard.rich, 3.0 * self.rate, changes)
        passing = self.rate > 1.0 - PASSING
        aside = np.where(self.mixture < 0.5, 0.0, 1.0)
        low = np.where(heard.nothing, np.where(passing, 0.0, aside * (1.0 - 0.15 * self.swing)), low)
        high = np.where(heard.nothing, np.where(passing, 1.0, aside + (1.0 - aside) * 0.15 * self.swing), high)
        changes = np.where(heard.nothing, 12.0 * self.swing, changes)
        return Movement(low, high, 0.38 + 0.24 * self.mixture, changes)

    def _closed(self, setting: Setting) -> tuple[Array, Array, Array]:
        """Low, high and changes where the loop works."""
        fewest, most = SWITCHES
        sound = (fewest + (most - fewest) * self.rate) * (2.0 if self._at_speed(setting) else 1.0)
        changes = 60.0 / (60.0 / sound + HELD_UP * self.edge_s)
        low, high = np.zeros_like(changes), np.ones_like(changes)
        lean, rich = self._stays(setting)
        crossed = self.swapped & (self.past < RUN_AWAY)
        low, high = np.where(rich, 1.0 - 0.4 * self.swing, low), np.where(lean, 0.4 * self.swing, high)
        low = np.where(crossed, np.where(self.mixture < 0.5, 0.0, 0.9), low)
        high = np.where(crossed, np.where(self.mixture < 0.5, 0.1, 1.0), high)
        return low, high, np.where(lean | rich | crossed, 3.0 * self.rate, changes)

    def continuous(self, setting: Setting, heard: ControlInput) -> Movement:
        """One that says how rich or lean, held at the middle by its loop."""
        half = np.where(self.slow, 0.05 + 0.25 * self.swing, 0.01 + 0.2 * self.swing**3)
        lean, rich = self._stays(setting)
        middle = np.where(
            lean, 0.35 * self.place, np.where(rich, 1.0 - 0.35 * self.place, heard.held + 0.04 * self.place)
        )
        middle = np.where(heard.lean, 1.0 - 0.3 * self.place, np.where(heard.rich, 0.3 * self.place, middle))
        middle = np.where(heard.nothing, 0.35 + 0.3 * self.mixture, middle)
        return Movement(middle - half, middle + half, 0.38 + 0.24 * self.mixture, 10.0 + 60.0 * self.rate, steps=False)

    def rear(self, setting: Setting) -> Movement:
        """One behind the catalyst."""
        lean, rich = self._stays(setting)
        low = np.where(self.worn, 0.15 * self.place, 0.42 + 0.3 * self.place)
        high = np.where(self.worn, 0.8 + 0.2 * self.swing, np.minimum(low + 0.06 + 0.3 * self.swing, 0.95))
        dips = ~self.worn & (self.dips < PASSED_NOW_AND_THEN)
        low = np.where(dips, 0.35 * self.place, low)
        high = np.where(dips, 0.5 + 0.4 * self.swing, high)
        followed = np.where(self.worn, 25.0 + 60.0 * self.rate, np.where(dips, 40.0, 6.0) * self.rate)
        changes = 60.0 / (60.0 / np.maximum(followed, 0.1) + HELD_UP * self.edge_s)
        leaking = self.leak & ~self._at_speed(setting)
        low = np.where(leaking | lean, 0.0, np.where(rich, 0.85, low))
        high = np.where(
            leaking, 0.05 + 0.3 * self.swing, np.where(lean, 0.1 + 0.3 * self.swing, np.where(rich, 1.0, high))
        )
        return Movement(low, high, 0.3 + 0.5 * self.mixture, changes)

    def stirred(self, setting: Setting, asked: str, idle: Movement, behind: bool) -> Movement:
        """After a stimulus: from anywhere to where it settles. behind: whether the catalyst lies before the cell."""
        settled = np.full_like(self.mixture, SETTLES[asked]) + np.zeros_like(idle.high)
        if asked in AIR and not idle.steps:
            settled = settled - 1.0 - LEANEST * self.air
        if asked == "rich":
            settled = np.where(self.leak & ~self._at_speed(setting), self._thinned(idle.steps, behind), settled)
        upward = settled > 0.5
        # some note the band in which it settles, some all from the stimulus on, some a part of it
        band = settled + np.where(upward, -0.1, 0.1) * self.part
        idling = np.where(upward, idle.low, idle.high)
        part = idling + (settled - idling) * 0.5 * self.part
        start = np.where(self.noted < BAND_NOTED, band, np.where(self.noted < 1.0 - PART_NOTED, idling, part))
        low, high = np.minimum(start, settled), np.maximum(start, settled)
        if asked == "snap":
            cut = np.maximum(0.6 * self.part - 0.3, 0.0) if idle.steps else -1.0 - LEANEST * self.air
            low = np.where(self.closing < CLOSING_NOTED, np.minimum(low, cut), low)
        return Movement(low, high, 0.5 + np.zeros_like(low), idle.changes, settled)

    def _thinned(self, steps: bool, behind: bool) -> Array:
        """Where an enriched mixture settles with air leaking in: one sensor says only which side, another how much."""
        if not steps:
            return 1.0 - self.place
        return np.where(self.place > RICH_THROUGH_A_LEAK[behind], 0.1 * self.swing**3, 1.0)

    def _stays(self, setting: Setting) -> tuple[Array, Array]:
        """Where the trims cannot make up for a mixture fault or a leak: at lean, at rich."""
        beyond = self.past < PAST_THE_TRIMS
        leaking = self.leak & ~self._at_speed(setting)
        return (self.lean | leaking) & beyond, self.rich & beyond

    def _at_speed(self, setting: Setting) -> bool:
        return setting.rpm is not None and setting.rpm > FAST_RPM
