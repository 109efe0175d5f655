"""A test lamp: how bright it is, and whether it is seen to flash."""

import numpy as np

from dianoia.case.measures.lamp import LampProbe
from dianoia.circuit.network import Array
from dianoia.readings.display import Categorical
from dianoia.readings.instruments.seen import NOTHING, SWITCHING, Instrument, NetworkView, at_points, lamp_ohms, loaded
from dianoia.readings.outcomes import Display

#: Current of an LED tester, in amperes at system voltage.
LED_AMPS = 0.015
#: Share of system voltage from which a lamp glows, and from which it is called bright.
GLOWS, BRIGHT = 0.18, 0.72
#: Share of system voltage its flashes must reach to be called flashing rather than dim.
FLASH = 0.55
#: A lamp is seen to flash below this many Hz.
FLICKER_HZ = 15.0


def _lamp(probe: LampProbe, seen: NetworkView) -> Categorical:
    load = seen.system_v / LED_AMPS if probe.led else lamp_ohms(seen.system_v, probe.watts)
    lit = {phase: np.abs(volts[0]) / seen.system_v for phase, volts in loaded(seen, load).items()}
    power = sum((seen.share[phase] * lit[phase] ** 2 for phase in lit), NOTHING)
    level = np.sqrt(power)
    spread = max(lit.values(), key=lambda item: float(np.mean(item))) - min(
        lit.values(), key=lambda item: float(np.mean(item))
    )
    busiest = np.max(np.stack([seen.share[phase] for phase in lit]), axis=0)
    peak = np.max(np.stack(list(lit.values())), axis=0)
    flashes = np.where((np.abs(spread) > SWITCHING) & (busiest < 0.97), seen.flicker, 0.0) * _soft(peak, FLASH)
    glows, bright = _soft(level, 0.4 * GLOWS if probe.led else GLOWS), _soft(level, BRIGHT)
    rest = 1.0 - flashes
    return Categorical(
        {"off": rest * (1 - glows), "dim": rest * (glows - bright), "bright": rest * bright, "flashing": flashes}
    )


def _soft(level: Array, threshold: float) -> Array:
    """Chance that a person calls the lamp brighter than the threshold."""
    soft: Array = 1.0 / (1.0 + np.exp(-np.clip((level - threshold) / 0.035, -30, 30)))
    return soft


def _displays(probe: LampProbe, seen: NetworkView) -> dict[str, Display]:
    return {"value": _lamp(probe, seen)}


LAMP = Instrument(at_points, _displays)
