"""Sensor families as data, checked at load: terminals, nominal heater values, and how usual each way of wiring is."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cache
from pathlib import Path
from typing import Annotated, Any, Literal, get_args

from pydantic import Field

from dianoia.families.types import Cell, Family, Terminal
from dianoia.tables import ROW, read_document, require

_DATA = Path(__file__).parent / "data" / "families.json"
Share = Annotated[float, Field(ge=0, le=1)]
Ohms = Annotated[float, Field(gt=0, le=1000)]


@dataclass(frozen=True)
class Heater:
    """The heater of the second car."""

    __pydantic_config__ = ROW
    ohms_20c: tuple[Ohms, Ohms]
    """Generic cold range in ohms, low and high."""


@dataclass(frozen=True)
class CellRow:
    """A kind of cell, a row of families.json; what it does in the circuit is its file in ``circuit/cells``."""

    __pydantic_config__ = ROW
    id: Cell
    scans: tuple[str, ...]
    """Scan values that it gives, by their names in the case format."""
    parts: tuple[str, ...]
    """Parts of its loop that can be proven, in the order they are shown."""
    continuous: bool = False
    """Whether it says how much, not only which side."""
    may_be_fed: bool = False
    """Volts may be put on its signal wire."""
    is_resistance: bool = False
    """An ohmmeter may be laid on it."""
    shell_returns: bool = False
    """With one wire it returns through its shell."""
    unit: bool = False
    """Whether it is a control unit on a bus."""
    same_wires: Mapping[str, Terminal] = field(default_factory=dict)
    """What a switching sensor's terminals are called with it."""


@dataclass(frozen=True)
class FamilyRow:
    """A row of families.json."""

    __pydantic_config__ = ROW
    id: Family
    label: Annotated[str, Field(min_length=1)]
    told_by: Annotated[str, Field(min_length=1)]
    """What tells it apart."""
    terminals: tuple[Terminal, ...]
    cell: Cell
    heater: Heater | None = None
    drive: Mapping[Literal["pwm", "steady"], Share] = field(default_factory=dict)
    """Share of steady and PWM heater drives among vehicles with this family, empty for as everywhere."""
    parts: tuple[str, ...] = ()
    """Parts that can be proven besides those of its cell."""

    @property
    def kind(self) -> CellRow:
        """What its cell is."""
        return cells()[self.cell]

    @property
    def heater_ohms_20c(self) -> tuple[float, float] | None:
        """Generic cold range in ohms; None without a heater of its own to measure."""
        return self.heater.ohms_20c if self.heater else None

    @property
    def has_heater_terminals(self) -> bool:
        """Whether the element can be measured at the plug."""
        return "heater_supply" in self.terminals


@dataclass(frozen=True)
class Weights:
    """How usual each option of a wiring choice is; each sums to 1."""

    __pydantic_config__ = ROW
    heater_switch: Mapping[Literal["low-side", "high-side"], Share]
    heater_drive: Mapping[Literal["pwm", "steady"], Share]
    feed_live: Mapping[Literal["always", "key-on", "running"], Share]


@dataclass(frozen=True)
class FamilyTable:
    """families.json."""

    __pydantic_config__ = ROW
    generic_source: str
    """The words that mark a range as generic."""
    weights: Weights
    front_shares: Mapping[Family, Share]
    """How usual each family is in front."""
    cells: tuple[CellRow, ...]
    families: tuple[FamilyRow, ...]


@cache
def _document() -> FamilyTable:
    table = read_document(_DATA, "dianoia-families/1", FamilyTable)
    ids = [row.id for row in table.families]
    require(sorted(ids) == sorted(get_args(Family)), _DATA.name, "families", "each family of the case format once", ids)
    kinds = [row.id for row in table.cells]
    require(sorted(kinds) == sorted(get_args(Cell)), _DATA.name, "cells", "each kind of cell once", kinds)
    shares: dict[str, Mapping[Any, float]] = {"front_shares": table.front_shares, "heater_switch": table.weights.heater_switch, "heater_drive": table.weights.heater_drive,
              "feed_live": table.weights.feed_live, **{row.id: row.drive for row in table.families if row.drive}}  # fmt: skip
    for name, listed in shares.items():
        total = sum(listed.values())
        require(abs(total - 1.0) < 1e-9, _DATA.name, name, "shares that sum to 1", total)
    for row in table.families:
        low, high = row.heater_ohms_20c or (1.0, 1.0)
        require(low <= high, _DATA.name, row.id, "the low end first", (low, high))
        heated = row.has_heater_terminals
        require(
            heated == (row.heater is not None),
            _DATA.name,
            row.id,
            "heater ohms exactly where it has heater terminals",
            row.heater,
        )
    return table


@cache
def cells() -> dict[str, CellRow]:
    """Every kind of cell by id. Raises BrokenTable."""
    return {row.id: row for row in _document().cells}


@cache
def families() -> dict[str, FamilyRow]:
    """Every family by id. Raises BrokenTable."""
    usual = _document().weights.heater_drive
    return {row.id: row if row.drive else replace(row, drive=usual) for row in _document().families}


def front_shares() -> Mapping[Family, float]:
    """How usual each family is in front of the catalyst, where an oxygen code does not say which; sums to 1."""
    return _document().front_shares


def weights(name: Literal["heater_switch", "heater_drive", "feed_live"]) -> dict[str, float]:
    """How usual each option of a wiring choice is; sums to 1."""
    found: Mapping[str, float] = getattr(_document().weights, name)
    return dict(found)


def generic_source() -> str:
    """The words that mark a range as generic."""
    return _document().generic_source
