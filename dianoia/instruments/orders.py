"""What a page asks of a simulated vehicle, and what it is shown: one order, one look."""

from dataclasses import dataclass, field
from typing import Literal


@dataclass(frozen=True, kw_only=True)
class VehicleSetting:
    """How a vehicle is set up. In an order, what is left out stays as it is."""

    key: Literal["off", "on", "running", "cranking"] | None = None
    """The key; ``running`` starts the engine."""
    connector: Literal["mated", "unplugged"] | None = None
    """The plug of the sensor that is worked at."""
    module_connector: Literal["mated", "unplugged"] | None = None
    """The module's plug."""
    battery: Literal["connected", "disconnected"] | None = None
    """The battery's ground cable."""
    rpm: float | Literal["idle"] | None = None
    """Engine speed in 1/min."""
    conditions: tuple[str, ...] | None = None
    """What is done to mixture and circuit, by the names of a reading's ``with``."""
    fed_v: float | Literal["none"] | None = None
    """Volts fed into the signal wire."""
    jumper: tuple[str, ...] | None = None
    """Two points that are bridged; empty for none."""
    of: str | None = None
    """The sensor that is worked at, by bank and position."""


@dataclass(frozen=True, kw_only=True)
class ScanCode:
    """A code as the scan tool lists it."""

    code: str
    """The code's own text."""
    status: str
    """``stored`` or ``pending``."""
    failure_type: str
    """Failure type byte; empty where none is known."""


@dataclass(frozen=True, kw_only=True)
class ShownValue:
    """What the instrument shows."""

    value: str = ""
    """Number and unit, or a word."""
    figures: dict[str, str] = field(default_factory=dict)
    """Figures by name, of a scope or a recording."""
    moves: str = ""
    """``steady``, ``slow`` or ``switching``, of a value that was watched."""
    refused: str = ""
    """Why nothing is shown; empty where something is."""


@dataclass(frozen=True, kw_only=True)
class VehicleLook:
    """A vehicle at one moment."""

    setting: VehicleSetting
    """How it stands."""
    since_s: float
    """Seconds since the engine started, else since the key was turned."""
    rpm: float
    """Engine speed in 1/min; 0 where it does not run."""
    coolant_c: float
    """Coolant in °C."""
    codes: tuple[ScanCode, ...] | None
    """What the scan tool lists; None with the key off."""
    monitors: dict[str, str]
    """Monitor -> ``complete`` or ``incomplete``; empty with the key off."""
    shown: ShownValue | None
    """What the instrument shows; None where none was asked."""
    state: dict[str, object]
    """The state that a reading of it is taken in, by the names of a case file; empty where nothing is shown."""
