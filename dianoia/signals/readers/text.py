"""Text logs (CSV of any common kind), read by polars.

A clean table of numbers is read by the types of its columns. Anything else (stray words, decimal commas in quotes, clock times) is
read as text and cast cell by cell, so that what is no value is counted and not guessed.
"""

from collections.abc import Iterator, Sequence
from functools import partial
from itertools import pairwise
from pathlib import Path
from typing import TYPE_CHECKING, Any

import polars as pl

from dianoia.errors import refuse
from dianoia.signals.columns import is_time, match, seconds_in, split_unit
from dianoia.signals.known import signals
from dianoia.signals.readers.broken import BROKEN
from dianoia.signals.readers.layout import Layout
from dianoia.signals.readers.source import Chosen, Column, RawTrace, refuse_columns, refuse_rows
from dianoia.signals.readers.times import in_seconds, over_midnight, seconds_of

if TYPE_CHECKING:
    from dianoia.signals.recording import Samples

#: First values of a column that are shown.
_SHOWN = 3


class TextLog:
    """A text log: a time column for all, or one before each column of values."""

    def __init__(self, path: Path, layout: Layout) -> None:
        self._path, self.layout = path, layout
        refuse_columns(len(layout.headings))
        refuse_rows(len(layout.rows))
        self._times = time_columns(layout)
        self.rows = 0
        self.columns = tuple(
            self._column(place) for place in range(len(self.layout.headings)) if place not in self._times
        )

    def _column(self, place: int) -> Column:
        layout = self.layout
        heading, unit = layout.headings[place], layout.units[place]
        found = match(heading, unit)
        shows = tuple(row[place].strip() for row in layout.rows[:_SHOWN])
        return Column(place, heading, found.unit, found.signal, found.of, shows)

    def time_of(self, place: int) -> int:
        """The time column that a column's values stand behind."""
        return max((at for at in self._times if at < place), default=self._times[0])

    def read(self, chosen: Sequence[Chosen]) -> Iterator[RawTrace]:
        """See ``Source``."""
        wanted = sorted({one.place for one in chosen} | {self.time_of(one.place) for one in chosen})
        table = table_of(self._path, self.layout, wanted)
        self.rows = table.height
        refuse_rows(self.rows)
        times: dict[int, Samples] = {}
        for one in chosen:
            at = self.time_of(one.place)
            if at not in times:
                times[at] = seconds_column(table, self.layout, at)
            values, bad = values_of(table[_name(one.place)], one.signal)
            yield RawTrace(one, self.layout.headings[one.place], times[at], values, bad, partial(line_of, self.layout))


def line_of(layout: Layout, row: int) -> str:
    """A row's place in the file, in words."""
    return f"line {row + layout.first_line + 1}"


def seconds_column(table: pl.DataFrame, layout: Layout, place: int) -> "Samples":
    """A column of times in seconds, NaN where there is none, shape (n,)."""
    column = table[_name(place)]
    unit = split_unit(layout.headings[place])[1] or layout.units[place]
    numbers, bad = numbers_of(column)
    if bad <= 0.5 * table.height:
        return in_seconds(numbers, seconds_in(unit))
    clock = column.map_elements(seconds_of, return_dtype=pl.Float64, skip_nulls=True)
    return over_midnight(clock.fill_null(float("nan")).to_numpy())


def table_of(path: Path, layout: Layout, wanted: Sequence[int]) -> pl.DataFrame:
    """The wanted columns: as numbers where their first rows are numbers and no cell is anything else, otherwise as text."""
    given = _given(path, layout)
    numeric = {place for place in range(len(layout.headings)) if layout.is_number(place)}
    if not (layout.decimal_comma and layout.separator == ","):
        types = {_name(place): pl.Float64 if place in numeric else pl.String for place in range(len(layout.headings))}
        try:
            return _read_csv(given, layout, wanted, types, strict=True)
        except BROKEN:
            pass  # a cell is no number
    try:
        return _read_csv(given, layout, wanted, dict.fromkeys(map(_name, range(len(layout.headings))), pl.String))
    except BROKEN as problem:
        said = str(problem).split("\n")[0]
        raise refuse("file", "a table: the same columns in every line", said) from problem


def _given(path: Path, layout: Layout) -> Any:
    """What polars is given: the file, or its text in the encoding that it knows."""
    if layout.encoding == "utf-8-sig":
        return path
    return path.read_bytes().decode(layout.encoding, "replace").encode()


def _read_csv(
    given: Any, layout: Layout, wanted: Sequence[int], types: dict[str, Any], strict: bool = False
) -> pl.DataFrame:
    return pl.read_csv(
        given,
        has_header=False,
        columns=list(wanted),
        new_columns=[_name(place) for place in wanted],
        schema=types,
        separator=layout.separator,
        quote_char='"' if layout.quoted else None,
        eol_char=layout.line_end,
        skip_lines=layout.first_line,
        decimal_comma=layout.decimal_comma and layout.separator != ",",
        encoding="utf8" if strict else "utf8-lossy",
        truncate_ragged_lines=not strict,
    ).rechunk()


def _name(place: int) -> str:
    return f"c{place}"


def time_columns(layout: Layout) -> tuple[int, ...]:
    """Places of the columns of times: by their headings, else the first column if its numbers rise. Raises RefusedInput."""
    named = tuple(place for place, heading in enumerate(layout.headings) if is_time(heading))
    if named:
        return named
    if layout.units[0] and seconds_in(layout.units[0]) is not None:
        return (0,)
    if layout.is_number(0):
        numbers = [float(row[0].replace(",", ".")) for row in layout.rows if row[0].strip()]
        if len(numbers) > 1 and all(later > earlier for earlier, later in pairwise(numbers)):
            return (0,)
    clocks = [seconds_of(row[0]) for row in layout.rows[:5]]
    if clocks and all(clock == clock for clock in clocks):
        return (0,)
    raise refuse("file", "a column of times, headed 'time'", ", ".join(layout.headings[:6]))


def values_of(column: pl.Series, signal: str) -> "tuple[Samples | list[str | None], int]":
    """A column as the numbers or words of a signal, and how many cells are neither."""
    if signals()[signal].vocabulary:
        return [None if cell is None else str(cell).strip() for cell in column.to_list()], 0
    return numbers_of(column)


def numbers_of(column: pl.Series) -> "tuple[Samples, int]":
    """A column as numbers, NaN where there is none, and how many cells hold something that is no number."""
    if column.dtype != pl.String:
        numbers = column.to_numpy() if column.null_count() == 0 else column.fill_null(float("nan")).to_numpy()
        return numbers, 0
    text = column.str.strip_chars().replace({"": None})
    cast = text.str.replace(r"^([+-]?\d*),(\d+)", "${1}.${2}").cast(pl.Float64, strict=False)
    bad = cast.null_count() - text.null_count()
    return cast.fill_null(float("nan")).to_numpy(), bad
