"""How the two points of a meter, a lamp or a scope are said."""

from collections.abc import Mapping

from dianoia.case.points import words
from dianoia.case.sensor import Pin


def between(red: str, black: str) -> str:
    """Two points as they follow an instrument."""
    if {red, black} == {"sensor.heater_supply", "sensor.heater_control"}:
        return "across the heater element"
    return f"from {words(red)} to {words(black)}"


def short_between(red: str, black: str, pins: Mapping[str, Pin] | None) -> str:
    """The same where there is little room. pins: the vehicle's own."""
    return f"{words(red, pins)} → {words(black, pins)}"
