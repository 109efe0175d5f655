"""The code tables, one row a code; a wrong row is refused at load."""

from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any, get_args

from dianoia.codes.types import Cell, Circuit, Failure, Kind, Relation
from dianoia.errors import BrokenTable
from dianoia.tables import read_json, read_rows

_DATA = Path(__file__).parent / "data"


def _member(name: str, value: str, allowed: tuple[str, ...]) -> None:
    if value and value not in allowed:
        raise ValueError(f"{name}: expected one of {', '.join(allowed)}; found {value!r}")


@dataclass(frozen=True)
class CodeRow:
    """A row of codes.csv. Empty cells mean "does not apply"; sensors is filled only where a code names two."""

    code: str
    kind: str
    cell: str
    bank: str
    position: str
    circuit: str
    failure: str
    direction: str
    relation: str
    sensors: str
    title: str

    def __post_init__(self) -> None:
        _member("kind", self.kind, get_args(Kind))
        _member("cell", self.cell, get_args(Cell))
        _member("bank", self.bank, ("1", "2"))
        _member("position", self.position, ("1", "2", "3"))
        _member("circuit", self.circuit, get_args(Circuit))
        _member("failure", self.failure, get_args(Failure))
        _member("direction", self.direction, ("rich-to-lean", "lean-to-rich"))
        _member("relation", self.relation, get_args(Relation))
        if not self.title or (self.kind == "related") != bool(self.relation):
            raise ValueError("a row needs a title, and a relation exactly where it is 'related'")


@dataclass(frozen=True)
class FailureTypeRow:
    """A row of failure_types.csv: the failure type byte, two hex digits."""

    byte: str
    says: str


@dataclass(frozen=True)
class SpnRow:
    """A row of spns.csv: a J1939 suspect parameter. failure is empty where the FMI gives it."""

    spn: str
    position: str
    circuit: str
    failure: str
    title: str


@dataclass(frozen=True)
class FmiRow:
    """A row of fmis.csv: a J1939 failure mode."""

    fmi: str
    failure: str
    says: str


@cache
def codes() -> dict[str, CodeRow]:
    """Every listed code."""
    rows = read_rows(_DATA / "codes.csv", CodeRow)
    table = {row.code: row for row in rows}
    if len(table) != len(rows):
        raise BrokenTable("codes.csv: a code stands twice")
    return table


@cache
def failure_types() -> dict[str, str]:
    """Failure type byte -> sense."""
    return {row.byte: row.says for row in read_rows(_DATA / "failure_types.csv", FailureTypeRow)}


@cache
def spns() -> dict[int, SpnRow]:
    """Suspect parameter number -> row."""
    return {int(row.spn): row for row in read_rows(_DATA / "spns.csv", SpnRow)}


@cache
def fmis() -> dict[int, FmiRow]:
    """Failure mode identifier -> row."""
    return {int(row.fmi): row for row in read_rows(_DATA / "fmis.csv", FmiRow)}


@cache
def _senses() -> dict[tuple[str, str, str], dict[str, str]]:
    table = {}
    for sense in read_json(_DATA / "senses.json", "dianoia-senses/1")["senses"]:
        table[sense["kind"], sense.get("circuit", ""), sense.get("failure") or sense.get("relation", "")] = sense
    return table


def sense(kind: str, circuit: str, failure: str) -> dict[str, Any]:
    """The sentences for a kind of failure; ``failure`` is the relation for related codes. Raises BrokenTable."""
    table = _senses()
    found = table.get((kind, circuit, failure)) or table.get((kind, circuit, "*"))
    if found is None:
        raise BrokenTable(f"senses.json: nothing for {kind} {circuit} {failure}")
    return found
