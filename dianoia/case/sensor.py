"""What is known of the sensor in question, and what its connector's cavities carry."""

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from dianoia.case.strict import STRICT
from dianoia.case.terms import HeaterDrive, HeaterSwitch
from dianoia.families.types import Family, Terminal


@dataclass(frozen=True, kw_only=True)
class Pin:
    """What a cavity of the sensor connector carries."""

    __pydantic_config__ = STRICT
    terminal: Terminal | None = None
    colour: Annotated[str, Field(max_length=40)] | None = None


#: Wide enough for any heater, and finite.
HeaterOhms = Annotated[float, Field(ge=0.01, le=10_000)]
HeaterAmps = Annotated[float, Field(ge=0.001, le=200)]


@dataclass(frozen=True, kw_only=True)
class Sensor:
    """What is known of the sensor in question."""

    __pydantic_config__ = STRICT
    bank: Literal[1, 2] | None = None
    position: Literal[1, 2, 3] | None = None
    family: Family | None = None
    heater_switch: HeaterSwitch | None = None
    heater_drive: HeaterDrive | None = None
    bias_v: Annotated[float, Field(ge=0, le=12)] | None = None
    heater_ohms_20c: tuple[HeaterOhms, HeaterOhms] | None = None
    """Low and high in ohms at 20 °C."""
    heater_amps: tuple[HeaterAmps, HeaterAmps] | None = None
    """Settled, hot, driver fully on, in amperes."""
    heater_monitor: bool | None = None
    torque_nm: Annotated[float, Field(ge=1, le=150)] | None = None
    """Torque that the sensor is fitted with, in N m."""
    spec_source: Annotated[str, Field(max_length=300)] | None = None
    pins: dict[str, Pin] | None = None
