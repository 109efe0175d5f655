"""The readings that may be proposed, from candidates.json, checked at load, and which of them a sensor and a workshop allow."""

from collections.abc import Mapping, Set
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Annotated, Any, Literal, get_args

from pydantic import Field

from dianoia.case.load import from_plain
from dianoia.case.measures import Probe
from dianoia.case.observed import Observed
from dianoia.case.points import AT_TERMINALS
from dianoia.case.terms import HeaterSwitch, Style
from dianoia.case.workshop import SetUp, Tool
from dianoia.errors import BrokenTable, RefusedInput
from dianoia.families.tables import FamilyRow, families
from dianoia.families.types import Cell, Family
from dianoia.tables import ROW, read_document, require

_FILE = Path(__file__).parent / "data" / "candidates.json"
#: What is held in the hand for a measurement that names no other tool.
_HELD: dict[str, Tool] = {"voltage": "meter", "resistance": "meter", "lamp": "lamp", "scope": "scope", "current": "clamp",
                          "scan": "scan", "trace": "scan"}  # fmt: skip


@dataclass(frozen=True)
class Candidate:
    """A reading that may be proposed."""

    id: str
    probe: Probe
    minutes: float
    """For the reading itself."""
    at: str
    """Where the technician has to be."""
    styles: tuple[str, ...]
    tools: frozenset[Tool]
    """What it takes, empty for eyes and hands."""
    cautions: tuple[str, ...]
    switch: str | None
    loops: tuple[str, ...]
    hazards: tuple[str, ...] = ()
    """Names of its cautions."""
    cells: tuple[str, ...] = ()
    brief: bool = False


Loop = Literal["heater", "signal", "nox"]
Minutes = Annotated[float, Field(ge=0, le=480)]
Id = Annotated[str, Field(pattern=r"^[a-z0-9_-]+$", max_length=60)]


@dataclass(frozen=True)
class CandidateRow:
    """A row of candidates.json."""

    __pydantic_config__ = ROW
    id: Id
    loops: Annotated[tuple[Loop, ...], Field(min_length=1)]
    styles: tuple[Style, ...]
    at: str
    minutes: Minutes
    reading: Mapping[str, Any]
    """The probe, with {positive}, {negative} and {twin} for the sensor's own."""
    cautions: tuple[str, ...]
    cells: tuple[Cell, ...] = ()
    tool: Tool | None = None
    switch: HeaterSwitch | None = None
    brief: bool = False
    """Also proposed where the code names another loop."""


@dataclass(frozen=True)
class CandidateTable:
    """candidates.json."""

    __pydantic_config__ = ROW
    places: Mapping[str, Minutes]
    """Minutes to get there, and for a change of state."""
    changes: Mapping[str, Minutes]
    """Minutes to get there, and for a change of state."""
    hazards: Mapping[str, Minutes]
    """Minutes that a caution weighs."""
    cautions: Mapping[str, Annotated[str, Field(min_length=1)]]
    """Their words."""
    candidates: tuple[CandidateRow, ...]


@cache
def document() -> CandidateTable:
    """The whole table. Raises BrokenTable naming file, row and field."""
    table = read_document(_FILE, "dianoia-candidates/1", CandidateTable)
    ids = [row.id for row in table.candidates]
    for row in table.candidates:
        require(ids.count(row.id) == 1, _FILE.name, row.id, "an id that stands once", row.id)
        require(row.at in table.places, _FILE.name, f"{row.id}.at", f"one of {', '.join(table.places)}", row.at)
        for caution in row.cautions:
            require(
                caution in table.cautions,
                _FILE.name,
                f"{row.id}.cautions",
                f"one of {', '.join(table.cautions)}",
                caution,
            )
    for name in table.places:
        require(name in get_args(SetUp), _FILE.name, "places", f"one of {', '.join(get_args(SetUp))}", name)
    for name in table.hazards:
        require(name in table.cautions, _FILE.name, "hazards", f"one of {', '.join(table.cautions)}", name)
    return table


