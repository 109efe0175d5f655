"""The answer of ``diagnose``."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, Literal

from pydantic import Field

from dianoia.case.ledger import Probe
from dianoia.families.types import Cell
from dianoia.tables import ROW

Component = Literal["sensor", "wiring", "supply", "module", "exhaust", "mixture", "catalyst", "dosing"]
Part = Literal[
    "supply", "control", "driver", "heater", "signal", "return", "bias", "reference", "pump", "trim", "cell",
    "ground", "bus",
]  # fmt: skip
DecisionName = Literal[
    "replace-sensor", "repair-wiring", "restore-supply", "suspect-module", "fix-exhaust-leak", "fix-mixture",
    "check-catalyst", "check-dosing", "repair-several", "no-fault-now", "keep-testing",
]  # fmt: skip
WarningName = Literal[
    "pwm-average", "unloaded-supply", "hot-resistance", "heater-latched-off", "meter-on-live-circuit",
    "ohms-on-cell", "no-heater-monitor", "code-evidence-mismatch", "generic-spec", "common-cause", "two-faults",
    "readings-contradict", "follow-on-catalyst", "low-battery", "dew-point-wait", "ammonia-cross-sensitivity",
    "twin-same-age",
]  # fmt: skip


@dataclass(frozen=True)
class FaultRow:
    """A row of faults.json. weight: how often it is behind a code of its loop, relative to the others.

    by_code: the code's failure, or failure:circuit -> factor on the weight; latch: chance that the module has shut the
    heater off over it; site: faults of one site exclude each other; cells ("shell" for a cell that returns through it),
    positions: where it can be, empty for anywhere.
    """

    __pydantic_config__ = ROW
    id: str
    loop: Annotated[str, Field(pattern=r"^(heater|signal|nox)( (heater|signal|nox))*$")]
    component: Component
    part: Part
    site: Annotated[str, Field(min_length=1)]
    weight: Annotated[float, Field(gt=0)]
    by_code: Mapping[str, Annotated[float, Field(gt=0)]]
    latch: Annotated[float, Field(ge=0, le=1)]
    says: Annotated[str, Field(min_length=1)]
    mend: Annotated[str, Field(min_length=1)]
    reason: Annotated[str, Field(min_length=1)]
    cells: tuple[Cell | Literal["shell"], ...] = ()
    positions: tuple[Literal[1, 2, 3], ...] = ()


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
    """A reading judged. low and high: the expected range in the base unit of ``kind``, None where there is none.
    value: the reading's own number in the same unit; None for OL and for words. says: the judgement as a sentence of its
    own; means: what of it the value and its range do not show. warnings: names raised by it.
    """

    reading: int
    expected: str
    against: Literal["spec", "computed"]
    result: Literal["pass", "fail", "unclear"]
    says: str
    means: str
    low: float | None = None
    high: float | None = None
    value: float | None = None
    kind: str | None = None
    source: str | None = None
    warnings: tuple[WarningName, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Next:
    """A proposed reading. id: its name among the readings that may be proposed."""

    id: str
    reading: Probe
    expect: str
    minutes: float
    why: str
    cautions: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Warned:
    """A trap the job is in. reading: the place in ``readings`` it was raised at, if one."""

    warning: WarningName
    says: str
    reading: int | None = None


@dataclass(frozen=True, kw_only=True)
class Step:
    """A reading of the remaining plan. minutes: set-up included, from where the one before leaves off."""

    id: str
    says: str
    state: str
    minutes: float


@dataclass(frozen=True, kw_only=True)
class Stop:
    """Certainty against fitting the sensor now, in the workshop's currency. risk_cost: the chance of a wrong call times
    its cost; pays: whether certainty costs no more than part and risk.
    """

    certainty_cost: float
    part_price: float
    risk_cost: float
    pays: bool
    says: str


@dataclass(frozen=True, kw_only=True)
class Forecast:
    """What lies ahead. steps: the readings if each shows what is likeliest; expected_minutes: over all outcomes, None
    where nothing is left to measure.
    """

    says: str
    steps: tuple[Step, ...] = ()
    expected_minutes: float | None = None
    stop: Stop | None = None


@dataclass(frozen=True, kw_only=True)
class Verdict:
    """Everything that can be said about a job now."""

    format: Literal["dianoia-verdict/1"] = "dianoia-verdict/1"
    decision: DecisionName
    says: str
    components: tuple[Component, ...]
    found: tuple[str, ...]
    confidence: float
    because: tuple[str, ...]
    would_change_it: tuple[str, ...]
    suspects: tuple[Suspect, ...]
    by_component: Mapping[str, float]
    proven: tuple[Proven, ...]
    unproven: tuple[Part, ...]
    judged: tuple[Judged, ...]
    next: Next | None
    alternatives: tuple[Next, ...] = ()
    forecast: Forecast | None = None
    warnings: tuple[Warned, ...] = field(default=())
