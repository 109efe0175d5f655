"""What parts are made of. Every figure has its own source."""

from dataclasses import dataclass, field
from math import exp, inf, log
from random import Random

#: Copper at 20 °C: 17.2 nanoohm metres; a loom's 0.5 to 1.5 mm2 wire has so many ohms a metre (IEC 60228 tables, rounded).
WIRE_OHMS_PER_M = (0.013, 0.039)
#: A crimped and mated pin: new 3 to 10 milliohm, worn up to 30 (connector makers' data sheets give 5 to 20).
PIN_OHMS = (0.004, 0.03)
#: Blade fuse of 10 to 20 A: cold resistance 3 to 8 milliohm (fuse makers' tables).
FUSE_OHMS = (0.003, 0.009)
#: Relay contact of a 30 A cube relay: voltage drop 50 mV at 10 A new, up to three times that in service.
RELAY_OHMS = (0.005, 0.03)
#: Lead-acid battery of 50 to 90 Ah: source resistance (cold cranking tests of 500 to 800 A at 7.5 V).
BATTERY_OHMS = (0.005, 0.012)
#: Open-circuit voltage of six charged cells at rest, and what an alternator holds them at, in volts.
RESTING_V, CHARGING_V, CRANKING_V = (12.25, 12.85), (13.5, 14.7), (9.6, 11.2)
#: Platinum-alloy thick film on alumina: temperature coefficient per kelvin (film suppliers: 2800 to 3800 ppm).
TCR = (0.0028, 0.0038)
#: Tungsten lamp: cold resistance is about a tenth of hot, and with voltage R goes as V**0.55 (lamp engineering tables).
LAMP_EXPONENT, LAMP_COLD = 0.55, 0.09
#: A power transistor in a module, on: milliohms with its sense resistor; off: what its clamps and monitors leak.
DRIVER_ON_OHMS, DRIVER_OFF_OHMS = (0.09, 0.4), (2e4, 1e7)


def between(random: Random, ends: tuple[float, float]) -> float:
    """Anything between two ends, evenly."""
    return random.uniform(*ends)


def decades(random: Random, low: float, high: float) -> float:
    """Anything between two ends, evenly by ratio."""
    return exp(random.uniform(log(low), log(high)))


def wire(random: Random, metres: tuple[float, float] = (0.6, 3.0)) -> float:
    """A wire's resistance in ohms."""
    return between(random, metres) * between(random, WIRE_OHMS_PER_M)


def lamp_ohms(volts: float, watts: float, rated_v: float) -> float:
    """A test lamp's resistance in ohms at so many volts; ``watts`` at ``rated_v``."""
    hot = rated_v**2 / watts
    return max(hot * (max(abs(volts), 1e-3) / rated_v) ** LAMP_EXPONENT, LAMP_COLD * hot)


@dataclass
class Element:
    """A heater. ohms_20c; tcr per kelvin."""

    ohms_20c: float
    tcr: float
    heat_j_k: float
    """Heat capacity."""
    loss_w_k: float
    """Heat lost a kelvin above its surroundings."""

    def ohms(self, celsius: float) -> float:
        """Resistance in ohms at a temperature."""
        return self.ohms_20c * max(1.0 + self.tcr * (celsius - 20.0), 0.3)

    def watts(self, volts: float, celsius: float, series_ohms: float = 0.0) -> float:
        """Power in the element fed from ``volts`` through ``series_ohms``."""
        ohms = self.ohms(celsius)
        return 0.0 if ohms == inf else volts**2 * ohms / (ohms + series_ohms) ** 2


@dataclass
class Wire:
    """A wire from the module to the plug, through an in-line connector."""

    near: float
    """The plug's half."""
    far: float
    """The module's; ohms."""
    pin: float
    module_pin: float
    #: Further ohms in series by place: near, far, pin (at the plug).
    faults: dict[str, float] = field(default_factory=dict)

    def at(self, place: str) -> float:
        """Ohms of a stretch with what is wrong with it."""
        return float(getattr(self, place)) + self.faults.get(place, 0.0)


def new_wire(random: Random) -> Wire:
    """A sound wire."""
    return Wire(wire(random), wire(random), between(random, PIN_OHMS), between(random, PIN_OHMS))
