"""What looking and acting say about the faults, from observations.json."""

from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np

from dianoia.case.ledger import ActReading, InspectReading
from dianoia.circuit.network import Array
from dianoia.diagnosis.belief import JointSpace
from dianoia.tables import read_json

_FILE = Path(__file__).parent / "data" / "observations.json"


@dataclass(frozen=True)
class Observation:
    """times: (beginnings of fault ids, factor); "none" and "any" stand for no fault and any fault."""

    times: tuple[tuple[tuple[str, ...], float], ...]
    says: str

    def factors(self, space: JointSpace) -> Array:
        """How much likelier this was seen under each joint hypothesis; the strongest explanation counts."""
        rows = len(space.faults)
        raising, lowering = np.ones(rows), np.ones(rows)
        for names, times in self.times:
            matching = _matching(names, space)
            if times > 1:
                raising = np.where(matching, np.maximum(raising, times), raising)
            else:
                lowering = np.where(matching, np.minimum(lowering, times), lowering)
        return np.where(raising > 1, raising, lowering)


def _matching(names: tuple[str, ...], space: JointSpace) -> Array:
    """(joint,) True where a hypothesis has a fault that begins so; "none" and "any" as in ``Observation``."""
    listed, present = space.incidence
    some = np.asarray(np.any(present, axis=1))
    if "any" in names:
        return some
    columns = [name.startswith(names) for name in listed]
    matching = np.asarray(np.any(present[:, columns], axis=1))
    return matching | ~some if "none" in names else matching


@cache
def _document() -> dict[str, Any]:
    return read_json(_FILE, "dianoia-observations/1")


@cache
def _observations() -> dict[tuple[str, str, str], Observation]:
    return {
        (row["measure"], row["target"], row["value"]): Observation(
            tuple((tuple(names), times) for names, times in row["times"]), row["says"]
        )
        for row in _document()["observations"]
    }


def observation(reading: InspectReading | ActReading) -> Observation | None:
    """What is known about a thing seen or done; None where it says nothing about the faults."""
    target = reading.target if isinstance(reading, InspectReading) else reading.action
    return _observations().get((reading.measure, target, reading.value))


def log_factor(seen: Observation, space: JointSpace) -> Array:
    """The observation as a log-factor for each joint hypothesis."""
    return np.log(seen.factors(space))


def renewed(action: str, known: frozenset[str]) -> frozenset[str]:
    """The faults, of those known, that an act takes away."""
    beginnings = tuple(_document()["renews"].get(action, ()))
    return frozenset(name for name in known if beginnings and name.startswith(beginnings))


def usual(target: str) -> dict[str, float]:
    """How often each thing is seen at a target before anything is known; empty where it is not tabulated."""
    found: dict[str, float] = _document()["usual"].get(target, {})
    return found


def chances(measure: str, target: str, space: JointSpace) -> Array | None:
    """Chance of each usual outcome under each joint hypothesis, (joint, outcomes); None where not tabulated."""
    key = (measure, target)
    if key not in space.kept:
        space.kept[key] = _chances(measure, target, space)
    return space.kept[key]


def _chances(measure: str, target: str, space: JointSpace) -> Array | None:
    base = usual(target)
    if not base:
        return None
    columns = []
    for value, share in base.items():
        seen = _observations().get((measure, target, value))
        factor = np.exp(log_factor(seen, space)) if seen else np.ones(len(space.faults))
        columns.append(share * factor)
    table = np.stack(columns, axis=1)
    return table / table.sum(axis=1, keepdims=True)
