"""What has to be shown before each decision, from gates.json, checked at load.

A gate is the rows of a component and a loop. Each row names what has to be shown; any one of these is enough:

- a part that is proven (``supply``), or ``every-part`` of the coded circuit
- something seen (``seen`` in the table)
- a fault that is excluded (``without:heater-short``)
- faults that are excluded in place of what is named (``instead:cell-``, by the beginning of their ids)
- a fault that is found and named (``named:heater-short``)
"""

from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Annotated, Literal, get_args

from pydantic import Field

from dianoia.diagnosis.catalogue.candidates import candidates
from dianoia.diagnosis.decision.seen import SEEN
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Component, Part
from dianoia.tables import ROW, read_document, require

_FILE = Path(__file__).parent / "data" / "gates.json"
EVERY_PART, WITHOUT, NAMED, INSTEAD = "every-part", "without:", "named:", "instead:"
Share = Annotated[float, Field(gt=0, lt=1)]
Loop = Literal["heater", "signal", "nox"]
#: Of a decision that nothing is at fault.
NOTHING: Literal["none"] = "none"


@dataclass(frozen=True)
class GateRow:
    """One thing to be shown before ``component`` is named, where its fault lies in one of the loops."""

    __pydantic_config__ = ROW
    component: Component | Literal["none"]
    loop: Annotated[str, Field(pattern=r"^(heater|signal|nox)( (heater|signal|nox))*$")]
    shown: Annotated[tuple[str, ...], Field(min_length=1)]
    """Any one of these will do."""
    reason: Annotated[str, Field(min_length=1)]
    faults: tuple[str, ...] = ()
    """Beginnings of the faults that it is asked of, empty for all."""

    def asked_of(self, component: str, loop: str, fault: str | None) -> bool:
        """Whether the row belongs to the gate before a component with this fault."""
        fits = not self.faults or (fault is not None and fault.startswith(self.faults))
        return self.component == component and loop in self.loop.split() and fits


@dataclass(frozen=True)
class SeenRow:
    """Something that readings show, in words."""

    __pydantic_config__ = ROW
    id: str
    says: Annotated[str, Field(min_length=1)]
    candidates: Annotated[tuple[str, ...], Field(min_length=1)]
    """The readings that show it, the simplest first."""


@dataclass(frozen=True)
class Rival:
    """When something that could look the same is out."""

    __pydantic_config__ = ROW
    below: Share
    """Its chance instead of what is named."""
    disfavoured_by: Annotated[float, Field(gt=1)]
    """How far the readings have to speak against it (Bayes factor)."""


@dataclass(frozen=True)
class SecondFaultRule:
    """When a fault besides what is named is worth a reading."""

    __pydantic_config__ = ROW
    least: Share
    """From this chance on."""
    tells: Share
    """A reading tells of it where the chances of what it shows with and without it differ by this much in all."""


@dataclass(frozen=True)
class GateTable:
    """gates.json."""

    __pydantic_config__ = ROW
    thresholds: Mapping[Component, Share]
    """Chance from which each component is named."""
    thresholds_reason: str
    no_fault: Share
    """From which none is."""
    no_fault_reason: str
    leak_seen: Share
    """Threshold for an exhaust whose leak was seen."""
    leak_seen_reason: str
    rival: Rival
    rival_reason: str
    besides: SecondFaultRule
    besides_reason: str
    gates: tuple[GateRow, ...]
    seen: tuple[SeenRow, ...]


@cache
def gates() -> GateTable:
    """The whole table. Raises BrokenTable naming file, row and field."""
    table = read_document(_FILE, "dianoia-gates/1", GateTable)
    for component in get_args(Component):
        require(component in table.thresholds, _FILE.name, "thresholds", "every component", component)
    known = {row.id for row in table.seen}
    require(known == set(SEEN), _FILE.name, "seen", f"one row for each of {', '.join(sorted(SEEN))}", sorted(known))
    for row in table.gates:
        name = f"{row.component} {row.loop}"
        for shown in row.shown:
            require(_is_known(shown, known), _FILE.name, name, "a part, something seen, or a fault", shown)
        for beginning in row.faults:
            require(any(item.startswith(beginning) for item in faults()), _FILE.name, name, "a fault", beginning)
    proposed = {item.id for item in candidates()}
    for item in table.seen:
        for reading in item.candidates:
            require(reading in proposed, _FILE.name, item.id, "a reading of candidates.json", reading)
    return table


def _is_known(shown: str, seen: Set[str]) -> bool:
    if shown.startswith(INSTEAD):
        return any(name.startswith(shown.removeprefix(INSTEAD)) for name in faults())
    for beginning in (WITHOUT, NAMED):
        if shown.startswith(beginning):
            return shown.removeprefix(beginning) in faults()
    return shown == EVERY_PART or shown in seen or shown in get_args(Part)


@cache
def seen_rows() -> Mapping[str, SeenRow]:
    """What may be seen, by its id."""
    return {row.id: row for row in gates().seen}


def gate_of(component: str, loop: str, fault: str | None, parts: Sequence[Part]) -> list[GateRow]:
    """The rows before a component is named whose likeliest fault lies in a loop, ``every-part`` written out. Rows for parts that
    the circuit has not are left out. component: a component, or ``none``; parts: of the circuit.
    """
    rows = [row for row in gates().gates if row.asked_of(component, loop, fault)]
    found = []
    for row in rows:
        if row.shown == (EVERY_PART,):
            found += [GateRow(row.component, row.loop, (part,), row.reason) for part in parts]
        elif not _of_other_circuit(row, parts):
            found.append(row)
    return found


def parts_asked(component: str, loop: str, parts: Sequence[Part]) -> list[Part]:
    """The parts of the circuit that have to be proven before a component is named, or ``none``."""
    return [part for row in gate_of(component, loop, None, parts) for part in parts if row.shown[0] == part]


def _of_other_circuit(row: GateRow, parts: Sequence[Part]) -> bool:
    return row.shown[0] in get_args(Part) and row.shown[0] not in parts
