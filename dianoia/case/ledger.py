"""What is measured, what was read, and what is published for it. The names are the open format's own.

A Probe says what is measured and in which state; a Reading is a Probe with the value the instrument showed;
a Spec is a Probe with the vehicle's own range. None always means "not known".
"""

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from dianoia.case.terms import (
    Action,
    Condition,
    ExhaustPlace,
    InspectTarget,
    Key,
    LampLight,
    Mating,
    Moves,
    Outcome,
    Pid,
    Seen,
)

Seconds = Annotated[float, Field(ge=0, le=1e6)]
Watts = Annotated[float, Field(ge=0.1, le=100)]
STRICT = {"extra": "forbid", "populate_by_name": True, "allow_inf_nan": False}


@dataclass(frozen=True, kw_only=True)
class State:
    """The state of vehicle and plugs a measurement is taken in.

    rpm in 1/min; sensor_c: the element's temperature in °C; at_s: seconds from engine start, else from key on;
    fed_v: volts put on the signal wire, with the condition ``signal-fed``; others: the feed's other consumers.
    """

    key: Key | None = None
    rpm: Annotated[float, Field(ge=0, le=20000)] | None = None
    connector: Mating | None = None
    module_connector: Mating = "mated"
    sensor_c: Annotated[float, Field(ge=-60, le=1200)] | Literal["hot"] | None = None
    battery: Literal["connected", "disconnected"] = "connected"
    codes_cleared: bool = False
    at_s: Seconds | None = None
    jumper: tuple[str, str] | None = None
    with_: Annotated[Condition | tuple[Condition, ...] | None, Field(alias="with")] = None
    fed_v: Annotated[float, Field(ge=0.2, le=0.9)] | None = None
    others: Literal["unplugged"] | None = None
    of: Annotated[str, Field(pattern=r"^(B[12]S[123]|known-good|new|old)$")] | None = None

    @property
    def conditions(self) -> frozenset[str]:
        """The conditions of ``with`` as a set; "none" adds nothing."""
        listed = self.with_ if isinstance(self.with_, tuple) else (self.with_,)
        return frozenset(name for name in listed if name and name != "none")


@dataclass(frozen=True, kw_only=True)
class VoltageProbe(State):
    """Multimeter, DC average, red against black. watts: of the lamp that loads it, at system voltage; None for 5 W."""

    __pydantic_config__ = STRICT
    measure: Literal["voltage"]
    red: str
    black: str
    load: Literal["lamp"] | None = None
    watts: Watts | None = None


@dataclass(frozen=True, kw_only=True)
class ResistanceProbe(State):
    """Ohmmeter. leads: the leads' own resistance, to be subtracted; unknown leads are 0 to 0.5 ohm."""

    __pydantic_config__ = STRICT
    measure: Literal["resistance"]
    red: str
    black: str
    leads: str | None = None


@dataclass(frozen=True, kw_only=True)
class LampProbe(State):
    """Test lamp between two points, which may be left out (empty) where it stands in place of the heater.

    watts at system voltage.
    """

    __pydantic_config__ = STRICT
    measure: Literal["lamp"]
    red: str = ""
    black: str = ""
    watts: Watts = 5.0
    kind: Literal["bulb", "led"] | None = None
    in_place_of: Literal["heater"] | None = None


@dataclass(frozen=True, kw_only=True)
class ScopeProbe(State):
    """Oscilloscope, red against black."""

    __pydantic_config__ = STRICT
    measure: Literal["scope"]
    red: str
    black: str


@dataclass(frozen=True, kw_only=True)
class CurrentProbe(State):
    """Clamp or series ammeter at a point, averaged over the PWM period."""

    __pydantic_config__ = STRICT
    measure: Literal["current"]
    at: str


@dataclass(frozen=True, kw_only=True)
class ScanProbe(State):
    """A value on the scan tool."""

    __pydantic_config__ = STRICT
    measure: Literal["scan"]
    pid: Pid


@dataclass(frozen=True, kw_only=True)
class TraceProbe(State):
    """Figures of a recorded scan signal."""

    __pydantic_config__ = STRICT
    measure: Literal["trace"]
    signal: Pid


@dataclass(frozen=True, kw_only=True)
class InspectProbe(State):
    """Looking. at: where on the exhaust, for the target ``exhaust``."""

    __pydantic_config__ = STRICT
    measure: Literal["inspect"]
    target: InspectTarget
    at: ExhaustPlace | None = None


