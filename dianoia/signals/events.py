"""What happened while a recording ran, as far as its signals say it."""

from collections.abc import Iterator

import numpy as np

from dianoia.signals.figures.heater import RUNS_RPM
from dianoia.signals.known import signals
from dianoia.signals.recording import Event, Recording, Trace

#: A snap of the throttle: so many revolutions a minute more within so many seconds.
_SNAP_RPM, _SNAP_S = 1200.0, 2.0


def start_of(recording: Recording) -> Event | None:
    """The engine's start: marked, or seen in its speed; None where it was not seen."""
    marked = next((mark for mark in recording.marks if mark.event == "start"), None)
    if marked is not None:
        return marked
    speed = recording.find("engine_speed")
    if speed is None:
        return None
    runs = np.flatnonzero(speed.values > RUNS_RPM)
    if len(runs) == 0 or runs[0] == 0:
        return None
    return Event(float(speed.at_s[runs[0]]), "start", error_s=speed.gap_before(int(runs[0])))


def ran_before(recording: Recording) -> bool:
    """Whether the engine ran already when the recording began; False where nothing says it."""
    speed = recording.find("engine_speed")
    return start_of(recording) is None and speed is not None and bool(np.any(speed.values[:3] > RUNS_RPM))


def events_of(recording: Recording) -> tuple[Event, ...]:
    """Start, closed loop and snaps that were seen, and the marks, in the order of time."""
    found = [*_seen(recording), *recording.marks]
    return tuple(sorted(found, key=lambda event: event.at_s))


def _seen(recording: Recording) -> Iterator[Event]:
    start = start_of(recording)
    if start is not None and start not in recording.marks:
        yield start
    loop = recording.find("loop")
    if loop is not None and (at := closed_at(loop)) is not None and at > loop.at_s[0]:
        yield Event(at, "closed-loop")
    speed = recording.find("engine_speed")
    if speed is not None and not any(mark.event == "snap" for mark in recording.marks):
        yield from (Event(at, "snap") for at in _snaps(speed))


def closed_at(loop: Trace) -> float | None:
    """When the loop was first closed; None for never."""
    closed = np.flatnonzero(loop.values == signals()["loop"].vocabulary.index("closed"))
    return float(loop.at_s[closed[0]]) if len(closed) else None


def _snaps(speed: Trace) -> Iterator[float]:
    """When the throttle was snapped: the speed leaps from one that it had while the engine ran."""
    last = -np.inf
    grid = np.arange(speed.at_s[0], speed.at_s[-1], 0.25)
    if len(grid) < 10 or len(grid) > 100_000:
        return
    values = np.interp(grid, speed.at_s, speed.values)
    ahead = int(_SNAP_S / 0.25)
    leaps = np.flatnonzero((values[ahead:] - values[:-ahead] > _SNAP_RPM) & (values[:-ahead] > RUNS_RPM))
    for place in leaps:
        if grid[place] - last > 10.0:
            yield float(grid[place])
        last = grid[place]
