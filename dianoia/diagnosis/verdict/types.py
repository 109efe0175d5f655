"""The answer of ``diagnose``."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from dianoia.case.measures import Probe
from dianoia.diagnosis.decision.checklist import Met
from dianoia.diagnosis.decision.decide import DecisionName
from dianoia.diagnosis.faults.types import Component, Part
from dianoia.diagnosis.planning.types import Forecast
from dianoia.families.types import Family

WarningName = Literal[
    "pwm-average", "unloaded-supply", "hot-resistance", "heater-latched-off", "meter-on-live-circuit",
    "ohms-on-cell", "no-heater-monitor", "code-evidence-mismatch", "generic-spec", "common-cause", "two-faults",
    "readings-contradict", "follow-on-catalyst", "low-battery", "dew-point-wait", "ammonia-cross-sensitivity",
    "twin-same-age",
]  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Suspect:
    """A fault and the chance that it is present, alone or with others."""

    fault: str
    component: Component
    probability: float
    says: str = ""


@dataclass(frozen=True, kw_only=True)
class Proven:
    """A part and the places in ``readings`` that prove it."""

    part: Part
    by: tuple[int, ...]


@dataclass(frozen=True, kw_only=True)
class Judged:
    """A reading judged."""

    reading: int
    expected: str
    against: Literal["spec", "computed"]
    result: Literal["pass", "fail", "unclear"]
    says: str
    """The judgement as a sentence of its own."""
    means: str
    """What of it the value and its range do not show."""
    low: float | None = None
    """The expected range in the base unit of ``kind``, None where there is none."""
    high: float | None = None
    """The expected range in the base unit of ``kind``, None where there is none."""
    value: float | None = None
    """The reading's own number in the same unit; None for OL and for words."""
    kind: str | None = None
    source: str | None = None
    warnings: tuple[WarningName, ...] = ()
    """Names raised by it. A good reading lies within the range that is printed, a bad one outside."""


@dataclass(frozen=True, kw_only=True)
class Next:
    """A proposed reading."""

    id: str
    """Its name among the readings that may be proposed."""
    reading: Probe
    expect: str
    minutes: float
    why: str
    cautions: tuple[str, ...] = ()
    source: str | None = None
    """Of what it should read, None where that is worked out."""


@dataclass(frozen=True, kw_only=True)
class Warned:
    """A trap the job is in."""

    warning: WarningName
    says: str
    reading: int | None = None
    """The place in ``readings`` it was raised at, if one."""


@dataclass(frozen=True, kw_only=True)
class Gate:
    """Something to be shown before the decision."""

    component: Component | Literal["none"]
    asks: str
    """In words."""
    status: Met
    """Met by readings ``by``, waived, or still wanted."""
    says: str
    """How the row stands, as a sentence."""
    reason: str
    """Why it is asked for."""
    by: tuple[int, ...] = ()
    candidates: tuple[str, ...] = ()
    """Ids of readings that would show it."""


@dataclass(frozen=True, kw_only=True)
class AfterRepair:
    """A part that the finding hides, and what to read of it once that is mended."""

    part: Part
    read: Probe | None
    """None where no reading is listed."""
    expect: str
    why: str


@dataclass(frozen=True, kw_only=True)
class BeforeFitting:
    """What to read before the new sensor goes in."""

    parts: tuple[Part, ...]
    """Parts that it proves, none for the plug and for other faults."""
    read: Probe
    expect: str
    withdraws: str
    """What would withdraw the decision."""
    why: str
    minutes: float = 1.0
    """Of taking it."""
    cautions: tuple[str, ...] = ()
    """Of taking it."""


@dataclass(frozen=True, kw_only=True)
class Verdict:
    """Everything that can be said about a job now."""

    format: Literal["dianoia-verdict/1"] = "dianoia-verdict/1"
    decision: DecisionName
    says: str
    components: tuple[Component, ...]
    found: tuple[str, ...]
    found_one_of: tuple[str, ...] = ()
    at: str | None = None
    """Where the sensor in question sits after a swap, None while it is in its own place."""
    family: Family
    """The sensor is taken for."""
    family_why: str = ""
    """What told, as a sentence, where it was not given."""
    confidence: float
    nothing_else: float | None = None
    """None while testing."""
    acting_now: str = ""
    """What a technician who acts now takes on."""
    gate: tuple[Gate, ...] = ()
    before_fitting: tuple[BeforeFitting, ...] = ()
    after_repair: tuple[AfterRepair, ...] = ()
    between: tuple[str, str] | None = None
    """The last good and the first bad point of a feed whose fault is not told apart yet."""
    because: tuple[str, ...]
    would_change_it: tuple[str, ...]
    suspects: tuple[Suspect, ...]
    by_component: Mapping[Component, float]
    proven: tuple[Proven, ...]
    unproven: tuple[Part, ...]
    judged: tuple[Judged, ...]
    next: Next | None
    alternatives: tuple[Next, ...] = ()
    forecast: Forecast | None = None
    warnings: tuple[Warned, ...] = field(default=())