@cache
def candidates(
    positive: str = "signal", negative: str | None = "signal_return", twin: str = "B2S1"
) -> tuple[Candidate, ...]:
    """Every reading that may be proposed.

    positive and negative: the cell's terminals, negative None for the shell; twin: another sensor to compare with.
    """
    table = document()
    return tuple(_candidate(row, placed(row.reading, (positive, negative, twin)), table) for row in table.candidates)


def placed(reading: Mapping[str, Any], terminals: tuple[str, str | None, str]) -> dict[str, Any]:
    """A reading with {positive}, {negative} and {twin} filled in. terminals: see ``candidates``."""
    positive, negative, twin = terminals
    names = {"harness.{negative}": f"harness.{negative}" if negative else "sensor.shell",
             "sensor.{negative}": f"sensor.{negative}" if negative else "sensor.shell",
             "module.{negative}": f"module.{negative}" if negative else "module.power_ground", "{twin}": twin}  # fmt: skip
    return {
        name: names.get(value, value.replace("{positive}", positive)) if isinstance(value, str) else value
        for name, value in reading.items()
    }


def _candidate(row: CandidateRow, reading: dict[str, Any], table: CandidateTable) -> Candidate:
    try:
        probe = from_plain(Probe, reading, "reading")
    except RefusedInput as refusal:
        raise BrokenTable(f"{_FILE.name}: {row.id}: {refusal}") from refusal
    held = _HELD.get(probe.measure)
    return Candidate(
        id=row.id, probe=probe, minutes=row.minutes, at=row.at, styles=row.styles,
        tools=frozenset(tool for tool in (row.tool, held) if tool), cautions=tuple(table.cautions[name] for name in row.cautions),
        switch=row.switch, loops=row.loops, hazards=row.cautions, cells=row.cells, brief=row.brief,
    )  # fmt: skip


@dataclass(frozen=True)
class Allowed:
    """What a sensor and a workshop allow."""

    loops: Set[str]
    """In play."""
    focus: Set[str]
    """Kinds of readings to be searched."""
    without: Set[str]
    """Tools that are not at hand."""
    switch: HeaterSwitch
    """The side that the module switches."""
    family: FamilyRow
    terminals: tuple[str, str | None, str]
    """See ``candidates``."""


def usable(allowed: Allowed) -> list[Candidate]:
    """The candidates that the sensor has and the tools allow: all of the loops in focus, the brief ones of others. Codes can
    always be cleared.
    """
    return [
        item for item in _of_sensor(allowed.family.id, *allowed.terminals)
        if (allowed.focus & set(item.loops) or (item.brief and set(item.loops) & allowed.loops))
        and (not item.tools & allowed.without or item.probe.acted is not None)
        and item.switch in (None, allowed.switch)
    ]  # fmt: skip


@cache
def _of_sensor(family_id: Family, positive: str, negative: str | None, twin: str) -> tuple[Candidate, ...]:
    """The candidates that a sensor of the family has: its kind of cell, its points; each once, where two are the same for it."""
    family = families()[family_id]
    found: dict[Probe, Candidate] = {}
    for item in candidates(positive, negative, twin):
        if (not item.cells or family.cell in item.cells) and _reachable(item.probe, family):
            found.setdefault(item.probe, item)
    return tuple(found.values())


def _reachable(probe: Probe, family: FamilyRow) -> bool:
    """Whether the family has the probe's points, and they are two."""
    named = [point.partition(".")[2] for point in probe.points if point.partition(".")[0] in AT_TERMINALS]
    known = all(name in (*family.terminals, "shell", "power_ground", "power_feed") for name in named)
    return known and len(set(probe.points)) == len(probe.points)


def same_measurement(candidate: Candidate, reading: Observed) -> bool:
    """Whether a reading already is what the candidate asks for."""
    probe, taken = candidate.probe, reading.probe
    if probe.asks != taken.asks:
        return False
    if probe.by_hand:
        return True
    if probe.load_watts > taken.load_watts:
        return False
    a, b = probe.setting, taken.setting
    return (a.key, a.connector, a.module_connector, a.conditions) == (
        b.key, b.connector, b.module_connector, b.conditions,
    ) and (b.codes_cleared or not a.codes_cleared)  # fmt: skip
