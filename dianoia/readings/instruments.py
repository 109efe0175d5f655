"""What each instrument makes of a circuit: which ports it looks at, and what it then shows.

A multimeter averages the phases (driver on and off), so on a PWM wire it shows Vbat * (1 - duty low). A lamp or the
meter's own 10 Mohm load the point. An ohmmeter sends a small current, so a live circuit makes it lie.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dianoia.case.lamps import lamps
from dianoia.case.ledger import CurrentProbe, LampProbe, Probe, ResistanceProbe, ScanProbe, ScopeProbe, VoltageProbe
from dianoia.case.setting import Setting
from dianoia.circuit.network import Array
from dianoia.readings.display import Categorical, Numeric
from dianoia.readings.outcomes import Display

#: To sum from, at the precision of what is summed.
_NOTHING = np.zeros(1, dtype=np.float32)
#: A multimeter's input, in ohms.
METER_OHMS = 10e6
#: Test current of an ohmmeter, in amperes; on a live circuit it reads off by volts over this.
OHMMETER_AMPS = 0.5e-3
#: Below this many volts across the leads an ohmmeter is not disturbed.
DEAD_VOLTS = 0.004
#: Current of an LED tester, in amperes at system voltage.
LED_AMPS = 0.015
#: Share of system voltage from which a lamp glows, and from which it is called bright.
GLOWS, BRIGHT = 0.18, 0.72
#: Share of system voltage its flashes must reach to be called flashing rather than dim.
FLASH = 0.55
#: A lamp is seen to flash below this many Hz.
FLICKER_HZ = 15.0
#: Share of system voltage between a scope's high and low from which it shows a duty.
SWITCHING = 0.25


@dataclass(frozen=True)
class Place:
    """Two points a probe is put across, or (black None) a point whose current is taken."""

    red: str
    black: str | None = None


@dataclass(frozen=True)
class Query:
    """What a probe asks of a circuit."""

    setting: Setting
    places: tuple[Place, ...]


@dataclass(frozen=True)
class Seen:
    """The answer: for each phase and place, (hypotheses, draws).

    volts: open-circuit volts (amperes for a current); ohms: source resistance; share: phase -> its part of the time.
    """

    volts: Mapping[str, tuple[Array, ...]]
    ohms: Mapping[str, tuple[Array, ...]]
    share: Mapping[str, Array]
    system_v: float
    leads_ohms: Array
    flicker: Array
    #: Source resistance in ohms from which a voltage is at the mercy of stray leakage; None where a source holds it.
    floats_from: float | None = None


def query_of(probe: Probe) -> Query | None:
    """The circuit question a probe asks; None where it asks none (looking, acting, fuel trims)."""
    setting = probe.setting
    if isinstance(probe, VoltageProbe | ResistanceProbe | LampProbe | ScopeProbe):
        return Query(setting, (Place(probe.red, probe.black),))
    if isinstance(probe, CurrentProbe):
        return Query(setting, (Place(probe.at),))
    if isinstance(probe, ScanProbe) and probe.pid in _SCAN_PLACES:
        return Query(setting, _SCAN_PLACES[probe.pid])
    return None


#: How many error units a voltage is loosened for each decade of source resistance beyond ``floats_from``.
STRAY_STEPS = 15.0
_FEED = Place("module.power_feed", "module.power_ground")
_SCAN_PLACES: dict[str, tuple[Place, ...]] = {
    "heater_current": (Place("driver"),),
    "heater_resistance": (Place("driver"), _FEED),
    "heater_command": (_FEED,),
    "battery_voltage": (_FEED,),
}


def displays(probe: Probe, seen: Seen) -> dict[str, Display]:
    """What the instrument shows, by the name of the figure (``value`` where there is only one)."""
    if isinstance(probe, ScopeProbe):
        return dict(_scope(seen))
    if isinstance(probe, ScanProbe):
        return {"value": _scan(probe, seen)}
    if isinstance(probe, LampProbe):
        return {"value": _lamp(probe, seen)}
    if isinstance(probe, ResistanceProbe):
        return {"value": _ohmmeter(probe, seen)}
    if isinstance(probe, CurrentProbe):
        return {"value": Numeric("current", np.abs(_average(seen, seen.volts)))}
    load = METER_OHMS
    if isinstance(probe, VoltageProbe) and probe.load:
        load = _lamp_ohms(seen.system_v, probe.watts or lamps().usual_watts)
    return {
        "value": Numeric("voltage", _average(seen, _loaded(seen, load)), None if load < METER_OHMS else _stray(seen))
    }


def _stray(seen: Seen) -> Array | None:
    """Further width in error units of a voltage that a meter takes from a wire that floats part of the time."""
    if seen.floats_from is None:
        return None
    decades = {name: np.log10(np.maximum(ohms[0], 1.0) / seen.floats_from) for name, ohms in seen.ohms.items()}
    width: Array = sum(
        (seen.share[name] * STRAY_STEPS * np.clip(item, 0.0, 2.0) for name, item in decades.items()), np.zeros(1)
    )
    return width


def _loaded(seen: Seen, load_ohms: float) -> dict[str, tuple[Array, ...]]:
    """Volts across the first place with a load put on it."""
    return {
        phase: (volts[0] * (load_ohms / (load_ohms + np.maximum(seen.ohms[phase][0], 0.0))),)
        for phase, volts in seen.volts.items()
    }


def metered(seen: Seen, phase: str) -> Array:
    """Volts that a meter shows in a phase, (hypotheses, draws)."""
    return _loaded(seen, METER_OHMS)[phase][0]


def _average(seen: Seen, volts: Mapping[str, tuple[Array, ...]]) -> Array:
    total: Array = sum((seen.share[phase] * volts[phase][0] for phase in volts), _NOTHING)
    return total


def _lamp_ohms(system_v: float, watts: float) -> float:
    return (1.1 * system_v) ** 2 / watts


def _ohmmeter(probe: ResistanceProbe, seen: Seen) -> Numeric:
    leads = seen.leads_ohms
    if probe.leads_ohms is not None:
        leads = np.full_like(leads, probe.leads_ohms)
    phase = max(seen.volts, key=lambda name: float(np.mean(seen.share[name])))
    volts, ohms = seen.volts[phase][0], np.maximum(seen.ohms[phase][0], 0.0)
    lie = np.where(np.abs(volts) > DEAD_VOLTS, np.abs(volts) / OHMMETER_AMPS, 0.0)
    return Numeric("resistance", ohms + lie + leads)


def _lamp(probe: LampProbe, seen: Seen) -> Categorical:
    load = seen.system_v / LED_AMPS if probe.kind == "led" else _lamp_ohms(seen.system_v, probe.watts)
    lit = {phase: np.abs(volts[0]) / seen.system_v for phase, volts in _loaded(seen, load).items()}
    power = sum((seen.share[phase] * lit[phase] ** 2 for phase in lit), _NOTHING)
    level = np.sqrt(power)
    spread = max(lit.values(), key=lambda item: float(np.mean(item))) - min(
        lit.values(), key=lambda item: float(np.mean(item))
    )
    busiest = np.max(np.stack([seen.share[phase] for phase in lit]), axis=0)
    peak = np.max(np.stack(list(lit.values())), axis=0)
    flashes = np.where((np.abs(spread) > SWITCHING) & (busiest < 0.97), seen.flicker, 0.0) * _soft(peak, FLASH)
    glows, bright = _soft(level, 0.4 * GLOWS if probe.kind == "led" else GLOWS), _soft(level, BRIGHT)
    rest = 1.0 - flashes
    return Categorical(
        {"off": rest * (1 - glows), "dim": rest * (glows - bright), "bright": rest * bright, "flashing": flashes}
    )


def _soft(level: Array, threshold: float) -> Array:
    """Chance that a person calls the lamp brighter than the threshold."""
    soft: Array = 1.0 / (1.0 + np.exp(-np.clip((level - threshold) / 0.035, -30, 30)))
    return soft


def _scope(seen: Seen) -> dict[str, Numeric]:
    volts = _loaded(seen, METER_OHMS)
    phases = list(volts)
    present = np.stack([np.where(seen.share[phase] > 0.02, volts[phase][0], np.nan) for phase in phases])
    high, low = np.fmax.reduce(present), np.fmin.reduce(present)
    middle = (high + low) / 2
    duty_low = sum((seen.share[phase] * (volts[phase][0] < middle) for phase in phases), _NOTHING)
    switching = high - low > SWITCHING * seen.system_v
    stray = _stray(seen)
    return {
        "high": Numeric("voltage", high, stray),
        "low": Numeric("voltage", low, stray),
        "duty_low": Numeric("ratio", np.where(switching, duty_low, np.nan)),
    }


def _scan(probe: ScanProbe, seen: Seen) -> Display:
    if probe.pid == "heater_current":
        return Numeric("current", np.abs(_average(seen, seen.volts)))
    if probe.pid == "heater_command":
        share = seen.share["on"]
        return Numeric("ratio", np.broadcast_to(share, np.broadcast_shapes(share.shape, seen.volts["on"][0].shape)))
    if probe.pid == "heater_resistance":
        amps, volts = (np.abs(item) for item in seen.volts["on"])
        driven = np.where(seen.share["on"] > 0.02, volts / np.maximum(amps, 1e-7), np.inf)
        return Numeric("resistance", driven)
    return Numeric("voltage", _average(seen, seen.volts))
