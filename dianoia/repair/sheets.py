"""sheets.json: how each repair is done, step by step."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field

from dianoia.diagnosis.catalogue.candidates import Id, Loop, document
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Component
from dianoia.families.types import Cell
from dianoia.tables import ROW, read_document, require

#: Exact: 1 lbf ft is 0.3048 m times 4.4482216152605 N.
LBF_FT_PER_NM = 1.0 / (0.3048 * 4.4482216152605)
_FILE = Path(__file__).parent / "data" / "sheets.json"
Says = Annotated[str, Field(min_length=1, max_length=400)]


@dataclass(frozen=True)
class RepairStep:
    """Something to do."""

    __pydantic_config__ = ROW
    id: Id
    do: Says
    tools: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    """In words, once loaded."""
    stop: str = ""
    """When to leave off, and what then."""
    torque: bool = False
    """Whether the vehicle's own belongs to it."""


@dataclass(frozen=True)
class SheetRow:
    """Steps that belong together."""

    __pydantic_config__ = ROW
    id: Id
    title: Says
    components: tuple[Component | Literal["none"], ...]
    """Components that it is for, ``none`` where nothing is at fault."""
    steps: tuple[RepairStep, ...]
    faults: tuple[str, ...] = ()
    """Beginnings of the faults that it is for, empty for all of the component."""
    cells: tuple[Cell, ...] = ()
    """Of the sensor."""
    not_cells: tuple[Cell, ...] = ()
    """Of the sensor."""
    loops: tuple[Loop, ...] = ()
    """Loops that a fault was found in."""


@dataclass(frozen=True)
class _Table:
    __pydantic_config__ = ROW
    cautions: Mapping[str, Says]
    sheets: tuple[SheetRow, ...]


@dataclass(frozen=True)
class RepairSheet:
    """The steps of one part of a repair, cautions in words."""

    id: str
    title: str
    steps: tuple[RepairStep, ...]


@cache
def _table() -> _Table:
    table = read_document(_FILE, "dianoia-sheets/1", _Table)
    known = {**document().cautions, **table.cautions}
    ids = [step.id for row in table.sheets for step in row.steps]
    for row in table.sheets:
        for start in row.faults:
            require(
                any(name.startswith(start) for name in faults()), _FILE.name, row.id, "the beginning of a fault", start
            )
        for step in row.steps:
            require(ids.count(step.id) == 1, _FILE.name, step.id, "an id that stands once", step.id)
            for name in step.cautions:
                require(name in known, _FILE.name, f"{step.id}.cautions", f"one of {', '.join(known)}", name)
    return table


def sheets_for(
    cell: Cell, components: Collection[Component], found: Sequence[str], torque_nm: float | None = None
) -> tuple[RepairSheet, ...]:
    """The sheets of a repair, in the order of the work. components: at fault, none where nothing is; found: the faults, as far as they are
    known; torque_nm: the vehicle's own, in N m.
    """
    wanted: set[str] = set(components) or {"none"}
    if "feed" in wanted:
        wanted |= {faults()[name].component for name in found}
    rows = [row for row in _table().sheets if wanted & set(row.components) and _fits(row, cell, found)]
    return tuple(
        RepairSheet(row.id, row.title, tuple(_in_words(step, torque_nm) for step in row.steps)) for row in rows
    )


def steps_known() -> frozenset[str]:
    """The ids of all steps."""
    return frozenset(step.id for row in _table().sheets for step in row.steps)


def _fits(row: SheetRow, cell: Cell, found: Sequence[str]) -> bool:
    if (row.cells and cell not in row.cells) or cell in row.not_cells:
        return False
    if row.loops and found and not any(set(row.loops) & set(faults()[name].loop.split()) for name in found):
        return False
    own = [name for name in found if faults()[name].component in row.components]
    return not row.faults or not own or any(name.startswith(row.faults) for name in own)


def _in_words(step: RepairStep, torque_nm: float | None) -> RepairStep:
    known = {**document().cautions, **_table().cautions}
    own = f" This vehicle's own value: {torque(torque_nm)}." if step.torque and torque_nm else ""
    return replace(step, do=step.do + own, cautions=tuple(known[name] for name in step.cautions))


def torque(newton_metres: float) -> str:
    """A torque as both wrenches show it.

    >>> torque(45.0)
    '45 N m (33 lbf ft)'
    """
    return f"{newton_metres:g} N m ({newton_metres * LBF_FT_PER_NM:.0f} lbf ft)"
