"""What the module remembers: codes with status and failure byte, monitors, and what it has to see before it says so.

A fault that is seen once is pending. Seen in the next drive cycle as well, it is stored; a cycle whose test passes removes what is
pending. Clearing removes codes and monitors. (Two-trip logic of on-board diagnosis, general.)
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from statistics import fmean

from dianoia.simulated.car import LEAKS
from dianoia.simulated.sensor import Sensor

#: Codes of a heater circuit, by address: circuit, low, high, and the plain one.
HEATER_CODES = {
    "B1S1": (30, 31, 32, 135),
    "B1S2": (36, 37, 38, 141),
    "B2S1": (50, 51, 52, 155),
    "B2S2": (56, 57, 58, 161),
}
#: First of the five codes of a signal circuit, by address.
SIGNAL_CODES = {"B1S1": 130, "B1S2": 136, "B2S1": 150, "B2S2": 156}
#: Codes of a NOx sensor, by what is wrong: position 1, position 2.
NOX_CODES = {
    "nox-messages": ("U029D", "U029E"),
    "nox-heater": ("P2205", "P22A3"),
    "nox-value": ("P2201", "P229F"),
    "nox-supply": ("P220A", "P220B"),
}
#: Mixture lean, rich; catalyst, by bank.
LEAN_CODES, RICH_CODES, CATALYST_CODES = ("P0171", "P0174"), ("P0172", "P0175"), ("P0420", "P0430")
#: Failure type bytes (ISO 15031-6, annex): what the electrical test saw.
TO_GROUND, TO_BATTERY, OPEN_CIRCUIT, BELOW, ABOVE, TOO_SLOW, NO_SIGNAL = "11", "12", "13", "18", "19", "26", "00"
#: Tests: heater after so many seconds of drive; sensors and catalyst after so many of closed loop or of warm running.
HEATER_FROM_S, SENSORS_FROM_S, CATALYST_FROM_S = 20.0, 90.0, 240.0
#: Swing in volts under which a signal stands still, and changes in ten seconds under which a front sensor is slow.
STILL_V, SLOW_CHANGES = 0.1, 4
#: Trim from which the mixture is called lean (rich: as much below nought), and share of the front's swing from which a catalyst is worn.
TRIMMED, PASSED_ON = 0.2, 0.7


@dataclass(frozen=True, slots=True)
class StoredCode:
    """A code as a scan tool lists it."""

    code: str
    """The code's own text."""
    failure_type: str
    """Failure type byte, two hexadecimal digits."""
    status: str
    """``stored`` or ``pending``."""


@dataclass
class CodeMemory:
    """Codes and monitors of one module."""

    supported: tuple[str, ...]
    """Monitors that this vehicle has."""
    pending: dict[str, str] = field(default_factory=dict)
    """Code -> failure type byte, seen in one cycle."""
    stored: dict[str, str] = field(default_factory=dict)
    """Code -> failure type byte, seen in two."""
    complete: set[str] = field(default_factory=set)
    """Monitors that have run since clearing."""
    _now: set[str] = field(default_factory=set)
    _passed: set[str] = field(default_factory=set)

    def tested(self, code: str, failure_type: str | None) -> None:
        """What a test came to in this cycle. failure_type: None where it passed."""
        if failure_type is None:
            self._passed.add(code)
            return
        if code in self._now:
            return
        self._now.add(code)
        if code in self.stored:
            return
        if code in self.pending:
            del self.pending[code]
            self.stored[code] = failure_type
        else:
            self.pending[code] = failure_type

    def new_cycle(self) -> None:
        """The engine starts anew: what passed and did not fail in the last cycle is pending no more."""
        for code in self._passed - self._now:
            self.pending.pop(code, None)
        self._now.clear()
        self._passed.clear()

    def clear(self) -> None:
        """As a scan tool clears it."""
        for each in (self.pending, self.stored, self.complete, self._now, self._passed):
            each.clear()

    @property
    def codes(self) -> tuple[StoredCode, ...]:
        """What a scan tool lists, stored ones first."""
        found = [StoredCode(code, byte, "stored") for code, byte in sorted(self.stored.items())]
        return (*found, *(StoredCode(code, byte, "pending") for code, byte in sorted(self.pending.items())))

    @property
    def monitors(self) -> dict[str, str]:
        """Monitor -> ``complete``, ``incomplete``."""
        return {name: "complete" if name in self.complete else "incomplete" for name in self.supported}


def heater_code(sensor: Sensor, failure_type: str) -> str:
    """The code of a heater circuit for what was seen."""
    _, low, high, plain = HEATER_CODES[sensor.address]
    number = {TO_GROUND: low, TO_BATTERY: high, ABOVE: high}.get(failure_type, plain)
    return f"P{number:04d}"


def heater_failure(amps: float, off_amps: float, least: float, most: float) -> str | None:
    """The failure type of a heater's currents in amperes with the driver on and off; None where they are accepted."""
    if off_amps > LEAKS * least:
        return TO_GROUND
    if amps < 0.05 * least:
        return OPEN_CIRCUIT
    return BELOW if amps <= least else ABOVE if amps >= most else None


def signal_failure(sensor: Sensor, shown: Sequence[float], trim: float) -> tuple[str, str] | None:
    """The code and failure type of a switching sensor's signal in volts over ten seconds of warm running; None where it passes.

    trim: short and long trim together.
    """
    low, high, mean = min(shown), max(shown), fmean(shown)
    base = SIGNAL_CODES[sensor.address]
    if high - low < STILL_V:
        if mean < 0.2:
            return f"P{base + 1:04d}", "16"
        if mean > 0.75:
            return f"P{base + 2:04d}", "17"
        return (f"P{base + 4:04d}", NO_SIGNAL) if sensor.position == 1 or abs(mean - sensor.bias_v) < 0.05 else None
    over = [value > 0.45 for value in shown]
    changes = sum(one != other for one, other in pairwise(over))
    if sensor.position == 1 and changes < SLOW_CHANGES and abs(trim) < TRIMMED:
        return f"P{base + 3:04d}", TOO_SLOW
    return None
