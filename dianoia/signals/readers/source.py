"""What every reader gives: the columns of a file as proposed, then the traces that are wanted of them."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

from dianoia.errors import refuse

if TYPE_CHECKING:  # what a file holds is told before numpy is loaded
    from dianoia.signals.recording import Samples

#: Limits of a file.
MOST_BYTES, MOST_ROWS, MOST_COLUMNS = 100_000_000, 2_000_000, 2000


@dataclass(frozen=True, slots=True)
class Column:
    """A column of a source, with what it seems to hold."""

    place: int
    """Its place in the source; of rows that hold one signal each, the place of the signal's name."""
    heading: str
    unit: str
    """As written; empty where none is."""
    signal: str | None
    """Proposed signal; None where the heading says none."""
    of: str | None
    """Proposed sensor or point."""
    shows: tuple[str, ...]
    """Its first values, as written."""


@dataclass(frozen=True, slots=True)
class Chosen:
    """A column that is to be kept, as it was corrected."""

    place: int
    signal: str
    of: str | None
    unit: str
    """As written; empty for the signal's own."""


@dataclass(frozen=True, eq=False, slots=True)
class RawTrace:
    """A chosen column as read: numbers or words, with times that may still be in disorder."""

    chosen: Chosen
    heading: str
    at_s: "Samples"
    """Shape (n,); NaN where there is none."""
    values: "Samples | Sequence[str | None]"
    """Shape (n,)."""
    bad: int = 0
    """Cells that hold something else."""
    line_of: Callable[[int], str] = "row {}".format
    """The place of a sample in the source, in words."""


class Source(Protocol):
    """A file that can be read."""

    columns: tuple[Column, ...]
    rows: int

    def read(self, chosen: Sequence[Chosen]) -> Iterator[RawTrace]:
        """The traces of chosen columns. Raises RefusedInput."""


def refuse_rows(rows: int) -> None:
    """Raises RefusedInput where there are none, or too many."""
    if rows == 0:
        raise refuse("file", "rows of values under the headings", "headings only")
    if rows > MOST_ROWS:
        raise refuse("file", f"at most {MOST_ROWS // 1_000_000} million rows", f"{rows:,}")


def refuse_columns(count: int) -> None:
    """Raises RefusedInput where there are too few or too many."""
    if count < 2:
        raise refuse("file", "a column of times and a column of values, side by side", "one column")
    if count > MOST_COLUMNS:
        raise refuse("file", f"at most {MOST_COLUMNS:,} columns", f"{count:,}")
