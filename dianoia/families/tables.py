"""Sensor families as data: terminals, nominal heater values, and how usual each way of wiring is."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any, get_args

from dianoia.errors import BrokenTable
from dianoia.families.types import Family, Terminal
from dianoia.tables import read_json

_DATA = Path(__file__).parent / "data" / "families.json"
CELLS = ("zirconia", "titania", "limiting-current", "two-cell", "nox")


@dataclass(frozen=True)
class FamilyRow:
    """A sensor family. heater_ohms_20c: generic cold range in ohms, None without a heater of its own to measure.

    drive: share of steady and PWM heater drives among vehicles with this family.
    """

    id: Family
    label: str
    terminals: tuple[Terminal, ...]
    cell: str
    heater_ohms_20c: tuple[float, float] | None
    drive: Mapping[str, float]

    @property
    def has_heater_terminals(self) -> bool:
        """Whether the element can be measured at the plug."""
        return "heater_supply" in self.terminals


@cache
def _document() -> dict[str, Any]:
    return read_json(_DATA, "dianoia-families/1")


@cache
def families() -> dict[str, FamilyRow]:
    """Every family by id. Raises BrokenTable."""
    table = {row["id"]: _family(row) for row in _document()["families"]}
    if set(table) != set(get_args(Family)):
        raise BrokenTable("families.json: the families are not those of the case format")
    return table


def weights(name: str) -> dict[str, float]:
    """How usual each option of a wiring choice is (``heater_switch``, ``feed_live``); sums to 1."""
    found: dict[str, float] = _document()["weights"][name]
    return found


def generic_source() -> str:
    """The words that mark a range as generic."""
    return str(_document()["generic_source"])


def _family(row: dict[str, Any]) -> FamilyRow:
    unknown = set(row["terminals"]) - set(get_args(Terminal))
    if unknown or row["cell"] not in CELLS:
        raise BrokenTable(f"families.json, {row['id']}: unknown terminal or cell {unknown or row['cell']}")
    heater = row.get("heater")
    ohms = tuple(heater["ohms_20c"]) if heater else None
    return FamilyRow(
        id=row["id"], label=row["label"], terminals=tuple(row["terminals"]), cell=row["cell"],
        heater_ohms_20c=ohms, drive=row.get("drive", weights("heater_drive")),
    )  # fmt: skip
