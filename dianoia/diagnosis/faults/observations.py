"""What looking and acting say about the faults, from observations.json, checked at load."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from dianoia.case.measures import Probe
from dianoia.case.measures.act import OUTCOMES
from dianoia.case.measures.inspect import LOOKS
from dianoia.case.measures.scan import SCAN_WORDS
from dianoia.case.terms import Action, ExhaustPlace, InspectTarget, Monitor, Outcome, Pid, Seen
from dianoia.circuit.network import Array
from dianoia.diagnosis.faults.moved import moved_at, reached
from dianoia.diagnosis.faults.space import JointSpace
from dianoia.diagnosis.faults.tables import faults, known_beginning
from dianoia.tables import ROW, read_document, require

_FILE = Path(__file__).parent / "data" / "observations.json"


Share = Annotated[float, Field(gt=0, le=1)]


@dataclass(frozen=True)
class Observation:
    """A row of observations.json: what was seen or done, with what came of it."""

    __pydantic_config__ = ROW
    measure: Literal["inspect", "act", "scan"]
    target: InspectTarget | Action | Pid
    value: Seen | Outcome | Monitor
    times: tuple[tuple[tuple[str, ...], Annotated[float, Field(gt=0)]], ...]
    """(beginnings of fault ids, factor); "none" and "any" stand for no fault and any fault."""
    says: Annotated[str, Field(min_length=1)]

    def factors(self, space: JointSpace, whole: float = 1.0, within: frozenset[str] | None = None) -> Array:
        """How much likelier this was seen under each joint hypothesis; the strongest explanation counts. whole: share of what
        would show that was looked at; within: the faults that it is about, None for all.
        """
        rows = len(space.faults)
        raising, lowering = np.ones(rows), np.ones(rows)
        for names, full in self.times:
            matching = _matching(names, space, within)
            times = (full if whole > 0 else 1.0) if full > 1 else 1.0 - whole * (1.0 - full)
            if times > 1:
                raising = np.where(matching, np.maximum(raising, times), raising)
            else:
                lowering = np.where(matching, np.minimum(lowering, times), lowering)
        return np.where(raising > 1, raising, lowering)


def _matching(names: tuple[str, ...], space: JointSpace, within: frozenset[str] | None) -> Array:
    """(joint,) True where a hypothesis has a fault that begins so; "none" and "any" as in ``Observation``. within: None for any."""
    listed, present = space.incidence
    some = np.asarray(np.any(present, axis=1))
    if "any" in names:
        return some
    columns = [name.startswith(names) and (within is None or name in within) for name in listed]
    matching = np.asarray(np.any(present[:, columns], axis=1))
    return matching | ~some if "none" in names else matching


@dataclass(frozen=True)
class ObservationTable:
    """observations.json."""

    __pydantic_config__ = ROW
    observations: tuple[Observation, ...]
    usual: Mapping[InspectTarget | Action, Mapping[Seen | Outcome, Share]]
    """How often each thing is seen at a target before anything is known."""
    renews: Mapping[Action, tuple[str, ...]]
    """The faults, by beginning, that an act takes away."""
    leaks_lie: Mapping[ExhaustPlace, tuple[Annotated[float, Field(ge=0, le=1)], Annotated[float, Field(ge=0, le=1)]]]
    """Of the leaks ahead of a first and of a further sensor, the share at each place."""


#: What may be seen at a target, and what may come of an act.
_POSSIBLE: dict[str, tuple[str, ...]] = {
    str(name): tuple(values) for name, values in (*LOOKS.items(), *OUTCOMES.items(), *SCAN_WORDS.items())
}


@cache
def _document() -> ObservationTable:
    table = read_document(_FILE, "dianoia-observations/1", ObservationTable)
    ids = list(faults())
    for row in table.observations:
        name = f"{row.measure} {row.target} {row.value}"
        possible = _POSSIBLE.get(row.target, ("done",))
        require(row.value in possible, _FILE.name, name, f"one of {', '.join(possible)}", row.value)
        for beginning in (item for names, _ in row.times for item in names):
            known = beginning in ("none", "any") or known_beginning(beginning, ids)
            require(known, _FILE.name, name, "the beginning of a fault's id", beginning)
    for action, beginnings in table.renews.items():
        for beginning in beginnings:
            require(
                known_beginning(beginning, ids),
                _FILE.name,
                f"renews.{action}",
                "the beginning of a fault's id",
                beginning,
            )
    return table


@cache
def _observations() -> dict[tuple[str, str, str], Observation]:
    return {(row.measure, row.target, row.value): row for row in _document().observations}


def looked_at(probe: Probe) -> InspectTarget | Action:
    """What is looked at, or done."""
    found = probe.looked or probe.acted
    assert found is not None
    return found


def _about(probe: Probe) -> str:
    return probe.live_value or looked_at(probe)


def observation(probe: Probe, seen: str) -> Observation | None:
    """What is known about a thing seen, done or told; None where it says nothing about the faults."""
    return _observations().get((probe.measure, _about(probe), seen))


def log_factor(seen: Observation, probe: Probe, space: JointSpace) -> Array:
    """The observation as a log-factor for each joint hypothesis."""
    moved = reached(moved_at(probe)) if probe.acted == "wiggle" else None
    return np.log(seen.factors(space, ahead(probe, space.position), moved))


def ahead(probe: Probe, position: int) -> float:
    """How much of what would show was looked at: of the leaks ahead of a sensor at this position, those where the exhaust was."""
    if probe.looked_in is None:
        return 1.0
    return _document().leaks_lie[probe.looked_in][min(position, 2) - 1]


def repaired(action: Action, known: frozenset[str]) -> frozenset[str]:
    """The faults, of those known, that an act takes away."""
    beginnings = _document().renews.get(action, ())
    return frozenset(name for name in known if beginnings and name.startswith(beginnings))


def usual(probe: Probe) -> dict[str, float]:
    """How often each thing is seen or comes of it before anything is known; empty where it is not tabulated."""
    return {str(seen): share for seen, share in _document().usual.get(looked_at(probe), {}).items()}


def chances(probe: Probe, space: JointSpace) -> Array | None:
    """Chance of each usual outcome under each joint hypothesis, (joint, outcomes); None where not tabulated."""
    key = ("looked at", looked_at(probe), ahead(probe, space.position), probe.looked_in, probe.points)
    if key not in space.kept:
        space.kept[key] = _chances(probe, space)
    return space.kept[key]


def _chances(probe: Probe, space: JointSpace) -> Array | None:
    base = usual(probe)
    if not base:
        return None
    columns = []
    for value, share in base.items():
        seen = observation(probe, value)
        factor = np.exp(log_factor(seen, probe, space)) if seen else np.ones(len(space.faults))
        columns.append(share * factor)
    table = np.stack(columns, axis=1)
    return table / table.sum(axis=1, keepdims=True)
