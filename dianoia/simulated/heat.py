"""Heat: element, cell, exhaust, coolant and the water in the exhaust, each by its own energy balance.

    C dT/dt = sum(share * P) - G (T - around)       of an element with heat capacity C (J/K) and loss G (W/K)
    P = V^2 R / (R + r)^2                           in an element of R ohms fed from V volts behind r ohms

Each is stepped by ``STEP_S``; the shortest time constant is 4 s.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import exp, log

from dianoia.simulated.parts import Element

#: Step of the energy balances, in seconds.
STEP_S = 0.1
#: Everything before the first start, in °C.
AMBIENT_C = 20.0
#: Exhaust at the sensor, in °C: front and rear, idling, warm; what working the engine adds (thermocouple figures of
#: petrol engines: 350 to 450 at the manifold, 250 to 330 behind the catalyst at idle).
EXHAUST_C, WORKED_C = {1: (330.0, 430.0), 2: (230.0, 330.0)}, 180.0
#: Pipes and tips follow the gas with this time constant, in seconds, and cool in still air with the other.
EXHAUST_TAU_S, COOLING_TAU_S = 150.0, 400.0
#: A tip some while after the engine was stopped, in °C.
STOPPED_C = 45.0
#: A cell follows its element so much later, in seconds.
CELL_LAG_S = 2.0
#: Dew point of exhaust gas, in °C (petrol 52 to 55, lean diesel 35 to 45).
DEW_POINT_C = 54.0
#: A NOx probe is held at this temperature, follows its heater with this time constant, measures from the third figure up, and is stable so
#: much later, in °C and seconds. Unit data sheets: about a minute from the release of the heater to the first value.
PROBE_C, PROBE_TAU_S, PROBE_WORKS_C, PROBE_STABLE_S = 650.0, 20.0, 600.0, 20.0
#: The thermostat opens here, in °C; an idling engine warms up with this time constant, and cools with the other, in seconds.
THERMOSTAT_C, COOLANT_TAU_S, COOLANT_COOLS_S = 90.0, 260.0, 3600.0


@dataclass(frozen=True, slots=True)
class Port:
    """What a circuit offers at two points with what lies between them taken out."""

    open_v: float
    """Volts between the open points."""
    ohms: float
    """Resistance behind them."""


@dataclass(frozen=True, slots=True)
class Drive:
    """A share of the time in which an element is fed from a port."""

    share: float
    """0 to 1."""
    port: Port
    """Where it is fed from."""


def watts(element: Element, drives: Sequence[Drive], celsius: float) -> float:
    """Mean power in an element at a temperature."""
    return sum(item.share * element.watts(item.port.open_v, celsius, item.port.ohms) for item in drives)


def stepped(
    element: Element, drives: Sequence[Drive], celsius: float, around_c: float, seconds: float = STEP_S
) -> float:
    """An element's temperature in °C one step later."""
    return (
        celsius
        + seconds * (watts(element, drives, celsius) - element.loss_w_k * (celsius - around_c)) / element.heat_j_k
    )


def settled(element: Element, drives: Sequence[Drive], around_c: float) -> float:
    """The temperature in °C at which an element loses what it is given; found by bisection."""
    low, high = around_c, around_c + 2500.0
    for _ in range(40):
        middle = (low + high) / 2
        gains = watts(element, drives, middle) > element.loss_w_k * (middle - around_c)
        low, high = (middle, high) if gains else (low, middle)
    return low


def warmed(
    element: Element, drives_at: Callable[[float], Sequence[Drive]], around_at: Callable[[float], float], seconds: float
) -> float:
    """An element's temperature in °C so many seconds after a cold start, stepped through what feeds and surrounds it."""
    celsius = AMBIENT_C
    for step in range(int(seconds / STEP_S)):
        at = step * STEP_S
        celsius = stepped(element, drives_at(at), celsius, around_at(at))
    return celsius


def exhaust_after(warm_c: float, seconds: float | None) -> float:
    """Exhaust in °C so long after a cold start; None for settled."""
    return warm_c if seconds is None else AMBIENT_C + (warm_c - AMBIENT_C) * (1.0 - exp(-seconds / EXHAUST_TAU_S))


def follow(value: float, target: float, tau_s: float, seconds: float = STEP_S) -> float:
    """A first-order lag one step later."""
    return target + (value - target) * exp(-seconds / tau_s)


def water_to_dry(warm_c: float, dew_s: float) -> float:
    """Water in the exhaust after a cold soak, in kelvin seconds of drying: what the idling exhaust takes away in ``dew_s``.

    The closed form of the integral of (exhaust - dew point) over the time in which that is positive.
    """
    rise = warm_c - AMBIENT_C
    if warm_c <= DEW_POINT_C:
        return 0.0
    from_s = EXHAUST_TAU_S * log(rise / (warm_c - DEW_POINT_C))
    if dew_s <= from_s:
        return 0.0
    return (warm_c - DEW_POINT_C) * (dew_s - from_s) - EXHAUST_TAU_S * rise * (
        exp(-from_s / EXHAUST_TAU_S) - exp(-dew_s / EXHAUST_TAU_S)
    )


def probe_after(from_c: float, seconds: float | None) -> float:
    """A NOx probe in °C so long after its heater was released at ``from_c``; None for long since."""
    return PROBE_C if seconds is None else PROBE_C - (PROBE_C - from_c) * exp(-max(seconds, 0.0) / PROBE_TAU_S)


def probe_warms_s(from_c: float) -> float:
    """Seconds from the release of a NOx probe's heater at ``from_c`` until it measures."""
    return PROBE_TAU_S * log((PROBE_C - from_c) / (PROBE_C - PROBE_WORKS_C))
