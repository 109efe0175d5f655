"""The faults and their base rates, from faults.json."""

from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any, get_args

from dianoia.diagnosis.types import Component, FaultRow, Part
from dianoia.errors import BrokenTable
from dianoia.tables import read_json

_FILE = Path(__file__).parent / "data" / "faults.json"


@dataclass(frozen=True)
class Influence:
    """Something that makes faults likelier. faults: ids, or beginnings of ids."""

    when: str
    faults: tuple[str, ...]
    times: float
    reason: str

    def applies_to(self, fault: str) -> bool:
        """Whether a fault id is one of those it makes likelier."""
        return fault.startswith(self.faults)


@cache
def document() -> dict[str, Any]:
    """The whole table file."""
    return read_json(_FILE, "dianoia-faults/1")


@cache
def faults() -> dict[str, FaultRow]:
    """Every fault by id. Raises BrokenTable."""
    rows = [FaultRow(**row) for row in document()["faults"]]
    for row in rows:
        if row.component not in get_args(Component) or row.part not in get_args(Part) or row.weight <= 0:
            raise BrokenTable(f"faults.json, {row.id}: unknown component or part, or a weight not above 0")
    return {row.id: row for row in rows}


@cache
def influences() -> tuple[Influence, ...]:
    """What the history of the vehicle says about the faults."""
    return tuple(Influence(**{**row, "faults": tuple(row["faults"])}) for row in document()["history"])


@cache
def shared_codes() -> Influence:
    """What several heater codes at once say about the shared feed."""
    row = document()["shared_heater_codes"]
    return Influence("several heater codes", tuple(row["faults"]), row["times"], row["reason"])
