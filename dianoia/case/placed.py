"""A reading at the terminals of this sensor: pin numbers resolved, a lamp in place of the heater put at its ends."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, TypeVar

from dianoia.case.measures import Reading
from dianoia.case.measures.state import State
from dianoia.case.points import in_place_of_heater, resolve
from dianoia.case.sensor import Pin
from dianoia.families.tables import FamilyRow
from dianoia.families.types import Terminal

Anything = TypeVar("Anything", bound=State)


@dataclass(frozen=True)
class PlacingContext:
    """What pin numbers and names of points are resolved with."""

    pins: Mapping[str, Pin]
    """The vehicle's own."""
    family: FamilyRow
    """The sensor's."""
    own: str
    """The address of the sensor in question."""

    def placed(self, reading: Reading) -> Reading:
        """Terminals for pin numbers, a lamp in place of the heater at its two ends, and no ``of`` where it is of itself."""
        found = self._in_place(resolved(reading, self.pins))
        return replace(found, of=None) if found.of == self.own else found

    def _in_place(self, reading: Reading) -> Reading:
        """A lamp in place of the heater stands across the loom's heater terminals, said or not."""
        if not reading.replaces_heater or reading.points:
            return reading
        red, black = in_place_of_heater(self.family)
        across: dict[str, Any] = {"red": red, "black": black, "connector": reading.connector or "unplugged"}
        return replace(reading, **across)


def renamed(taken: Anything, names: Mapping[str, Terminal]) -> Anything:
    """A probe, reading or spec with other names for some of its terminals."""
    changes: dict[str, Any] = {name: _other_name(point, names) for name, point in taken.named_points}
    if taken.jumper:
        changes["jumper"] = tuple(_other_name(point, names) for point in taken.jumper)
    changes = {name: value for name, value in changes.items() if value != getattr(taken, name)}
    return replace(taken, **changes) if changes else taken


def _other_name(point: str, names: Mapping[str, Terminal]) -> str:
    at, dot, terminal = point.rpartition(".")
    return f"{at}{dot}{names[terminal]}" if terminal in names else point


def resolved(taken: Anything, pins: Mapping[str, Pin]) -> Anything:
    """A reading or spec with terminals for pin numbers, and a clamp where it goes round the wire."""
    changes: dict[str, Any] = {name: taken.seen_at(resolve(point, pins)) for name, point in taken.named_points}
    if taken.jumper:
        changes["jumper"] = tuple(resolve(point, pins) for point in taken.jumper)
    changes = {name: value for name, value in changes.items() if value != getattr(taken, name)}
    return replace(taken, **changes) if changes else taken
