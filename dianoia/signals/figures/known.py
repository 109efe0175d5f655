"""The figures that are read off traces: what each is called, and its unit."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from dianoia.tables import read_rows

_DATA = Path(__file__).parents[1] / "data"


@dataclass(frozen=True)
class FigureRow:
    """A row of figures.csv."""

    name: str
    label: str
    unit: str
    """``signal`` for the unit of the signal itself."""

    def __post_init__(self) -> None:
        if not self.label:
            raise ValueError("a figure needs a label")


@cache
def figure_rows() -> Mapping[str, FigureRow]:
    """Figures by their name. Raises BrokenTable."""
    return {row.name: row for row in read_rows(_DATA / "figures.csv", FigureRow)}
