"""Bodies that only the API has; everything else is the core's own types."""

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from dianoia.case.measures import Probe, Reading
from dianoia.case.sensor import Sensor
from dianoia.case.terms import Style
from dianoia.case.types import Vehicle
from dianoia.case.workshop import Workshop
from dianoia.diagnosis.verdict.types import Judged
from dianoia.families.types import Family
from dianoia.instruments.orders import VehicleSetting
from dianoia.readings.describe import Described
from server.ledger.origin import EntryOrigin


@dataclass(frozen=True)
class NewJob:
    """A job as it is started."""

    codes: str
    """As read off the scan tool, any separators."""
    vehicle: Vehicle
    sensor: Sensor | None = None
    """What an earlier job on the model already knows."""
    title: str = ""
    style: Style = "live-first"


@dataclass(frozen=True)
class KnownVehicle:
    """A vehicle of an earlier job."""

    vehicle: Vehicle
    sensor: Sensor | None
    """Its specification and pins, without bank and position."""
    codes: tuple[str, ...]
    job: int
    """Which one."""


@dataclass(frozen=True)
class VehicleOrder:
    """What is done to a job's simulated vehicle, and what is read of it then."""

    turn: VehicleSetting | None = None
    """What is set; None for nothing."""
    wait_s: Annotated[float, Field(ge=0, le=3600)] = 0.0
    """Seconds that go by at once."""
    clear_codes: bool = False
    """Whether the codes are cleared with the scan tool."""
    probe: Probe | None = None
    """What the instrument is laid to; None for nothing."""
    watch: bool = False
    """Whether a value that moves is given from lowest to highest of the last ten seconds."""


@dataclass(frozen=True)
class Archive:
    """Whether a job is put away."""

    archived: bool


@dataclass(frozen=True)
class KnownFamily:
    """A sensor family to choose."""

    id: Family
    label: str
    told_by: str
    """What tells it apart."""
    heater_ohms_20c: tuple[float, float] | None
    """The general cold range in ohms, None without a heater of its own."""


@dataclass(frozen=True)
class TakenReading:
    """A reading in the ledger, judged by itself; what follows from it is told with the job."""

    place: int
    reading: Reading
    """As it is kept."""
    words: Described
    judged: Judged
    written: EntryOrigin
    """By whom."""


@dataclass(frozen=True)
class Stand:
    """How far a job has come."""

    entries: int
    """How many the job has."""


@dataclass(frozen=True)
class Strike:
    """A reading struck out."""

    reason: str
    """Why the reading does not count."""


@dataclass(frozen=True)
class RepairOutcomes:
    """What became of repairs."""

    when: Literal["decided", "early"]
    """On the decision, or before it stood."""
    repairs: int
    proven: int
    came_back: int
    """Jobs whose code did."""


@dataclass(frozen=True)
class WorkshopView:
    """The workshop as its page shows it."""

    settings: Workshop
    """The workshop's own."""
    general_minutes: dict[str, float]
    """What counts where it gives none, by place or change of state."""
    outcomes: tuple[RepairOutcomes, ...]
    """Of all repairs noted here."""
    mark: str | None = None
    """Which picture stands on the papers, None for none."""
    copies_overdue: str = ""
    """What is told where copies of the store have stopped, empty while they are taken."""
    ledger_broken: str = ""
    """What the newest nightly check found, empty where the ledger holds."""


@dataclass(frozen=True)
class Tick:
    """A step of a repair sheet, as it is to stand."""

    done: bool
    note: Annotated[str, Field(max_length=300)] = ""
    """What is to be remembered of it."""


@dataclass(frozen=True)
class Close:
    """Close a job."""

    reason: Annotated[str, Field(max_length=500)] = ""
    """Why, where the repair is not proven."""


@dataclass(frozen=True)
class Minutes:
    """Minutes that a job took: to find the fault, to mend it, and to prove that."""

    finding: Annotated[float, Field(ge=0, le=10_000)]
    mending: Annotated[float, Field(ge=0, le=10_000)]
    proving: Annotated[float, Field(ge=0, le=10_000)] = 0.0
