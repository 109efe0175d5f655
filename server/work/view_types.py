"""What the screens are given of a job: types only."""

from dataclasses import dataclass, fields
from datetime import datetime
from typing import Any

from dianoia.answer.answer import Answer
from dianoia.case.measures.offered import Choices
from dianoia.case.terms import Action
from dianoia.case.types import Case
from dianoia.codes.types import Decoded
from dianoia.diagnosis.decision.decide import DecisionName
from dianoia.diagnosis.verdict.summary import VerdictSummary
from dianoia.drawings.circuit import Drawing
from dianoia.drawings.plug import Plug
from dianoia.readings.beside import Compared, NotedAt
from dianoia.readings.describe import Described
from dianoia.repair.acts import MendChoice
from dianoia.repair.sheets import RepairSheet
from dianoia.repair.time import JobTime
from dianoia.repair.types import RepairState
from dianoia.vehicle.types import Plan
from dianoia.visit.other_sensor import OtherFound
from server.ledger.origin import EntryOrigin


@dataclass(frozen=True)
class Ticked:
    """A step as it stands."""

    step: str
    done: bool
    note: str
    by: str
    """Who said so last, and when by the server's clock."""
    at: str
    """Who said so last, and when by the server's clock."""
    photos: tuple[int, ...] = ()
    """Their numbers."""


@dataclass(frozen=True)
class WhatIf:
    """The decision without one reading."""

    decision: DecisionName
    """The decision without that reading."""
    title: str
    """That decision in words."""
    same: bool
    """Whether it is the same with the reading."""


@dataclass(frozen=True)
class PutAside:
    """A proposal that cannot be taken."""

    reading: str
    """Its name."""
    reason: str
    words: Described | None
    """None for one that is not proposed of such a sensor."""


@dataclass(frozen=True)
class JobView:
    """One job, whole."""

    id: int
    case: Case
    codes: tuple[Decoded, ...]
    """In the order to work in."""
    primary: Decoded | None
    """The code the job is about, None where the sensor was chosen by hand."""
    address: str
    """Of the sensor in question, and what it means."""
    bank: int | None
    position: int | None
    address_help: str
    where: str
    """The sensor's bank and position in words."""
    place: str
    """Where it sits, in words."""
    plan: Plan
    plug: Plug
    family_label: str
    verdict: Answer
    proof_words: tuple[Described, ...]
    """The readings of the proof."""
    summary: VerdictSummary
    """Names, percentages and costs of the verdict."""
    drawing: Drawing
    ledger: tuple[Described, ...]
    """Each reading in words, in order."""
    compared: tuple[Compared, ...]
    """What each stands beside."""
    noted: tuple[NotedAt, ...]
    written: tuple[EntryOrigin, ...]
    """Who wrote each."""
    entries: int
    """How many entries the stored job has, by which a change says what it was made on."""
    seal: str
    """Hash of the newest of them."""
    latch_window_s: float
    """Seconds a freshly cleared heater is driven before the module may shut it off again."""
    asks_voltage: bool
    """Whether 12 or 24 V is to be asked first."""
    others_found: tuple[OtherFound, ...]
    """What does not read as it should at other sensors."""
    next_words: Described | None
    alternative_words: tuple[Described, ...]
    before_words: tuple[Described, ...]
    after_words: tuple[Described | None, ...]
    choices: Choices
    """What an entry may be."""
    sheets: tuple[RepairSheet, ...]
    """How it is repaired."""
    acts: tuple[Action, ...]
    """Actions that mend what was decided, none where nothing was."""
    mends: tuple[MendChoice, ...]
    """Of a feed, which of its faults may have been mended."""
    ticks: tuple[Ticked, ...]
    """Their steps as they stand."""
    time: JobTime
    """Worked."""
    photos: tuple[tuple[int, ...], ...]
    """Numbers of the photos at each reading."""
    put_aside: tuple[PutAside, ...]
    how_sure: str
    still_open: tuple[str, ...]


@dataclass(frozen=True)
class JobSummary:
    """One line of the start page."""

    id: int
    title: str
    vehicle: str
    codes: tuple[str, ...]
    where: str
    stage: str
    """Where the job is."""
    decision: str
    decided: str
    """The decision in words."""
    says: str
    confidence: float
    waits_for: str
    """What it waits for."""
    readings: int
    repair: RepairState
    """How far it is."""
    early: bool
    """Whether a part was fitted before the decision stood."""
    returns: int
    """How often the code came back after it."""
    updated: datetime
    archived: bool = False
    simulated: bool = False
    """Whether anything of it comes from a simulated vehicle."""


@dataclass(frozen=True)
class JobPage:
    """Some lines of the start page."""

    jobs: tuple[JobSummary, ...]
    total: int
    """How many there are in all of this list."""
    counts: dict[str, int]
    """Of every list, whatever is searched for."""


#: What is stored of a summary with the job; the rest is the row's own.
SUMMARY_FIELDS = frozenset(field.name for field in fields(JobSummary)) - {"id", "updated", "archived", "simulated"}


@dataclass(frozen=True)
class JobResult:
    """What was worked out of a case: all that is shown of it, and what the start page keeps."""

    case: Case
    view: JobView
    summary: dict[str, Any]
