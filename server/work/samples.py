"""Samples that are looked at: a few recordings are held in memory, so that a zoom reads no file."""

from collections import OrderedDict
from collections.abc import Sequence
from pathlib import Path
from threading import Lock

from dianoia.errors import refuse
from dianoia.signals.levels import MOST_POINTS, levels_of, packed
from dianoia.signals.measure import MeasuredRecording, measure
from dianoia.signals.recording import Event, Recording

#: Bytes of samples that are held.
MOST_BYTES = 150_000_000
_lock = Lock()
_held: OrderedDict[Path, Recording] = OrderedDict()


def samples(path: Path) -> Recording:
    """The recording in a file, without marks. Raises RefusedInput where it is missing or damaged."""
    there = path.is_file()
    with _lock:
        if there and path in _held:
            _held.move_to_end(path)
            return _held[path]
    if not there:
        raise refuse("recording", "samples that are there", "none: they are missing on this server, or were removed")
    from dianoia.signals import keep  # polars is loaded when the first recording is looked at

    found = keep.read(path)
    with _lock:
        _held[path] = found
        while len(_held) > 1 and sum(map(_size, _held.values())) > MOST_BYTES:
            _held.popitem(last=False)
    return found


def _size(recording: Recording) -> int:
    return sum(trace.values.nbytes for trace in recording.traces) + recording.traces[0].at_s.nbytes


def forget(path: Path) -> None:
    """Let go of a file that is no more."""
    with _lock:
        _held.pop(path, None)


def drawn(path: Path, trace: int, from_s: float, to_s: float, points: int) -> bytes:
    """A stretch of a trace as few points, see ``dianoia.signals.levels.packed``. Raises RefusedInput."""
    found = samples(path)
    if not 0 <= trace < len(found.traces):
        raise refuse("trace", f"a trace from 0 to {len(found.traces) - 1}", str(trace))
    return packed(levels_of(found.traces[trace], min(from_s, to_s), max(from_s, to_s), min(points, MOST_POINTS)))


def measured(path: Path, marks: Sequence[Event]) -> MeasuredRecording:
    """All figures of a kept recording with its marks. Raises RefusedInput."""
    found = samples(path)
    return measure(Recording(found.traces, found.rows, found.unknown, tuple(marks)))
