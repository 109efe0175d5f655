"""The signals that may be recorded."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from dianoia.tables import read_rows

_DATA = Path(__file__).parent / "data"


@dataclass(frozen=True)
class SignalRow:
    """A row of signals.csv: what may be recorded."""

    id: str
    label: str
    unit: str
    """Unit of its samples; empty for a ratio or a word."""
    scale: str
    """Base units a unit: 0.001 where samples are in mA and figures in A."""
    words: str
    """Words that it takes, by their index in the samples; empty for a number."""

    def __post_init__(self) -> None:
        if not self.label or float(self.scale) <= 0:
            raise ValueError("a row needs a label and a scale above 0")

    @property
    def base(self) -> float:
        """Base units a unit."""
        return float(self.scale)

    @property
    def vocabulary(self) -> tuple[str, ...]:
        """Its words; none for a number."""
        return tuple(self.words.split())


@cache
def signals() -> Mapping[str, SignalRow]:
    """Signals that may be recorded, by their name. Raises BrokenTable."""
    return {row.id: row for row in read_rows(_DATA / "signals.csv", SignalRow)}
