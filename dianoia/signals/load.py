"""A file made a recording: each column that is known by itself, or those that were chosen."""

from collections.abc import Sequence
from pathlib import Path

from dianoia.errors import refuse
from dianoia.signals.columns import ADDRESS, OF_ENGINE
from dianoia.signals.readers.clean import cleaned
from dianoia.signals.readers.open_source import open_source
from dianoia.signals.readers.source import Chosen, Column, Source
from dianoia.signals.recording import Recording, signals

#: So many signals of one recording are kept.
MOST_TRACES = 60


def proposed(columns: Sequence[Column]) -> tuple[Chosen, ...]:
    """The columns that are known, each signal of a sensor once: the first stands."""
    found: dict[tuple[str, str | None], Chosen] = {}
    for column in columns:
        if column.signal is not None:
            chosen = Chosen(column.place, column.signal, column.of, column.unit)
            found.setdefault(
                (column.signal, column.of or (column.heading if _is_scope(column.signal) else None)), chosen
            )
    return tuple(found.values())


def _is_scope(signal: str) -> bool:
    return signal in ("volts", "amps")


def check_chosen(chosen: Sequence[Chosen], columns: Sequence[Column]) -> None:
    """Raises RefusedInput for a choice that cannot be."""
    places = {column.place: column for column in columns}
    for one in chosen:
        if one.place not in places:
            raise refuse("columns", "a column of the file", str(one.place))
        heading = places[one.place].heading
        if one.signal not in signals():
            raise refuse(heading, "one of " + ", ".join(signals()), one.signal)
        if one.signal in OF_ENGINE and one.of is not None:
            raise refuse(heading, "no sensor: it belongs to the engine", one.of)
        if one.of is not None and not _is_scope(one.signal) and not ADDRESS.fullmatch(one.of):
            raise refuse(heading, "a sensor by bank and position, as B1S1", one.of)
    kept = [(one.signal, one.of) for one in chosen]
    twice = next((key for place, key in enumerate(kept) if key in kept[:place]), None)
    if twice is not None:
        told = " of ".join(filter(None, (signals()[twice[0]].label, twice[1])))
        raise refuse("columns", f"one column for the {told}", "two")
    if not kept or len(kept) > MOST_TRACES:
        raise refuse("columns", f"1 to {MOST_TRACES} columns that are kept", str(len(kept)))


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
