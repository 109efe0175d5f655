"""The names of places a probe can be put."""

from collections.abc import Mapping
from typing import get_args

from dianoia.case.sensor import Pin
from dianoia.families.tables import FamilyRow
from dianoia.families.types import Terminal

FIXED = frozenset(
    ("battery.positive", "battery.negative", "chassis", "main_fuse.in", "main_fuse.out", "relay.in", "relay.out", "fuse.in", "fuse.out",
     "module.power_feed", "module.power_ground", "sensor.shell")
)  # fmt: skip
AT_TERMINALS = ("harness", "sensor", "inline", "inline.module", "inline.sensor", "module", "module_pin")
TERMINALS: tuple[str, ...] = get_args(Terminal)


def resolve(point: str, pins: Mapping[str, Pin]) -> str:
    """A point with a pin number turned into the terminal's name; anything else as it is."""
    place, dot, terminal = point.rpartition(".")
    if dot and place in AT_TERMINALS and point not in FIXED and terminal in pins:
        named = pins[terminal].terminal
        return f"{place}.{named}" if named else point
    return point


def around_wire(point: str) -> str:
    """Where a clamp laid at a point sits: round the wire, which carries the same on either side of a plug."""
    place, _, terminal = point.partition(".")
    side = {"sensor": "harness", "module_pin": "module"}.get(place)
    return f"{side}.{terminal}" if side and point not in FIXED else point


def problem(point: str, terminals: tuple[str, ...], pins: Mapping[str, Pin]) -> str | None:
    """What was expected instead of ``point``, or None where it is a point of this sensor's circuit."""
    if point in FIXED:
        return None
    place, dot, terminal = point.rpartition(".")
    if not dot or place not in AT_TERMINALS:
        return f"a point: {', '.join(sorted(FIXED))}, or one of {', '.join(AT_TERMINALS)} with a terminal"
    if terminal in terminals:
        return None
    if terminal in TERMINALS:
        return f"a terminal that this sensor family has: {', '.join(terminals)}"
    known = [number for number, pin in pins.items() if pin.terminal]
    return f"a terminal ({', '.join(terminals)}) or a pin of the pin table ({', '.join(known) or 'which is empty'})"


#: Points in a colleague's words.
_WORDS = {
    "battery.positive": "battery +", "battery.negative": "battery −", "chassis": "chassis",
    "main_fuse.in": "main fuse in", "main_fuse.out": "main fuse out", "relay.in": "relay in", "relay.out": "relay out", "fuse.in": "fuse in", "fuse.out": "fuse out",
    "module.power_feed": "module feed", "module.power_ground": "module ground",
    "sensor.shell": "sensor shell",
}  # fmt: skip
TERMINAL_WORDS = {
    "heater_supply": "heater supply", "heater_control": "heater control", "signal": "signal",
    "signal_return": "signal return", "cell_positive": "cell positive", "cell_negative": "cell negative",
    "nernst": "sensing-cell", "virtual_ground": "virtual ground", "pump": "pump", "trim": "trim",
    "supply": "supply", "ground": "ground", "can_high": "CAN high", "can_low": "CAN low", "address": "address",
}  # fmt: skip
_PLACES = {
    "harness": "{}, loom side", "sensor": "{}, sensor side", "inline": "{}, in-line connector",
    "inline.module": "{}, in-line connector, module half",
    "inline.sensor": "{}, in-line connector, sensor half",
    "module": "{}, at the module", "module_pin": "{}, the module’s own pin",
}  # fmt: skip


#: Places whose contacts are cavities of the sensor's plug, which the pin table numbers.
_AT_PLUG = ("harness", "sensor")
#: Places that the sensor's wires, with the colours of the pin table, run to.
_ON_WIRE = (*_AT_PLUG, "inline.module", "inline.sensor", "inline", "module")


def words(point: str, pins: Mapping[str, Pin] | None = None) -> str:
    """A point as a person says it. pins: the vehicle's own; where they name the point's wire, number and colour come first.

    >>> words("harness.heater_supply")
    'heater supply, loom side'
    >>> words("harness.signal", {"4": Pin(terminal="signal", colour="black")})
    'pin 4 black · signal, loom side'
    """
    if point in _WORDS:
        return _WORDS[point]
    place, _, terminal = point.rpartition(".")
    plain = _PLACES.get(place, "{}").format(TERMINAL_WORDS.get(terminal, terminal))
    marks = _marks(place, terminal, pins or {})
    return f"{marks} · {plain}" if marks else plain


def _marks(place: str, terminal: str, pins: Mapping[str, Pin]) -> str:
    """Pin number and wire colour, as far as they hold at a place."""
    number, pin = next(((number, pin) for number, pin in pins.items() if pin.terminal == terminal), (None, None))
    if number is None or pin is None or place not in _ON_WIRE:
        return ""
    marks = [f"pin {number}"] if place in _AT_PLUG else []
    return " ".join([*marks, *([pin.colour] if pin.colour else [])])


def in_place_of_heater(family: FamilyRow) -> tuple[str, str]:
    """The points of a lamp that stands in place of the heater: across the loom's ends of it, or of the unit's feed."""
    red, black = ("heater_supply", "heater_control") if family.has_heater_terminals else ("supply", "ground")
    return f"harness.{red}", f"harness.{black}"
