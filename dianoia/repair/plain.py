"""plain.json: what was wrong, and what was measured, as a driver understands it."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import get_args

from dianoia.case.measures import Probe
from dianoia.case.measures.state_words import state_words
from dianoia.case.terms import Action, InspectTarget, Pid
from dianoia.diagnosis.faults.tables import faults
from dianoia.families.types import Terminal
from dianoia.tables import ROW, read_document, require

MEASURES = ("voltage", "resistance", "lamp", "scope", "current", "scan", "trace", "inspect", "act")
_POINTS = ("chassis", "fuse", "relay", "module.power_feed", "module.power_ground")
_WHOLE = ("heater", "battery")
_FILE = Path(__file__).parent / "data" / "plain.json"


@dataclass(frozen=True)
class _Row:
    """Row."""

    __pydantic_config__ = ROW
    begins: str
    says: str
    """Of every fault whose id begins so; the first that fits counts."""


@dataclass(frozen=True)
class _Reading:
    """Reading."""

    __pydantic_config__ = ROW
    measures: tuple[str, ...]
    about: tuple[str, ...]
    says: str
    """Of a reading with one of the measures, at one of ``about`` (pids, targets, actions, terminals and points,
    ``heater`` across both of its ends, ``battery``), or anywhere where none is given; the first that fits counts.
    """


@dataclass(frozen=True)
class _Table:
    __pydantic_config__ = ROW
    rows: tuple[_Row, ...]
    readings: tuple[_Reading, ...]


@cache
def _table() -> _Table:
    return read_document(_FILE, "dianoia-plain/1", _Table)


@cache
def _rows() -> tuple[_Row, ...]:
    rows = _table().rows
    for name in faults():
        told = any(name.startswith(row.begins) for row in rows)
        require(told, _FILE.name, name, "a row that it begins like", "none")
    for row in rows:
        used = any(name.startswith(row.begins) for name in faults())
        require(used, _FILE.name, row.begins, "the beginning of a fault", row.begins)
    return rows


def plainly(found: Iterable[str]) -> tuple[str, ...]:
    """What was wrong, a sentence for each kind of fault."""
    told = [next(row.says for row in _rows() if name.startswith(row.begins)) for name in found]
    return tuple(dict.fromkeys(told))


#: What instruments and technicians say, and what a driver understands.
_SAID = {"no-change": "no change", "not-returned": "not returned", "OL": "no connection", "n/a": "no value"}


def driver_words(value: str) -> str:
    """A value or a range without the trade's abbreviations.

    >>> driver_words("OL"), driver_words("4 to 7.5 ohm")
    ('no connection', '4 to 7.5 ohm')
    """
    return " ".join(_SAID.get(word, word) for word in value.split(" "))


@cache
def _readings() -> tuple[_Reading, ...]:
    rows = _table().readings
    for measure in MEASURES:
        last = any(measure in row.measures and not row.about for row in rows)
        require(last, _FILE.name, measure, "a row for whatever is read with it", "none")
    named = {name for row in rows for name in row.about}
    known = {*get_args(Pid), *get_args(InspectTarget), *get_args(Action), *get_args(Terminal), *_POINTS, *_WHOLE}
    require(named <= known, _FILE.name, "about", "names of the case file", sorted(named - known))
    return rows


def plain_readings(probes: Sequence[Probe]) -> tuple[str, ...]:
    """What was measured, for each probe; two that would read the same say their state, too."""
    told = [_plain(probe) for probe in probes]
    return tuple(
        f"{says} ({state_words(probe)})" if told.count(says) > 1 and state_words(probe) else says
        for says, probe in zip(told, probes, strict=True)
    )


def _plain(probe: Probe) -> str:
    about = _about(probe)
    return next(
        row.says for row in _readings() if probe.measure in row.measures and (not row.about or about & set(row.about))
    )


def _about(probe: Probe) -> set[str]:
    """Names that a row may match a probe by."""
    if probe.looked is not None:
        return {probe.looked}
    if probe.acted is not None:
        return {probe.acted}
    if probe.scanned:
        return {probe.scanned}
    if probe.across_battery:
        return {"battery"}
    if probe.terminals >= {"heater_supply", "heater_control"}:
        return {"heater"}
    return {*probe.terminals, *probe.points, *(point.partition(".")[0] for point in probe.points)} - {"battery"}
