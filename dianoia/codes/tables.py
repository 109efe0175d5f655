"""The code tables, one row a code; a wrong row is refused at load."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from re import fullmatch
from typing import Annotated, Literal, TypeVar, get_args

from pydantic import Field

from dianoia.codes.types import Cell, Circuit, Failure, Kind, Relation
from dianoia.errors import BrokenTable
from dianoia.tables import ROW, read_document, read_rows, require

Key = TypeVar("Key")
Row = TypeVar("Row")

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

    def __post_init__(self) -> None:
        if not fullmatch("[0-9A-F]{2}", self.byte) or not self.says:
            raise ValueError(f"byte: expected two hex digits and what they say; found {self.byte!r}")


@dataclass(frozen=True)
class SpnRow:
    """A row of spns.csv: a J1939 suspect parameter, of a NOx sensor or related to one. failure is empty where the FMI gives it."""

    spn: str
    position: str
    circuit: str
    failure: str
    title: str
    relation: str

    def __post_init__(self) -> None:
        _member("position", self.position, ("1", "2"))
        _member("circuit", self.circuit, get_args(Circuit))
        _member("failure", self.failure, get_args(Failure))
        _member("relation", self.relation, get_args(Relation))
        of_sensor = bool(self.position and self.circuit) and not self.relation
        if not (self.spn.isdigit() and self.title and (of_sensor or self.relation)):
            raise ValueError(
                "a row needs a parameter number and a title, and either a position and a circuit or a relation"
            )


@dataclass(frozen=True)
class FmiRow:
    """A row of fmis.csv: a J1939 failure mode."""

    fmi: str
    failure: str
    says: str

    def __post_init__(self) -> None:
        _member("failure", self.failure, get_args(Failure))
        if not (self.fmi.isdigit() and 0 <= int(self.fmi) <= 31 and self.failure and self.says):
            raise ValueError("a row needs a mode from 0 to 31, its failure and what it says")


Sentence = Annotated[str, Field(min_length=1)]


@dataclass(frozen=True, kw_only=True)
class Sense:
    """A row of senses.json."""

    __pydantic_config__ = ROW
    kind: Kind
    circuit: Circuit | None = None
    failure: Failure | Literal["*"] | None = None
    """"*" for any other of the circuit."""
    relation: Relation | None = None
    """Of a related code, in its place."""
    saw: Sentence
    makes: Sentence
    not_said: Sentence
    driver: Sentence
    emissions: Sentence
    onset: Literal["hard", "drive"]

    @property
    def key(self) -> tuple[str, str, str]:
        """What it is looked up by."""
        return self.kind, self.circuit or "", self.failure or self.relation or ""


@dataclass(frozen=True)
class SenseTable:
    """senses.json."""

    __pydantic_config__ = ROW
    senses: tuple[Sense, ...]


@cache
def codes() -> dict[str, CodeRow]:
    """Every listed code. Raises BrokenTable."""
    rows = read_rows(_DATA / "codes.csv", CodeRow)
    for row in rows:
        require(_sense_of(row.kind, row.circuit, row.failure or row.relation) is not None, "codes.csv", row.code,
                "a kind, circuit and failure that senses.json has a row for", (row.kind, row.circuit, row.failure))  # fmt: skip
    return _once("codes.csv", {row.code: row for row in rows}, rows)


def _once(file: str, table: dict[Key, Row], rows: Sequence[Row]) -> dict[Key, Row]:
    require(len(table) == len(rows), file, "its rows", "each once", f"{len(rows) - len(table)} twice")
    return table


@cache
def failure_types() -> dict[str, str]:
    """Failure type byte -> sense."""
    rows = read_rows(_DATA / "failure_types.csv", FailureTypeRow)
    return {byte: row.says for byte, row in _once("failure_types.csv", {row.byte: row for row in rows}, rows).items()}


@cache
def spns() -> dict[int, SpnRow]:
    """Suspect parameter number -> row."""
    rows = read_rows(_DATA / "spns.csv", SpnRow)
    return _once("spns.csv", {int(row.spn): row for row in rows}, rows)


@cache
def fmis() -> dict[int, FmiRow]:
    """Failure mode identifier -> row."""
    rows = read_rows(_DATA / "fmis.csv", FmiRow)
    return _once("fmis.csv", {int(row.fmi): row for row in rows}, rows)


@cache
def _senses() -> dict[tuple[str, str, str], Sense]:
    rows = read_document(_DATA / "senses.json", "dianoia-senses/1", SenseTable).senses
    return _once("senses.json", {row.key: row for row in rows}, rows)


def _sense_of(kind: str, circuit: str, failure: str) -> Sense | None:
    return _senses().get((kind, circuit, failure)) or _senses().get((kind, circuit, "*"))


def sense(kind: str, circuit: str, failure: str) -> Sense:
    """The sentences for a kind of failure; ``failure`` is the relation for related codes. Raises BrokenTable."""
    found = _sense_of(kind, circuit, failure)
    if found is None:
        raise BrokenTable(f"senses.json: nothing for {kind} {circuit} {failure}")
    return found
