"""What an instrument looks at in a circuit, and what meets it there: volts and ohms of each phase, loads and averages.

A multimeter averages the phases (driver on and off), so on a PWM wire it shows Vbat * (1 - duty low). A lamp or the
meter's own 10 Mohm load the point.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from dianoia.case.measures.state import State
from dianoia.case.sensor import Sensor
from dianoia.case.setting import Setting
from dianoia.circuit.network import Array
from dianoia.quantities.types import Kind
from dianoia.readings.outcomes import Display

#: To sum from, at the precision of what is summed.
NOTHING = np.zeros(1, dtype=np.float32)
#: A multimeter's input, in ohms.
METER_OHMS = 10e6
#: Share of system voltage between two levels of a wire from which it is switching.
SWITCHING = 0.25
#: From so many seconds after the start a heater's current has settled.
SETTLED_S = 30.0
#: How many error units a voltage is loosened for each decade of source resistance beyond ``floats_from``.
STRAY_STEPS = 15.0
#: Share of the looms in which a floating wire picks up volts that a meter sees; own estimate. In the others it shows what the circuit says.
PICKS_UP = 0.4


@dataclass(frozen=True)
class ProbePlace:
    """Two points a probe is put across, or (black None) a point whose current is taken."""

    red: str
    black: str | None = None


@dataclass(frozen=True)
class Query:
    """What a probe asks of a circuit."""

    setting: Setting
    places: tuple[ProbePlace, ...]


@dataclass(frozen=True)
class NetworkView:
    """The answer: for each phase and place, (hypotheses, draws)."""

    volts: Mapping[str, tuple[Array, ...]]
    """Open-circuit volts (amperes for a current)."""
    ohms: Mapping[str, tuple[Array, ...]]
    """Source resistance."""
    share: Mapping[str, Array]
    """Phase -> its part of the time."""
    system_v: float
    leads_ohms: Array
    flicker: Array
    #: Source resistance in ohms from which a voltage is at the mercy of stray leakage; None where a source holds it.
    floats_from: float | None = None
    #: (draws,) 1 where a floating wire picks up what lies beside it, 0 where it does not; None with ``floats_from``.
    picks_up: Array | None = None


#: Lowest and highest in the base unit of a kind.
OwnRange = tuple[tuple[float, float], Kind]


def no_range(probe: object, sensor: Sensor) -> OwnRange | None:
    """Where the vehicle's own data say nothing."""
    return None


def settled_amps(probe: State, sensor: Sensor) -> OwnRange | None:
    """The heater's own current with the driver fully on; on PWM the average says less."""
    settled = probe.key == "running" and (probe.at_s is None or probe.at_s >= SETTLED_S)
    if not settled or not sensor.heater_amps or sensor.heater_drive != "steady":
        return None
    return sensor.heater_amps, "current"


@dataclass(frozen=True)
class Instrument:
    """One measure's instrument."""

    query: Callable[[Any], Query | None]
    """What a probe asks of a circuit, None for nothing."""
    displays: Callable[[Any, NetworkView], dict[str, Display]]
    """What is shown, by the name of the figure (``value`` where there is only one)."""
    own_range: Callable[[Any, Sensor], OwnRange | None] = no_range
    """What the vehicle's own data say of it, in the base unit, None for nothing."""


def at_points(probe: Any) -> Query:
    """What is asked by an instrument that lies across two points."""
    return Query(probe.setting, (ProbePlace(probe.red, probe.black),))


def stray(seen: NetworkView) -> Array | None:
    """Further width in error units of a voltage that a meter takes from a wire that floats part of the time."""
    if seen.floats_from is None or seen.picks_up is None:
        return None
    decades = {name: np.log10(np.maximum(ohms[0], 1.0) / seen.floats_from) for name, ohms in seen.ohms.items()}
    width: Array = sum(
        (seen.share[name] * STRAY_STEPS * np.clip(item, 0.0, 2.0) for name, item in decades.items()), np.zeros(1)
    )
    return width * seen.picks_up


def loaded(seen: NetworkView, load_ohms: float) -> dict[str, tuple[Array, ...]]:
    """Volts across the first place with a load put on it."""
    return {
        phase: (volts[0] * (load_ohms / (load_ohms + np.maximum(seen.ohms[phase][0], 0.0))),)
        for phase, volts in seen.volts.items()
    }


def metered(seen: NetworkView, phase: str) -> Array:
    """Volts that a meter shows in a phase, (hypotheses, draws)."""
    return loaded(seen, METER_OHMS)[phase][0]


def average(seen: NetworkView, volts: Mapping[str, tuple[Array, ...]]) -> Array:
    """What is read at the first place, averaged over the phases."""
    total: Array = sum((seen.share[phase] * volts[phase][0] for phase in volts), NOTHING)
    return total


def lamp_ohms(system_v: float, watts: float) -> float:
    """A lit lamp's resistance, in ohms."""
    return (1.1 * system_v) ** 2 / watts
