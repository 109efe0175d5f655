"""What is said of a repair."""

from dataclasses import dataclass
from typing import Literal

from dianoia.case.measures import Probe
from dianoia.case.terms import Action
from dianoia.diagnosis.decision.decide import DecisionName
from dianoia.diagnosis.faults.types import Component

RepairState = Literal["none", "done", "proven", "closed-unproven", "came-back"]
ProofKind = Literal[
    "again", "moved", "heater-current", "minutes-later", "response", "twin", "hidden", "codes", "monitor"
]


@dataclass(frozen=True, kw_only=True)
class RepairAct:
    """An act of repair."""

    reading: int
    """Its place."""
    action: Action
    says: str
    part: str | None = None
    decision: DecisionName
    """What stood before it."""
    found: tuple[str, ...] = ()
    found_by: tuple[int, ...] = ()
    """Places of the readings that had failed."""
    early: bool = False
    """Done before that decision stood."""
    unproven: tuple[str, ...] = ()
    """What was not shown then."""
    reason: str = ""
    """Why all the same, as noted."""


@dataclass(frozen=True, kw_only=True)
class ActedDecision:
    """A decision that stood when it was acted on."""

    decision: DecisionName
    components: tuple[Component, ...]
    says: str
    """The decision in words."""
    how_sure: str
    """As it was told then."""
    because: tuple[str, ...]
    """As it was told then."""
    readings: int
    """How many there were."""
    reading: int
    """The place of the newest of them."""
    acts: tuple[int, ...]
    """Places of the acts that followed."""


@dataclass(frozen=True, kw_only=True)
class ProofItem:
    """What has to be shown after the repair."""

    kind: ProofKind
    what: str
    read: Probe
    """The reading that shows it."""
    expect: str
    """Of a sound circuit."""
    by: int | None = None
    """The place of the reading that showed it, None while it is open."""
    before: int | None = None
    """The place of the reading that failed, where there is one."""
    minutes: float = 1.0
    """Of taking it."""
    cautions: tuple[str, ...] = ()
    """Of taking it."""


@dataclass(frozen=True, kw_only=True)
class Closed:
    """How a job was closed."""

    by: str
    """Who closed the job, and when."""
    at: str
    """Who closed the job, and when."""
    reason: str = ""
    """Why it was closed unproven, empty where it was proven."""


@dataclass(frozen=True, kw_only=True)
class MayCome:
    """Something to tell before the vehicle leaves."""

    says: str
    """In plain words."""
    why: str
    """What tells it."""


@dataclass(frozen=True, kw_only=True)
class Repair:
    """How far the repair is."""

    state: RepairState = "none"
    title: str = ""
    """The state in words."""
    says: str = ""
    """The state in words."""
    decided: tuple[ActedDecision, ...] = ()
    """What was acted on."""
    done: tuple[RepairAct, ...] = ()
    proof: tuple[ProofItem, ...] = ()
    found: tuple[str, ...] = ()
    """Faults that were found before it."""
    closed: Closed | None = None
    returns: int = 0
    """How often the code came back after it."""
    inspection: str = ""
    """What the local one allows, as the workshop has noted it."""
    may_come: tuple[MayCome, ...] = ()
    sensor_unseen: float | None = None
    """Chance that a sensor fitted on the code alone would have mended it, None before a repair."""