@dataclass(frozen=True, kw_only=True)
class ActProbe(State):
    """Something done. at: the point, for ``wiggle``."""

    __pydantic_config__ = STRICT
    measure: Literal["act"]
    action: Action
    at: str | None = None


@dataclass(frozen=True, kw_only=True)
class ScopeFigures:
    """What the scope showed, each as typed text."""

    __pydantic_config__ = STRICT
    high: str | None = None
    low: str | None = None
    duty_low: str | None = None
    frequency: str | None = None


@dataclass(frozen=True, kw_only=True)
class TraceFigures:
    """Figures of a recording. Times in seconds; None for "never", where it was looked for."""

    __pydantic_config__ = STRICT
    min: str | None = None
    max: str | None = None
    mean: str | None = None
    switches_per_min: Annotated[float, Field(ge=0, le=60_000)] | None = None
    first_activity_s: Seconds | None = None
    rise_s: Seconds | None = None
    fall_s: Seconds | None = None
    delay_s: Seconds | None = None


@dataclass(frozen=True, kw_only=True)
class _Taken:
    """What every entry of the ledger carries. taken: ISO 8601; struck: the reason it counts for nothing."""

    note: Annotated[str, Field(max_length=1000)] | None = None
    taken: Annotated[str, Field(max_length=40)] | None = None
    struck: Annotated[str, Field(min_length=1, max_length=300)] | None = None


@dataclass(frozen=True, kw_only=True)
class VoltageReading(VoltageProbe, _Taken):
    """value: as typed; may be a span on a signal wire. moves: what it did while it was watched."""

    value: str
    moves: Moves | None = None


@dataclass(frozen=True, kw_only=True)
class ResistanceReading(ResistanceProbe, _Taken):
    """value: as typed; may be OL."""

    value: str


@dataclass(frozen=True, kw_only=True)
class LampReading(LampProbe, _Taken):
    """value: what the lamp did."""

    value: LampLight


@dataclass(frozen=True, kw_only=True)
class ScopeReading(ScopeProbe, _Taken):
    """value: the figures read off the screen."""

    value: ScopeFigures


@dataclass(frozen=True, kw_only=True)
class CurrentReading(CurrentProbe, _Taken):
    """value: as typed."""

    value: str


@dataclass(frozen=True, kw_only=True)
class ScanReading(ScanProbe, _Taken):
    """value: as the scan tool shows it; may be a span. moves: what it did while it was watched."""

    value: str
    moves: Moves | None = None


@dataclass(frozen=True, kw_only=True)
class TraceReading(TraceProbe, _Taken):
    """value: the recording's figures."""

    value: TraceFigures


@dataclass(frozen=True, kw_only=True)
class InspectReading(InspectProbe, _Taken):
    """value: what was seen."""

    value: Seen


@dataclass(frozen=True, kw_only=True)
class ActReading(ActProbe, _Taken):
    """value: what came of it. of_fault: the fault a repair took away, None for what was found; part: what was fitted."""

    value: Outcome
    of_fault: Annotated[str, Field(max_length=60)] | None = None
    part: Annotated[str, Field(max_length=100)] | None = None


Bound = str | None


@dataclass(frozen=True, kw_only=True)
class _Published:
    """range: low and high as typed, either may be None; source: where the figure comes from."""

    range: tuple[Bound, Bound]
    source: Annotated[str, Field(min_length=1, max_length=300)]


@dataclass(frozen=True, kw_only=True)
class VoltageSpec(VoltageProbe, _Published):
    """The vehicle's own range for a voltage."""


@dataclass(frozen=True, kw_only=True)
class ResistanceSpec(ResistanceProbe, _Published):
    """The vehicle's own range for a resistance."""


@dataclass(frozen=True, kw_only=True)
class CurrentSpec(CurrentProbe, _Published):
    """The vehicle's own range for a current."""


@dataclass(frozen=True, kw_only=True)
class ScanSpec(ScanProbe, _Published):
    """The vehicle's own range for a scan value."""


Probe = Annotated[
    VoltageProbe | ResistanceProbe | LampProbe | ScopeProbe | CurrentProbe | ScanProbe | TraceProbe
    | InspectProbe | ActProbe,
    Field(discriminator="measure"),
]  # fmt: skip
Reading = Annotated[
    VoltageReading | ResistanceReading | LampReading | ScopeReading | CurrentReading | ScanReading | TraceReading
    | InspectReading | ActReading,
    Field(discriminator="measure"),
]  # fmt: skip
Spec = Annotated[VoltageSpec | ResistanceSpec | CurrentSpec | ScanSpec, Field(discriminator="measure")]
