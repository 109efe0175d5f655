"""What a reading costs: its own minutes, the way to it, the change of set-up, and the hazard it carries.

The table's minutes are a general workshop's; the vehicle's access and the workshop's own figures win over them.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import get_args

from dianoia.case.job import Job
from dianoia.case.measures import Probe
from dianoia.case.observed import Observed
from dianoia.case.setting import Setting
from dianoia.case.workshop import SetUp
from dianoia.circuit.assumptions import assumptions
from dianoia.diagnosis.catalogue.candidates import Candidate, document
from dianoia.diagnosis.faults.observations import looked_at


@dataclass(frozen=True)
class Prices:
    """What minutes and parts cost."""

    places: Mapping[str, float]
    """Minutes to get to a place."""
    changes: Mapping[str, float]
    """Minutes for a change of state."""
    hazards: Mapping[str, float]
    """Minutes a caution weighs."""


@dataclass(frozen=True)
class Position:
    """Where the technician stands: the last reading's place and setting."""

    place: str
    setting: Setting
    warm: bool = False
    """The engine has run in this job."""


def prices_of(job: Job) -> Prices:
    """The prices of a job's readings. A sensor behind the catalyst is reached from below."""
    table = document()
    places, changes = dict(table.places), dict(table.changes)
    own = job.case.workshop.minutes if job.case.workshop else None
    _put(own or {}, places, changes)
    if (job.position or 1) > 1:
        places["plug"] = places["plug-below"]
    _put(job.case.vehicle.access or {}, places, changes)
    return Prices(places, changes, table.hazards)


def _put(minutes: Mapping[SetUp, float], places: dict[str, float], changes: dict[str, float]) -> None:
    for name, value in minutes.items():
        if name in places:
            places[name] = value
        else:
            changes["battery" if name == "battery_off" else name] = value


def general_minutes() -> dict[str, float]:
    """The table's own minutes by the names that a workshop or a vehicle may give its own for."""
    table = document()
    changes = {"battery_off" if name == "battery" else name: value for name, value in table.changes.items()}
    return {name: float({**table.places, **changes}[name]) for name in get_args(SetUp)}


def position_after(readings: Sequence[Observed]) -> Position | None:
    """Where the last of some readings left the technician; None before the first."""
    if not readings:
        return None
    last = readings[-1].probe
    return Position(place_of(last), last.setting, warm=any(item.probe.key == "running" for item in readings))


def after(candidate: Candidate, position: Position | None) -> Position:
    """Where a candidate leaves the technician."""
    warm = bool(position and position.warm) or candidate.probe.setting.key == "running"
    return Position(candidate.at, candidate.probe.setting, warm)


def cost(candidate: Candidate, position: Position | None, prices: Prices) -> float:
    """Minutes for a candidate, the way and the change of set-up included."""
    if position is None:
        return float(candidate.minutes + prices.places[candidate.at])
    before, wanted = position.setting, candidate.probe.setting
    total = candidate.minutes
    for name, minutes in prices.changes.items():
        if name == "cooling":
            total += minutes if position.warm and _needs_cold(wanted) and not _needs_cold(before) else 0.0
        elif getattr(before, name) != getattr(wanted, name) and not (name == "codes_cleared" and before.codes_cleared):
            total += minutes
    if position.place != candidate.at:
        total += prices.places[candidate.at]
    return float(total)


def hazard(candidate: Candidate, prices: Prices) -> float:
    """What a candidate's dangers weigh, in minutes; not time spent, but a reason to take another reading."""
    return sum(prices.hazards.get(name, 0.0) for name in candidate.hazards)


def _needs_cold(setting: Setting) -> bool:
    return isinstance(setting.sensor_c, int | float) and setting.sensor_c <= assumptions().cold_c


def place_of(probe: Probe) -> str:
    """Where the technician stood for a reading."""
    points = " ".join(probe.points)
    for word, place in (("module", "module"), ("harness", "plug"), ("sensor", "plug"), ("inline", "inline"),
                        ("fuse", "fusebox"), ("relay", "fusebox"), ("battery", "battery")):  # fmt: skip
        if word in points:
            return place
    return _LOOKED_AT.get(looked_at(probe), "look") if probe.by_hand else "scan"


_LOOKED_AT = {"connector": "plug", "pins": "plug", "harness": "plug", "sensor": "plug", "wiggle": "plug", "fuse": "fusebox",
              "inline-connector": "inline", "clear-codes": "scan"}  # fmt: skip
