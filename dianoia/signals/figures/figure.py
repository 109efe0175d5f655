"""A figure of a trace: its value, how far it may be off, and the stretch it was read off."""

from dataclasses import dataclass
from typing import Self

import numpy as np

from dianoia.signals.recording import Trace
from dianoia.signals.timing import Timing

#: Digits that a figure is given with.
_DIGITS = 6


@dataclass(frozen=True, slots=True)
class Figure:
    """One figure."""

    name: str
    value: float | None
    """In base units; None for never, or where it cannot be told."""
    error: float | None = None
    """How far it may be off at most, in the same units; None where that is not said."""
    from_s: float | None = None
    """Start of the stretch it was read off."""
    to_s: float | None = None
    """End of that stretch."""
    reason: str = ""
    """Why it cannot be told; empty where it can."""

    @property
    def told(self) -> bool:
        """Whether the recording can tell it."""
        return not self.reason

    def scaled(self, factor: float) -> Self:
        """In another unit."""
        if factor == 1.0:
            return self
        value = None if self.value is None else self.value * factor
        error = None if self.error is None else self.error * factor
        return type(self)(self.name, value, error, self.from_s, self.to_s, self.reason)


def cannot_tell(name: str, reason: str) -> Figure:
    """A figure that this recording does not tell."""
    return Figure(name, None, reason=reason)


def rounded(value: float | None) -> float | None:
    """A number with as many digits as mean something."""
    return None if value is None else float(f"{value:.{_DIGITS}g}")


def extent(trace: Trace, timing: Timing) -> list[Figure]:
    """Lowest, highest, mean and amplitude. A peak between two samples is missed by less than half the step to its neighbours."""
    values, at_s = trace.values, trace.at_s
    low, high = int(values.argmin()), int(values.argmax())
    half = timing.resolution / 2
    lowest, highest = float(values[low]), float(values[high])
    errors = [half + _missed(trace, place) for place in (low, high)]
    mean = float(values.mean()) if timing.spacing.regular or len(values) < 2 else _mean_over_time(trace)
    began, ended = float(at_s[0]), float(at_s[-1])
    unseen = (highest - lowest) * timing.step_s / max(ended - began, timing.step_s, 1e-9)
    return [
        Figure("min", lowest, errors[0], float(at_s[low]), float(at_s[low])),
        Figure("max", highest, errors[1], float(at_s[high]), float(at_s[high])),
        Figure("mean", mean, half + unseen, began, ended),
        Figure("amplitude", highest - lowest, sum(errors), began, ended),
    ]


def _missed(trace: Trace, place: int) -> float:
    near = trace.values[max(0, place - 1) : place + 2]
    return float(np.abs(np.diff(near)).max() / 2) if len(near) > 1 else 0.0


def _mean_over_time(trace: Trace) -> float:
    return float(np.trapezoid(trace.values, trace.at_s) / (trace.at_s[-1] - trace.at_s[0]))
