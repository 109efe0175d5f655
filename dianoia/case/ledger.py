"""What is measured, what was read, and what is published for it. The names are the open format's own.

A Probe says what is measured and in which state; a Reading is a Probe with the value the instrument showed;
a Spec is a Probe with the vehicle's own range. None always means "not known".
"""

from dataclasses import dataclass, fields
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import Field

from dianoia.case.setting import LAID_BY, Setting
from dianoia.case.terms import (
    Action,
    Check,
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
from dianoia.quantities.parse import parse

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

    @cached_property
    def setting(self) -> Setting:
        """The state of the circuit, with what stands for what was not said: key off, plug together."""
        jumpers = [LAID_BY[name] for name in sorted(self.conditions) if name in LAID_BY]
        return Setting(
            key=self.key or "off",
            connector=self.connector or self._connector_unsaid,
            module_connector=self.module_connector,
            battery=self.battery,
            sensor_c=self.sensor_c,
            at_s=self.at_s,
            rpm=self.rpm,
            codes_cleared=self.codes_cleared,
            conditions=self.conditions,
            jumpers=(*jumpers, self.jumper) if self.jumper else tuple(jumpers),
            fed_v=self.fed_v if "signal-fed" in self.conditions else None,
            others_apart=self.others == "unplugged",
        )

    @property
    def _connector_unsaid(self) -> Mating:
        return "mated"

    @property
    def named_points(self) -> tuple[tuple[str, str], ...]:
        """The points that the instrument touches, each with the name of its field; none where nothing is touched."""
        return ()

    @property
    def points(self) -> tuple[str, ...]:
        """The points that the instrument touches."""
        return tuple(point for _, point in self.named_points)

    @property
    def terminals(self) -> frozenset[str]:
        """The terminals that the points belong to."""
        return frozenset(point.rpartition(".")[2] for point in self.points)

    @property
    def scanned(self) -> Pid | None:
        """The scan value that is read or recorded."""
        return None

    @property
    def load_watts(self) -> float:
        """What a lamp draws from the circuit at system voltage, in watts, as far as it was said; 0 without one."""
        return 0.0

    @property
    def by_hand(self) -> bool:
        """Whether something is looked at or done, and no instrument is read."""
        return False

    @property
    def on_the_part(self) -> bool:
        """Whether every point lies on the part itself, off the vehicle."""
        return len(self.points) == 2 and all(point.startswith("sensor.") for point in self.points)

    @property
    def across_element(self) -> bool:
        """Whether an ohmmeter lies across the element's own pins."""
        return False

    @property
    def across_battery(self) -> bool:
        """Whether a meter reads the battery's own voltage, unloaded."""
        return False

    @cached_property
    def shows(self) -> tuple[object, ...]:
        """What makes two probes show the same: instrument, points and state."""
        return type(self), self.setting, self.of, *(getattr(self, name) for name in own_fields(type(self)))

    @cached_property
    def asks(self) -> tuple[object, ...]:
        """What is read and where, the state of the vehicle left out."""
        own = (getattr(self, name) for name in own_fields(type(self)) if name not in _HOW)
        return type(self), self.of, self.jumper, *own


#: With what something is measured, not what.
_HOW = ("leads", "watts", "kind")


def own_fields(probe: type[Any]) -> tuple[str, ...]:
    """The fields of a kind of probe besides the state it is taken in."""
    if probe not in _own:
        state = {field.name for field in fields(State)}
        _own[probe] = tuple(field.name for field in fields(probe) if field.name not in state)
    return _own[probe]


_own: dict[type[Any], tuple[str, ...]] = {}


@dataclass(frozen=True, kw_only=True)
class VoltageProbe(State):
    """Multimeter, DC average, red against black. watts: of the lamp that loads it, at system voltage; None for 5 W."""

    __pydantic_config__ = STRICT
    measure: Literal["voltage"]
    red: str
    black: str
    load: Literal["lamp"] | None = None
    watts: Watts | None = None

    @property
    def named_points(self) -> tuple[tuple[str, str], ...]:
        """See ``State``."""
        return ("red", self.red), ("black", self.black)

    @property
    def load_watts(self) -> float:
        """See ``State``."""
        return self.watts or 0.0

    @property
    def across_battery(self) -> bool:
        """See ``State``."""
        return not self.load and {self.red, self.black} == {"battery.positive", "battery.negative"}


@dataclass(frozen=True, kw_only=True)
class ResistanceProbe(State):
    """Ohmmeter. leads: the leads' own resistance, to be subtracted; unknown leads are 0 to 0.5 ohm."""

    __pydantic_config__ = STRICT
    measure: Literal["resistance"]
    red: str
    black: str
    leads: str | None = None

    @property
    def named_points(self) -> tuple[tuple[str, str], ...]:
        """See ``State``."""
        return ("red", self.red), ("black", self.black)

    @property
    def _connector_unsaid(self) -> Mating:
        return "unplugged"

    @property
    def across_element(self) -> bool:
        """See ``State``."""
        return {self.red, self.black} == {"sensor.heater_supply", "sensor.heater_control"}

    @cached_property
    def leads_ohms(self) -> float | None:
        """The leads' own resistance in ohms; None for not known."""
        return parse(self.leads, "resistance", "leads").value if self.leads else None


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

    @property
    def load_watts(self) -> float:
        """See ``State``."""
        return self.watts

    @property
    def named_points(self) -> tuple[tuple[str, str], ...]:
        """See ``State``."""
        left_out = self.in_place_of is not None and not (self.red or self.black)
        return () if left_out else (("red", self.red), ("black", self.black))


@dataclass(frozen=True, kw_only=True)
class ScopeProbe(State):
    """Oscilloscope, red against black."""

    __pydantic_config__ = STRICT
    measure: Literal["scope"]
    red: str
    black: str

    @property
    def named_points(self) -> tuple[tuple[str, str], ...]:
        """See ``State``."""
        return ("red", self.red), ("black", self.black)


@dataclass(frozen=True, kw_only=True)
class CurrentProbe(State):
    """Clamp or series ammeter at a point, averaged over the PWM period."""

    __pydantic_config__ = STRICT
    measure: Literal["current"]
    at: str

    @property
    def named_points(self) -> tuple[tuple[str, str], ...]:
        """See ``State``."""
        return (("at", self.at),)


@dataclass(frozen=True, kw_only=True)
class ScanProbe(State):
    """A value on the scan tool."""

    __pydantic_config__ = STRICT
    measure: Literal["scan"]
    pid: Pid

    @property
    def scanned(self) -> Pid | None:
        """See ``State``."""
        return self.pid


@dataclass(frozen=True, kw_only=True)
class TraceProbe(State):
    """Figures of a recorded scan signal."""

    __pydantic_config__ = STRICT
    measure: Literal["trace"]
    signal: Pid

    @property
    def scanned(self) -> Pid | None:
        """See ``State``."""
        return self.signal


@dataclass(frozen=True, kw_only=True)
class InspectProbe(State):
    """Looking. at: where on the exhaust, for the target ``exhaust``."""

    __pydantic_config__ = STRICT
    measure: Literal["inspect"]
    target: InspectTarget
    at: ExhaustPlace | None = None

    @property
    def by_hand(self) -> bool:
        """See ``State``."""
        return True


@dataclass(frozen=True, kw_only=True)
class ActProbe(State):
    """Something done. at: the point, for ``wiggle``."""

    __pydantic_config__ = STRICT
    measure: Literal["act"]
    action: Action
    at: str | None = None

    @property
    def named_points(self) -> tuple[tuple[str, str], ...]:
        """See ``State``."""
        return (("at", self.at),) if self.at else ()

    @property
    def by_hand(self) -> bool:
        """See ``State``."""
        return True


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
    """What every entry of the ledger carries. checked: what was done against a gross error before it was taken; taken: ISO 8601; struck:
    the reason it counts for nothing.
    """

    note: Annotated[str, Field(max_length=1000)] | None = None
    checked: tuple[Check, ...] | None = None
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
