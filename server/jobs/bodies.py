"""Bodies that only the API has; everything else is the core's own types."""

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from dianoia.case.measures import Reading
from dianoia.case.sensor import Sensor
from dianoia.case.terms import Style
from dianoia.case.types import Vehicle
from dianoia.case.workshop import Workshop
from dianoia.diagnosis.verdict.types import Judged
from dianoia.families.types import Family
from dianoia.readings.describe import Described
from server.ledger.readings import EntryOrigin


@dataclass(frozen=True)
class NewJob:
    """codes: as read off the scan tool, any separators; sensor: what an earlier job on the model already knows."""

    codes: str
    vehicle: Vehicle
    sensor: Sensor | None = None
    title: str = ""
    style: Style = "live-first"


@dataclass(frozen=True)
class KnownVehicle:
    """A vehicle of an earlier job. sensor: its specification and pins, without bank and position; job: which one."""

    vehicle: Vehicle
    sensor: Sensor | None
    codes: tuple[str, ...]
    job: int


@dataclass(frozen=True)
class Archive:
    """Whether a job is put away."""

    archived: bool


@dataclass(frozen=True)
class KnownFamily:
    """A sensor family to choose. told_by: what tells it apart; heater_ohms_20c: the general cold range in ohms, None without a heater of its own."""

    id: Family
    label: str
    told_by: str
    heater_ohms_20c: tuple[float, float] | None


@dataclass(frozen=True)
class TakenReading:
    """A reading in the ledger, judged by itself; what follows from it is told with the job. reading: as it is kept; written: by whom."""

    place: int
    reading: Reading
    words: Described
    judged: Judged
    written: EntryOrigin


@dataclass(frozen=True)
class Stand:
    """entries: how many the job has."""

    entries: int


@dataclass(frozen=True)
class Strike:
    """reason: why the reading does not count."""

    reason: str


@dataclass(frozen=True)
class RepairOutcomes:
    """What became of repairs. when: on the decision, or before it stood; came_back: jobs whose code did."""

    when: Literal["decided", "early"]
    repairs: int
    proven: int
    came_back: int


@dataclass(frozen=True)
class WorkshopView:
    """settings: the workshop's own; general_minutes: what counts where it gives none, by place or change of state; outcomes: of all
    repairs noted here; mark: which picture stands on the papers, None for none; ledger_broken: what the newest nightly check
    found, empty where the ledger holds; copies_overdue: what is told where copies of the store
    have stopped, empty while they are taken.
    """

    settings: Workshop
    general_minutes: dict[str, float]
    outcomes: tuple[RepairOutcomes, ...]
    mark: str | None = None
    copies_overdue: str = ""
    ledger_broken: str = ""


@dataclass(frozen=True)
class Tick:
    """A step of a repair sheet, as it is to stand. note: what is to be remembered of it."""

    done: bool
    note: Annotated[str, Field(max_length=300)] = ""


@dataclass(frozen=True)
class Close:
    """Close a job. reason: why, where the repair is not proven."""

    reason: Annotated[str, Field(max_length=500)] = ""


@dataclass(frozen=True)
class Minutes:
    """Minutes that a job took: to find the fault, to mend it, and to prove that."""

    finding: Annotated[float, Field(ge=0, le=10_000)]
    mending: Annotated[float, Field(ge=0, le=10_000)]
    proving: Annotated[float, Field(ge=0, le=10_000)] = 0.0
