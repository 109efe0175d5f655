"""Where a signal goes from below a low level to above a high one, and back."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dianoia.signals.recording import Samples, Trace

#: Samples looked at at a time: what is computed in between stays in the processor's cache.
_BLOCK = 65_536


@dataclass(frozen=True, eq=False, slots=True)
class Crossings:
    """Changes from one side to the other, each with hysteresis, in the order of time."""

    before: NDArray[np.int64]
    """Last sample on the old side, shape (k,)."""
    after: NDArray[np.int64]
    """First sample on the new side, shape (k,)."""
    rising: NDArray[np.bool_]
    """Whether it went up, shape (k,)."""
    first_outside: int | None
    """First sample on either side; None where all samples lie between."""


def crossings(values: Samples, low: float, high: float) -> Crossings:
    """Changes between samples below ``low`` and above ``high``; what lies between the two changes nothing."""
    before: list[NDArray[np.int64]] = []
    after: list[NDArray[np.int64]] = []
    rising: list[NDArray[np.bool_]] = []
    last, up, first_outside = -1, False, None
    for first in range(0, len(values), _BLOCK):
        block = values[first : first + _BLOCK]
        above = block > high
        outside = np.flatnonzero(above | (block < low))
        if len(outside) == 0:
            continue
        side = above[outside]
        outside = outside + first
        if last >= 0:
            outside, side = np.concatenate(([last], outside)), np.concatenate(([up], side))
        else:
            first_outside = int(outside[0])
        turned = np.flatnonzero(side[1:] != side[:-1])
        before.append(outside[turned])
        after.append(outside[turned + 1])
        rising.append(side[turned + 1])
        last, up = int(outside[-1]), bool(side[-1])
    if not before:
        nothing = np.zeros(0, dtype=np.int64)
        return Crossings(nothing, nothing, np.zeros(0, dtype=bool), first_outside)
    return Crossings(np.concatenate(before), np.concatenate(after), np.concatenate(rising), first_outside)


def times_at(trace: Trace, found: Crossings, level: float) -> Samples:
    """When each crossing passed a level, on the line from its last sample before to its first after, in seconds, shape (k,)."""
    started, ended = trace.values[found.before], trace.values[found.after]
    share = np.clip((level - started) / (ended - started), 0.0, 1.0)
    began = trace.at_s[found.before]
    times: Samples = began + share * (trace.at_s[found.after] - began)
    return times


def passages(trace: Trace, found: Crossings, low: float, high: float) -> Samples:
    """Seconds that each crossing took from one level to the other, between neighbouring samples, shape (k,)."""
    leaving = _between(trace, found.before, np.where(found.rising, low, high))
    arriving = _between(trace, found.after - 1, np.where(found.rising, high, low))
    taken: Samples = np.maximum(arriving - leaving, 0.0)
    return taken


def _between(trace: Trace, first: NDArray[np.int64], level: Samples) -> Samples:
    """When a level is passed between a sample and the next."""
    a, b = trace.values[first], trace.values[first + 1]
    step = np.where(b == a, 1.0, b - a)
    share = np.clip((level - a) / step, 0.0, 1.0)
    times: Samples = trace.at_s[first] + share * (trace.at_s[first + 1] - trace.at_s[first])
    return times
