"""Text logs whose rows hold one signal each: a time, the signal's name, its value."""

from collections.abc import Iterator, Sequence
from functools import partial
from pathlib import Path

import polars as pl

from dianoia.errors import refuse
from dianoia.signals.columns import is_time, match
from dianoia.signals.readers.layout import Layout, is_number
from dianoia.signals.readers.source import Chosen, Column, RawTrace, refuse_columns, refuse_rows
from dianoia.signals.readers.text import line_of, seconds_column, table_of, time_columns, values_of

_SHOWN = 3


def is_long(layout: Layout) -> bool:
    """Whether rows hold one signal each."""
    return _places(layout) is not None


def _places(layout: Layout) -> tuple[int, int] | None:
    """Places of the columns of names and of values; None where each column is a signal of its own."""
    if not layout.rows or any(match(heading).signal for heading in layout.headings):
        return None
    others = [place for place, heading in enumerate(layout.headings) if not is_time(heading)]
    named = [place for place in others if any(match(row[place]).signal for row in layout.rows)]
    valued = [place for place in others if place not in named and any(is_number(row[place]) for row in layout.rows)]
    return (named[0], valued[-1]) if named and valued else None


class LongTextLog:
    """A text log of rows that hold one signal each. A column's place is that of its name among the names."""

    def __init__(self, path: Path, layout: Layout) -> None:
        places = _places(layout)
        if places is None:
            raise refuse("file", "a column of names and one of values", ", ".join(layout.headings[:6]))
        self.layout, self._values, self._time = layout, places[1], time_columns(layout)[0]
        unit_at = next((place for place, heading in enumerate(layout.headings) if "unit" in heading.lower()), None)
        wanted = sorted({*places, self._time} | ({unit_at} if unit_at is not None else set()))
        table = table_of(path, layout, wanted).with_row_index("row")
        self.rows = table.height
        refuse_rows(self.rows)
        parts = table.partition_by(f"c{places[0]}", maintain_order=True, as_dict=True)
        self._parts = {str(name[0]).strip(): part for name, part in parts.items() if name[0] is not None}
        refuse_columns(len(self._parts) + 1)
        self.columns = tuple(self._column(place, name, unit_at) for place, name in enumerate(self._parts))

    def _column(self, place: int, name: str, unit_at: int | None) -> Column:
        part = self._parts[name]
        unit = str(part[f"c{unit_at}"][0] or "") if unit_at is not None else ""
        found = match(name, unit)
        shows = tuple(str(cell) for cell in part[f"c{self._values}"].head(_SHOWN).to_list())
        return Column(place, name, found.unit, found.signal, found.of, shows)

    def read(self, chosen: Sequence[Chosen]) -> Iterator[RawTrace]:
        """See ``Source``."""
        names = tuple(self._parts)
        for one in chosen:
            part = self._parts[names[one.place]]
            values, bad = values_of(part[f"c{self._values}"], one.signal)
            at_s = seconds_column(part, self.layout, self._time)
            yield RawTrace(one, names[one.place], at_s, values, bad, partial(_line, self.layout, part["row"]))


def _line(layout: Layout, rows: pl.Series, place: int) -> str:
    return line_of(layout, int(rows[place]))
