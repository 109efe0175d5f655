"""Quick sums of the trade, with the same laws as the circuit."""

from dataclasses import dataclass
from math import inf

from dianoia.circuit.heater import NOMINAL_C, TEMPERATURE_COEFFICIENT
from dianoia.errors import refuse

#: An element at work, in °C: what a cold resistance is carried to.
WORKING_C = (500.0, 750.0)


@dataclass(frozen=True)
class SumRow:
    """A line of an answer."""

    name: str
    value: str


@dataclass(frozen=True)
class HeaterSum:
    """A heater on a voltage. Each pair is (low, high)."""

    cold_amps: float
    """At switch-on, in A."""
    cold_watts: float
    """At switch-on, in W."""
    hot_ohms: tuple[float, float]
    """Settled, in ohms."""
    hot_amps: tuple[float, float]
    """Settled, in A."""
    hot_watts: tuple[float, float]
    """Settled, in W."""
    rows: tuple[SumRow, ...]
    """The figures in words."""


@dataclass(frozen=True)
class At20:
    """A resistance carried back to 20 °C."""

    ohms_20c: tuple[float, float]
    """The resistance carried back to 20 °C, (low, high), in ohms."""
    said: str
    """In words."""


@dataclass(frozen=True)
class PwmSum:
    """Average and duty of a pulsed wire."""

    meter_v: float
    """What a multimeter shows on the switched wire, in V."""
    duty: float
    """Share of time driven, 0 to 1."""
    rows: tuple[SumRow, ...]
    """The figures in words."""


def _figure(value: float) -> str:
    """With at most three figures, as a person says it."""
    return f"{float(f'{value:.3g}'):g}"


def _range(ends: tuple[float, float]) -> str:
    low, high = (_figure(value) for value in ends)
    return low if low == high else f"{low} to {high}"


def _factor(slope: float, celsius: float) -> float:
    return 1.0 + slope * (celsius - NOMINAL_C)


def heater(ohms_20c: float, volts: float) -> HeaterSum:
    """Current and power of an element of ``ohms_20c`` on ``volts``. Raises RefusedInput at or below zero.

    >>> round(heater(6.0, 13.5).cold_amps, 2)
    2.25
    """
    _positive("ohms_20c", ohms_20c)
    _positive("volts", volts)
    low = ohms_20c * _factor(TEMPERATURE_COEFFICIENT[0], WORKING_C[0])
    high = ohms_20c * _factor(TEMPERATURE_COEFFICIENT[1], WORKING_C[1])
    amps, watts = (volts / high, volts / low), (volts**2 / high, volts**2 / low)
    cold_amps, cold_watts = volts / ohms_20c, volts**2 / ohms_20c
    rows = (
        SumRow("at switch-on", f"{_figure(cold_amps)} A, {_figure(cold_watts)} W"),
        SumRow("settled hot", f"{_range(amps)} A, {_range(watts)} W"),
        SumRow("its resistance then", f"{_range((low, high))} ohm"),
    )
    return HeaterSum(cold_amps, cold_watts, (low, high), amps, watts, rows)


def resistance_from(amps: float, volts: float) -> float:
    """The resistance in ohms that takes ``amps`` at ``volts``. Raises RefusedInput at or below zero."""
    _positive("amps", amps)
    _positive("volts", volts)
    return volts / amps


def at_20c(ohms: float, celsius: float) -> At20:
    """A resistance measured at ``celsius`` carried back to 20 °C. Raises RefusedInput outside -60 to 1200 °C."""
    _positive("ohms", ohms)
    if not -60.0 <= celsius <= 1200.0:
        raise refuse("celsius", "a temperature from -60 to 1200 °C", str(celsius))
    ends = sorted(ohms / _factor(slope, celsius) for slope in TEMPERATURE_COEFFICIENT)
    return between(ends[0], ends[1])


def between(low: float, high: float) -> At20:
    """A resistance at 20 °C, in ohms, with its words."""
    return At20((low, high), f"{_range((low, high))} ohm")


def pwm_average(volts: float, duty: float) -> PwmSum:
    """What a multimeter shows on a wire pulled low for ``duty`` (0 to 1) of the time. Raises RefusedInput outside.

    >>> round(pwm_average(13.8, 0.7).meter_v, 2)
    4.14
    """
    _positive("volts", volts)
    if not 0.0 <= duty <= 1.0:
        raise refuse("duty", "a share from 0 to 100 %", str(duty))
    return _pulsed(volts * (1.0 - duty), duty)


def duty_from(volts: float, meter_v: float) -> PwmSum:
    """The drive behind an averaged reading. Raises RefusedInput where the meter shows more than the battery."""
    _positive("volts", volts)
    if not 0.0 <= meter_v <= volts:
        raise refuse("meter_v", f"from 0 to {volts:g} V", str(meter_v))
    return _pulsed(meter_v, 1.0 - meter_v / volts)


def _positive(field: str, value: float) -> None:
    if not 0 < value < inf:
        raise refuse(field, "a number above zero", "OL" if value == inf else str(value))


def _pulsed(meter_v: float, duty: float) -> PwmSum:
    rows = (
        SumRow("a multimeter shows", f"{_figure(meter_v)} V"),
        SumRow("driven", f"{_figure(100 * duty)} % of the time"),
    )
    return PwmSum(meter_v, duty, rows)
