"""A trace drawn with few points: lowest and highest of each of many equal spans."""

from dataclasses import dataclass

import numpy as np

from dianoia.signals.recording import Samples, Trace

#: Points of one view: a lowest and a highest for each span.
MOST_POINTS = 4000


@dataclass(frozen=True, eq=False, slots=True)
class ReducedTrace:
    """Lowest and highest of spans; spans without a sample are left out."""

    at_s: Samples
    """Middle of each span, or the sample's own time where none is joined, shape (k,)."""
    lowest: Samples
    highest: Samples
    joined: bool
    """Whether a span may hold several samples."""


def levels_of(trace: Trace, from_s: float, to_s: float, points: int = MOST_POINTS) -> ReducedTrace:
    """The stretch from one moment to another, with a sample on either side, so that lines go on to the edge.

    points: a lowest and a highest of at most half as many spans.
    """
    first, last = np.searchsorted(trace.at_s, (from_s, np.nextafter(to_s, np.inf)))
    first, last = max(0, int(first) - 1), min(len(trace.at_s), int(last) + 1)
    at_s, values = trace.at_s[first:last], trace.values[first:last]
    spans = max(1, min(points, MOST_POINTS) // 2)
    if len(values) <= 2 * spans:
        return ReducedTrace(at_s, values, values, joined=False)
    edges = np.linspace(at_s[0], at_s[-1], spans + 1)
    starts = np.searchsorted(at_s, edges[:-1])
    filled = np.flatnonzero(np.diff(np.append(starts, len(values))) > 0)
    starts = starts[filled]
    middle = (edges[:-1] + edges[1:])[filled] / 2
    return ReducedTrace(middle, np.minimum.reduceat(values, starts), np.maximum.reduceat(values, starts), joined=True)


def packed(levels: ReducedTrace) -> bytes:
    """ReducedTrace as numbers of 32 bits, least byte first: times (counted from the first), lowest, highest, each of the same length."""
    if len(levels.at_s) == 0:
        return b""
    parts = (levels.at_s, levels.lowest, levels.highest)
    return b"".join(part.astype("<f4").tobytes() for part in parts)
