"""A file made a recording: each column that is known by itself, or those that were chosen."""

from collections.abc import Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import TYPE_CHECKING

from dianoia.errors import refuse
from dianoia.signals.propose import proposed
from dianoia.signals.readers.content import content_of
from dianoia.signals.readers.open_source import open_source
from dianoia.signals.readers.source import Chosen, RawTrace, Source

if TYPE_CHECKING:
    from dianoia.signals.measure import MeasuredRecording
    from dianoia.signals.recording import Recording


def load(path: Path) -> "Recording":
    """The recording in a file, of the columns that are known. Raises RefusedInput."""
    source, chosen = opened(path)
    return recording_of(source, chosen)


def opened(path: Path) -> tuple[Source, tuple[Chosen, ...]]:
    """A file and the columns of it that are known. Raises RefusedInput where there is none."""
    source = open_source(path)
    chosen = proposed(source.columns)
    if not chosen:
        headings = ", ".join(column.heading for column in source.columns[:6])
        raise refuse("file", "a column of a known signal, as 'B1S1 sensor voltage [V]'", headings)
    return source, chosen


def recording_of(source: Source, chosen: Sequence[Chosen]) -> "Recording":
    """The recording of a source's chosen columns. Raises RefusedInput."""
    return _recording(source, chosen, source.read(chosen))


def _recording(source: Source, chosen: Sequence[Chosen], raw: Iterable[RawTrace]) -> "Recording":
    from dianoia.signals.readers.clean import cleaned
    from dianoia.signals.recording import Recording

    traces = cleaned(raw)
    kept = {one.place for one in chosen}
    unknown = tuple(column.heading for column in source.columns if column.place not in kept)
    return Recording(traces, source.rows, unknown)


def measured_file(path: Path) -> "MeasuredRecording":
    """The recording in a file with all figures. What measures it is loaded while polars reads the file. A measurement file is read
    apart: what reads those crashes on some damaged ones. Raises RefusedInput.
    """
    if content_of(path)[0] == "mdf":
        from dianoia.signals.apart import load_apart
        from dianoia.signals.measure import measure

        return measure(load_apart(path))
    source, chosen = opened(path)
    with ThreadPoolExecutor(1) as aside:
        raw = aside.submit(lambda: list(source.read(chosen)))
        from dianoia.signals.measure import measure

        return measure(_recording(source, chosen, raw.result()))
