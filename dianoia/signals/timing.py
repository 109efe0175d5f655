"""How a trace was sampled: spacing, gaps, how often a value is fresh, how finely it is shown."""

from dataclasses import dataclass

import numpy as np

from dianoia.signals.columns import OF_SCOPE
from dianoia.signals.recording import Samples, Trace

#: A spacing of so many usual ones is a gap, if it lasts this long at least.
GAP_STEPS, GAP_S = 5.0, 0.5
#: Samples of each of the stretches that are looked at for fresh values.
_BLOCK, _BLOCKS = 16_384, 4
#: Channels of a scope, which repeats no value, and steps that its converter has at least over a swing: 7 of 8 bits.
_SCOPE_STEPS = 128
#: Signals that move all the time while a healthy engine runs: what stands still between two rows was not asked anew.
MOVING = frozenset(("sensor_voltage", "cell_current", "lambda"))
#: So many changes are needed to tell how often a value is fresh.
_CHANGES = 8


@dataclass(frozen=True, slots=True)
class Spacing:
    """How a column of times runs."""

    step_s: float
    """Median spacing in seconds."""
    gaps: tuple[tuple[float, float], ...]
    """Spans without a sample, in seconds."""
    covered_s: float
    """Seconds without the gaps."""
    regular: bool
    """Whether all spacings are within a tenth of the median."""


@dataclass(frozen=True, slots=True)
class Timing:
    """How a trace was sampled."""

    spacing: Spacing
    fresh_s: float
    """Seconds from one fresh value to the next: a scan tool may repeat a value in many rows."""
    resolution: float
    """Smallest step between two values, in the signal's unit; 0 where it never changes."""

    @property
    def step_s(self) -> float:
        """Seconds within which nothing is known of the signal."""
        return max(self.spacing.step_s, self.fresh_s)


def spacing_of(at_s: Samples) -> Spacing:
    """How a column of times runs. at_s: rising, shape (n,)."""
    if len(at_s) < 2:
        return Spacing(0.0, (), 0.0, True)
    steps = np.diff(at_s)
    step = float(np.median(steps[:: max(1, len(steps) // 20_000)]))
    wide = np.flatnonzero(steps > max(GAP_STEPS * step, GAP_S))
    gaps = tuple((float(at_s[place]), float(at_s[place + 1])) for place in wide[:10_000])
    covered = float(at_s[-1] - at_s[0]) - float(steps[wide].sum())
    regular = bool(steps.max() < 1.1 * step and steps.min() > 0.9 * step)
    return Spacing(step, gaps, covered, regular)


def timing_of(trace: Trace, spacing: Spacing) -> Timing:
    """How a trace was sampled. spacing: of its times."""
    apart: list[Samples] = []
    steps: list[float] = []
    for first in _starts(len(trace.values)):
        values = trace.values[first : first + _BLOCK]
        changes = np.diff(values)
        at = np.flatnonzero(changes)
        if len(at):
            steps.append(float(np.abs(changes[at]).min()))
        if len(at) >= _CHANGES:
            apart.append(np.diff(trace.at_s[first : first + _BLOCK][at]))
    finest = round(min(steps, default=0.0), 9)
    if trace.signal in OF_SCOPE:
        return Timing(spacing, spacing.step_s, min(finest, float(np.ptp(trace.values)) / _SCOPE_STEPS))
    if not apart or trace.signal not in MOVING:
        return Timing(spacing, spacing.step_s, finest)
    fresh = float(np.percentile(np.concatenate(apart), 10))
    return Timing(spacing, fresh, finest)


def _starts(count: int) -> list[int]:
    last = max(0, count - _BLOCK)
    return sorted({int(last * part / (_BLOCKS - 1)) for part in range(_BLOCKS)}) if count else []
