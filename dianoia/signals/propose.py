"""Which columns of a file are kept, and as what: proposed by their headings, by what was chosen before, and checked."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from hashlib import sha256
from typing import Any

from dianoia.errors import refuse
from dianoia.signals.columns import ADDRESS, belongs_to
from dianoia.signals.known import signals
from dianoia.signals.readers.layout import is_number
from dianoia.signals.readers.source import Chosen, Column

#: So many signals of one recording are kept.
MOST_TRACES = 60


def proposed(columns: Sequence[Column]) -> tuple[Chosen, ...]:
    """The columns that are known, each signal of a sensor once: the first stands. Columns whose first values do not fit are left out,
    unless none would be left: then reading them says what is wrong with them.
    """
    known = [column for column in columns if column.signal is not None]
    found: dict[tuple[str, str | None], Chosen] = {}
    for column in [column for column in known if _holds(column)] or known:
        signal = column.signal or ""
        at_point = column.heading if belongs_to(signal) == "point" else None
        found.setdefault((signal, column.of or at_point), Chosen(column.place, signal, column.of, column.unit))
    return tuple(found.values())


def _holds(column: Column) -> bool:
    """Whether the first values may be of the signal: a column of words is no column of numbers."""
    cells = [cell for cell in column.shows if cell.strip()]
    return not cells or bool(signals()[column.signal or ""].vocabulary) or any(is_number(cell) for cell in cells)


def check_chosen(chosen: Sequence[Chosen], columns: Sequence[Column]) -> None:
    """Raises RefusedInput for a choice that cannot be."""
    places = {column.place: column for column in columns}
    for one in chosen:
        if one.place not in places:
            raise refuse("columns", "a column of the file", str(one.place))
        heading = places[one.place].heading
        if one.signal not in signals():
            raise refuse(heading, "one of " + ", ".join(signals()), one.signal)
        if belongs_to(one.signal) == "engine" and one.of is not None:
            raise refuse(heading, "no sensor: it belongs to the engine", one.of)
        if one.of is not None and belongs_to(one.signal) == "sensor" and not ADDRESS.fullmatch(one.of):
            raise refuse(heading, "a sensor by bank and position, as B1S1", one.of)
    kept = [(one.signal, one.of) for one in chosen]
    twice = next((key for place, key in enumerate(kept) if key in kept[:place]), None)
    if twice is not None:
        told = " of ".join(filter(None, (signals()[twice[0]].label, twice[1])))
        raise refuse("columns", f"one column for the {told}", "two")
    if not kept or len(kept) > MOST_TRACES:
        raise refuse("columns", f"1 to {MOST_TRACES} columns that are kept", str(len(kept)))


def source_key(columns: Sequence[Column]) -> str:
    """What tells a source by its headings, so that what was corrected once is proposed the next time."""
    headings = "\n".join(sorted(column.heading for column in columns))
    return sha256(headings.encode()).hexdigest()[:32]


def proposed_with(
    columns: Sequence[Column], remembered: Mapping[str, Mapping[str, Any]] | None, sensor: str | None
) -> tuple[Chosen, ...]:
    """What is proposed to be kept. remembered: heading -> signal, of, unit, as chosen of this source before; sensor: the job's own,
    which is meant where one column names none.
    """
    if remembered is not None:
        return tuple(
            Chosen(column.place, **remembered[column.heading]) for column in columns if column.heading in remembered
        )
    found = proposed(columns)
    taken = {(one.signal, one.of) for one in found}
    return tuple(_at_sensor(one, sensor, taken) for one in found)


def _at_sensor(one: Chosen, sensor: str | None, taken: set[tuple[str, str | None]]) -> Chosen:
    meant = one.of is None and belongs_to(one.signal) == "sensor"
    return replace(one, of=sensor) if meant and sensor and (one.signal, sensor) not in taken else one


def chosen_of(plain: Sequence[Mapping[str, Any]]) -> tuple[Chosen, ...]:
    """Chosen columns from parsed JSON."""
    return tuple(Chosen(**item) for item in plain)
