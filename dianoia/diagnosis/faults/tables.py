"""The faults and their base rates, from faults.json, checked at load."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Annotated, Literal, get_args

from pydantic import Field

from dianoia.case.terms import History, Symptom
from dianoia.codes.tables import codes as codes_table
from dianoia.codes.types import Circuit, Failure
from dianoia.diagnosis.faults.types import FaultRow
from dianoia.tables import ROW, read_document, require

_FILE = Path(__file__).parent / "data" / "faults.json"
Factor = Annotated[float, Field(gt=0)]


@dataclass(frozen=True)
class Influence:
    """Something that makes faults likelier."""

    __pydantic_config__ = ROW
    faults: tuple[str, ...]
    """Ids, or beginnings of ids."""
    times: Factor
    reason: Annotated[str, Field(min_length=1)]

    def applies_to(self, fault: str) -> bool:
        """Whether a fault id is one of those it makes likelier."""
        return fault.startswith(self.faults)


#: What a fuel trim code beside the job's own says: of this sensor's bank, or of the other.
TrimCode = Literal["trims-lean", "trims-rich", "other-bank-lean", "other-bank-rich"]


@dataclass(frozen=True)
class HistoryEvidence(Influence):
    """What the vehicle's history, a symptom, or a fuel trim code says about the faults."""

    when: History | Symptom | TrimCode


@dataclass(frozen=True)
class FaultTable:
    """faults.json."""

    __pydantic_config__ = ROW
    faults: tuple[FaultRow, ...]
    no_fault_weight: Factor
    """Of nothing being at fault any more."""
    no_fault_reason: str
    pair_factor: Factor
    """On the weight of two at once."""
    pair_reason: str
    one_cause: tuple[Influence, ...]
    """What makes two of a kind likelier together, by their beginning."""
    coincidence: Annotated[float, Field(gt=0, lt=1)]
    """Share of a fault's weight that comes with one of the other loop."""
    coincidence_reason: str
    named_factor: Factor
    """Of a fault that a code's circuit names."""
    named_reason: str
    history: tuple[HistoryEvidence, ...]
    trim_codes: Mapping[Literal["lean", "rich"], tuple[str, ...]]
    """Fuel trim codes by the side they say."""
    shared_heater_codes: Influence
    other_loop: Mapping[str, Annotated[float, Field(ge=0, le=1)]]
    """The code's failure -> share of its jobs whose fault lies in the other loop."""
    other_loop_reason: str


@cache
def document() -> FaultTable:
    """The whole table. Raises BrokenTable naming file, row and field."""
    table = read_document(_FILE, "dianoia-faults/1", FaultTable)
    ids = [row.id for row in table.faults]
    failures = (*get_args(Failure), "heater-code", "otherwise")
    for row in table.faults:
        require(ids.count(row.id) == 1, _FILE.name, row.id, "an id that stands once", row.id)
        for name in row.by_code:
            failure, _, circuit = name.partition(":")
            known = failure in failures and circuit in ("", *get_args(Circuit))
            require(known, _FILE.name, f"{row.id}.by_code", "a failure, or failure:circuit", name)
        for felt in (row.felt_elsewhere, row.felt_behind):
            require(felt is None or felt in ids, _FILE.name, f"{row.id}.felt", "the id of a fault", felt)
    for item in (*table.history, *table.one_cause, table.shared_heater_codes):
        for beginning in item.faults:
            require(
                known_beginning(beginning, ids), _FILE.name, item.reason, "the beginning of a fault's id", beginning
            )
    for codes in table.trim_codes.values():
        for code in codes:
            require(code in codes_table(), _FILE.name, "trim_codes", "a code of codes.csv", code)
    for name in table.other_loop:
        require(name in failures, _FILE.name, "other_loop", "a code's failure", name)
    return table


def known_beginning(beginning: str, ids: list[str]) -> bool:
    """Whether some fault's id begins so."""
    return any(name.startswith(beginning) for name in ids)


@cache
def faults() -> dict[str, FaultRow]:
    """Every fault by id. Raises BrokenTable."""
    return {row.id: row for row in document().faults}


def influences() -> tuple[HistoryEvidence, ...]:
    """What the history of the vehicle says about the faults."""
    return document().history


def of_one_cause(one: str, other: str) -> float:
    """How much likelier two faults are together than by themselves, where one cause makes both."""
    return max(
        (item.times for item in document().one_cause if item.applies_to(one) and item.applies_to(other)), default=1.0
    )


def trim_codes() -> Mapping[Literal["lean", "rich"], tuple[str, ...]]:
    """The codes that say the fuel trims are at their end, by which end."""
    return document().trim_codes


def shared_codes() -> Influence:
    """What several heater codes at once say about the shared feed."""
    return document().shared_heater_codes
