"""A file made a recording: each column that is known by itself, or those that were chosen."""

from collections.abc import Sequence
from pathlib import Path

from dianoia.errors import refuse
from dianoia.signals.propose import proposed
from dianoia.signals.readers.clean import cleaned
from dianoia.signals.readers.open_source import open_source
from dianoia.signals.readers.source import Chosen, Source
from dianoia.signals.recording import Recording


def load(path: Path) -> Recording:
    """The recording in a file, of the columns that are known. Raises RefusedInput."""
    source = open_source(path)
    chosen = proposed(source.columns)
    if not chosen:
        headings = ", ".join(column.heading for column in source.columns[:6])
        raise refuse("file", "a column of a known signal, as 'B1S1 sensor voltage [V]'", headings)
    return recording_of(source, chosen)


def recording_of(source: Source, chosen: Sequence[Chosen]) -> Recording:
    """The recording of a source's chosen columns. Raises RefusedInput."""
    traces = cleaned(source.read(chosen))
    kept = {one.place for one in chosen}
    unknown = tuple(column.heading for column in source.columns if column.place not in kept)
    return Recording(traces, source.rows, unknown)
