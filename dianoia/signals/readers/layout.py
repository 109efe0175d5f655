"""How a text log is laid out: separator, decimal sign, headings, units, first row of values."""

import csv
import re
from collections import Counter
from dataclasses import dataclass

from dianoia.errors import refuse
from dianoia.signals.columns import is_unit
from dianoia.signals.readers.content import HEAD

_NUMBER = re.compile(r"\s*[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?\s*")
_DECIMAL_COMMA = re.compile(r"\s*[+-]?\d*,\d+([eE][+-]?\d+)?\s*")
#: Separators, the surest first: a comma may also be a decimal sign.
_SEPARATORS = ("\t", ";", "|", ",")
#: Lines looked at.
_LOOKED_AT = 60
#: Share of lines that have to agree on a separator.
_AGREE = 0.8


@dataclass(frozen=True, slots=True)
class Layout:
    """How a text log is laid out."""

    encoding: str
    separator: str
    decimal_comma: bool
    quoted: bool
    line_end: str
    """The last character of a line."""
    headings: tuple[str, ...]
    units: tuple[str, ...]
    """One a heading; empty where none is said."""
    first_line: int
    """Lines before the first row of values."""
    rows: tuple[tuple[str, ...], ...]
    """The first rows of values, as written."""

    def is_number(self, place: int) -> bool:
        """Whether a column holds numbers, as far as its first rows tell."""
        cells = [row[place] for row in self.rows if row[place].strip()]
        return bool(cells) and all(is_number(cell) for cell in cells)


def is_number(cell: str) -> bool:
    """Whether a cell is written as a number, with a point or a comma."""
    return bool(_NUMBER.fullmatch(cell)) or cell.strip().lower() in ("nan", "inf", "-inf")


def encoding_of(head: bytes) -> str:
    """The encoding of a text that begins so: UTF-16 by its mark, UTF-8, or else the usual one of eight bits."""
    if head.startswith((b"\xff\xfe", b"\xfe\xff")):
        return "utf-16"
    try:
        head.decode("utf-8")
    except UnicodeDecodeError as problem:
        if problem.start < len(head) - 4:  # not just a character that the end of the head cut through
            return "cp1252"
    return "utf-8-sig"


def layout_of(data: bytes) -> Layout:
    """The layout of a log. data: its first bytes, all of them where they are fewer than ``HEAD``.

    Raises RefusedInput where there are no columns of values, or a line that never ends.
    """
    encoding, whole = encoding_of(data), len(data) < HEAD
    head = data.decode(encoding, "replace")
    end = "\n" if "\n" in head else "\r"
    lines = head.split(end)
    if len(lines) == 1 and not whole:
        raise refuse("file", "lines of text", f"a first line of more than {HEAD:,} bytes")
    if not whole:
        lines.pop()  # cut off by the end of the head
    lines = [line.rstrip("\r") for line in lines]
    separator = _separator(lines)
    quoted = '"' in head
    cells = [_split(line, separator, quoted) for line in lines[: 20 * _LOOKED_AT]]
    width = _width(cells)
    first = _headings_at(cells, width)
    headings = tuple(cell.strip() for cell in cells[first])
    if all(is_number(cell) or not cell for cell in headings):
        headings, first = tuple(f"column {place + 1}" for place in range(width)), first - 1
    width = max(width, len(headings))
    units, start = _units(cells, first + 1, width)
    headings = (*headings, *("" for _ in range(width - len(headings))))
    rows = [row for row in cells[start:] if len(row) >= min(width, 2)][:_LOOKED_AT]
    padded = tuple(tuple((*row, *([""] * width))[:width]) for row in rows)
    return Layout(encoding, separator, _decimal_comma(padded, separator), quoted, end, headings, units, start, padded)


def _split(line: str, separator: str, quoted: bool) -> list[str]:
    if not quoted:
        return line.split(separator)
    try:
        return next(csv.reader([line], delimiter=separator), [""])
    except csv.Error:
        return line.split(separator)


def _separator(lines: list[str]) -> str:
    """The first separator that most lines agree on. Raises RefusedInput for one column."""
    looked = [line for line in lines[: 3 * _LOOKED_AT] if line.strip()][-_LOOKED_AT:]
    found = []
    for separator in _SEPARATORS:
        widths = Counter(len(_split(line, separator, '"' in line)) for line in looked)
        width, count = widths.most_common(1)[0] if widths else (1, 0)
        if width > 1:
            found.append((separator, count / len(looked)))
    sure = next((separator for separator, share in found if share >= _AGREE), None)
    if sure is None and found:
        sure = max(found, key=lambda item: item[1])[0]
    if sure is None:
        raise refuse("file", "columns apart by comma, semicolon or tab", "one column" if looked else "blank lines")
    return sure


def _width(cells: list[list[str]]) -> int:
    widths = Counter(len(row) for row in cells if len(row) > 1)
    return widths.most_common(1)[0][0]


def _headings_at(cells: list[list[str]], width: int) -> int:
    """The first row as wide as the others; one cell may be missing at its end, or too many."""
    return next(place for place, row in enumerate(cells) if len(row) > 1 and abs(len(row) - width) <= 1 and any(row))


def _units(cells: list[list[str]], at: int, width: int) -> tuple[tuple[str, ...], int]:
    """The row of units and the place of the first values; without such a row no units."""
    row = cells[at] if 0 <= at < len(cells) else []
    told = [cell for cell in row if cell.strip() and cell.strip() != "-"]
    known = sum(is_unit(cell) for cell in told)
    if known and 2 * known >= len(told) and not any(is_number(cell) for cell in told):
        return tuple((*(cell.strip() for cell in row), *([""] * width))[:width]), at + 1
    return ("",) * width, at


def _decimal_comma(rows: tuple[tuple[str, ...], ...], separator: str) -> bool:
    cells = [cell for row in rows for cell in row]
    commas = sum(bool(_DECIMAL_COMMA.fullmatch(cell)) for cell in cells)
    points = sum("." in cell and is_number(cell) for cell in cells)
    return commas > points
