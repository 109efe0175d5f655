"""What is assumed of any vehicle: battery voltages, what counts as cold, and chances; from assumptions.json, checked at load."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Annotated, Literal, get_args

from pydantic import Field

from dianoia.case.terms import Key
from dianoia.tables import ROW, read_document, require

_FILE = Path(__file__).parent / "data" / "assumptions.json"
Volts = Annotated[float, Field(gt=0, le=40)]
Prior = Literal[
    "battery-flat", "driven-running", "driven-key-on", "driven-cranking", "driven-cleared", "latched-healthy",
    "latched-unplugged", "hot-front-heated", "hot-front-unheated", "hot-behind-heated", "hot-behind-unheated",
    "no-heater-front", "no-heater-behind", "worked-front", "worked-behind",
]  # fmt: skip


@dataclass(frozen=True)
class BatteryRow:
    """Of a 12 V vehicle in a key position, in volts."""

    __pydantic_config__ = ROW
    key: Key
    usual_v: tuple[Volts, Volts]
    """Low and high of a sound one."""
    plausible_v: tuple[Volts, Volts]
    """What it can show at all."""
    wanted_v: Volts
    """Below it every other voltage is doubtful."""
    reason: Annotated[str, Field(min_length=1)]


@dataclass(frozen=True)
class PriorRow:
    """A chance, and why."""

    __pydantic_config__ = ROW
    id: Prior
    chance: Annotated[float, Field(gt=0, lt=1)]
    reason: Annotated[str, Field(min_length=1)]


@dataclass(frozen=True)
class Assumptions:
    """assumptions.json."""

    __pydantic_config__ = ROW
    battery: tuple[BatteryRow, ...]
    cold_c: Annotated[float, Field(ge=20, le=100)]
    """An element counts as cold up to here, in °C."""
    cold_reason: str
    priors: tuple[PriorRow, ...]


@cache
def assumptions() -> Assumptions:
    """The whole table. Raises BrokenTable naming file, row and field."""
    table = read_document(_FILE, "dianoia-assumptions/1", Assumptions)
    keys, ids = [row.key for row in table.battery], [row.id for row in table.priors]
    require(sorted(keys) == sorted(get_args(Key)), _FILE.name, "battery", "each key position once", keys)
    require(sorted(ids) == sorted(get_args(Prior)), _FILE.name, "priors", "each prior once", ids)
    for row in table.battery:
        (low, high), (least, most) = row.usual_v, row.plausible_v
        require(
            least < low < high < most, _FILE.name, row.key, "usual_v inside plausible_v, low end first", row.usual_v
        )
    return table


@cache
def battery() -> Mapping[str, BatteryRow]:
    """The battery by key position."""
    return {row.key: row for row in assumptions().battery}


@cache
def _priors() -> Mapping[str, float]:
    return {row.id: row.chance for row in assumptions().priors}


def prior(name: Prior) -> float:
    """A chance by its id."""
    return _priors()[name]
