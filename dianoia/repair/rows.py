"""proof.json: what a repair is proven by, besides the readings that had failed."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any, Literal

from dianoia.case.workshop import Tool
from dianoia.diagnosis.catalogue.candidates import Id, Loop, Minutes, document
from dianoia.families.types import Cell
from dianoia.repair.types import ProofKind
from dianoia.tables import ROW, read_document, require

_FILE = Path(__file__).parent / "data" / "proof.json"


@dataclass(frozen=True)
class ProofRow:
    """Something to show."""

    __pydantic_config__ = ROW
    id: Id
    shows: Id
    """Rows of one name are ways to show the same, the first that the tools allow is proposed."""
    kind: ProofKind
    loops: tuple[Loop, ...]
    """Of what was mended."""
    what: str
    minutes: Minutes
    reading: Mapping[str, Any]
    """The probe, with {positive}, {negative} and {twin} for the sensor's own."""
    cautions: tuple[str, ...] = ()
    cells: tuple[Cell, ...] = ()
    """Of the sensor, empty for all."""
    positions: tuple[int, ...] = ()
    """Of the sensor, empty for all."""
    tool: Tool | None = None
    also: bool = False
    """Whether it shows the same as another row and is never proposed."""
    expect: str = ""
    """Of a sound one, until a reading brings the signal loop into play."""
    banks: Literal[2] | None = None
    """Sensor banks that the vehicle must have."""


@dataclass(frozen=True)
class _Table:
    __pydantic_config__ = ROW
    rows: tuple[ProofRow, ...]


@cache
def proof_rows() -> tuple[ProofRow, ...]:
    """The table, checked. Raises BrokenTable."""
    table = read_document(_FILE, "dianoia-proof/1", _Table)
    ids = [row.id for row in table.rows]
    for row in table.rows:
        require(ids.count(row.id) == 1, _FILE.name, row.id, "an id that stands once", row.id)
        unknown = [name for name in row.cautions if name not in document().cautions]
        require(not unknown, _FILE.name, row.id, f"one of {', '.join(document().cautions)}", ", ".join(unknown))
    return table.rows
