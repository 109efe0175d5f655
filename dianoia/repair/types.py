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
    """An act of repair. reading: its place; decision: what stood before it; early: done before that decision stood; unproven: what was not
    shown then; reason: why all the same, as noted; found_by: places of the readings that had failed.
    """

    reading: int
    action: Action
    says: str
    part: str | None = None
    decision: DecisionName
    found: tuple[str, ...] = ()
    found_by: tuple[int, ...] = ()
    early: bool = False
    unproven: tuple[str, ...] = ()
    reason: str = ""


@dataclass(frozen=True, kw_only=True)
class ActedDecision:
    """A decision that stood when it was acted on. says: it in words; how_sure, because: as it was told then; readings: how many there
    were; reading: the place of the newest of them; acts: places of the acts that followed.
    """

    decision: DecisionName
    components: tuple[Component, ...]
    says: str
    how_sure: str
    because: tuple[str, ...]
    readings: int
    reading: int
    acts: tuple[int, ...]


@dataclass(frozen=True, kw_only=True)
class ProofItem:
    """What has to be shown after the repair. read: the reading that shows it; expect: of a sound circuit; by: the place of the
    reading that showed it, None while it is open; before: the place of the reading that failed, where there is one; minutes and
    cautions: of taking it.
    """

    kind: ProofKind
    what: str
    read: Probe
    expect: str
    by: int | None = None
    before: int | None = None
    minutes: float = 1.0
    cautions: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Closed:
    """by, at: who closed the job, and when; reason: why it was closed unproven, empty where it was proven."""

    by: str
    at: str
    reason: str = ""


@dataclass(frozen=True, kw_only=True)
class MayCome:
    """Something to tell before the vehicle leaves. says: in plain words; why: what tells it."""

    says: str
    why: str


@dataclass(frozen=True, kw_only=True)
class Repair:
    """How far the repair is. decided: what was acted on; found: faults that were found before it; returns: how often the code came back after it; inspection: what the local one
    allows, as the workshop has noted it; title and says: the state in words; sensor_unseen: chance that a sensor fitted on the code alone would
    have mended it, None before a repair.
    """

    state: RepairState = "none"
    title: str = ""
    says: str = ""
    decided: tuple[ActedDecision, ...] = ()
    done: tuple[RepairAct, ...] = ()
    proof: tuple[ProofItem, ...] = ()
    found: tuple[str, ...] = ()
    closed: Closed | None = None
    returns: int = 0
    inspection: str = ""
    may_come: tuple[MayCome, ...] = ()
    sensor_unseen: float | None = None
