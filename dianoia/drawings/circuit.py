"""The circuit as a drawing: where every part and probe point lies, and what is known of each part.

Units are those of a board ``WIDTH`` wide; x to the right, y down. The front end only draws.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from dianoia.case.job import Job
from dianoia.case.points import TERMINAL_WORDS, words
from dianoia.case.sensor import Pin
from dianoia.case.terms import FeedOrder, Key, Mating
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.verdict.types import Verdict
from dianoia.quantities.show import percent

ElementKind = Literal[
    "battery",
    "fuse",
    "relay",
    "wire",
    "plug",
    "inline",
    "element",
    "cell",
    "module",
    "driver",
    "input",
    "ground",
    "sensor",
    "unit",
]
ElementState = Literal["untouched", "unproven", "proven", "suspect", "condemned", "scenery"]

#: Wide and low: the board lies above the meter, on a screen of 1280 by 800, with labels of 13 pixels and more.
WIDTH = 1300.0
#: Columns of the board.
BATTERY, MAIN_FUSE, FIRST_OF_BOX, SECOND_OF_BOX, MODULE_RIGHT = 64.0, 185.0, 310.0, 440.0, 270.0
INLINE, HARNESS, SENSOR, ELEMENT = 540.0, 800.0, 885.0, 1050.0
#: The feed's row, how much further below it the next row lies, and how far below it the module begins.
FIRST_ROW, BELOW_FEED, MODULE_TOP = 72.0, 16.0, 41.0
#: Below the last row: the ground rail, the lower edge of the module, and the edge of the board below the rail.
RAIL, MODULE_BOTTOM, EDGE = 62.0, 36.0, 34.0
#: Distance of the rows, by how many there are: all of them lie above the meter.
ROWS = ((4, 62.0), (5, 56.0), (9, 48.0))
#: Tips of the current's arrows, and where a pulsed drive is marked.
FORTH, BACK, PULSES = 640.0, 640.0, 662.0
#: Belief from which a part is drawn as suspect, condemned, or (below) can be proven.
SUSPECT, CONDEMNED = 0.06, 0.9


@dataclass(frozen=True)
class TextAnchor:
    """Where a text stands, and which of its ends lies there."""

    x: float
    y: float
    anchor: Literal["start", "middle", "end"]


@dataclass(frozen=True)
class DrawnPoint:
    """A place for a probe."""

    id: str
    x: float
    y: float
    label: str
    words: str
    value: TextAnchor
    """Where one read at it is written."""
    terminal: str | None = None
    """Of the sensor connector, if it is one."""


@dataclass(frozen=True)
class DrawnElement:
    """A part."""

    id: str
    kind: ElementKind
    label: str
    path: tuple[tuple[float, float], ...]
    """Its line or the corners of its box."""
    state: ElementState
    belief: float
    """Chance that it is bad, 0 to 1."""
    percent: str
    """The belief as text."""
    by: tuple[int, ...] = ()
    """Readings that prove it."""
    part: str | None = None
    tick: tuple[float, float] | None = None
    """Where the mark of a proven part stands, None for a part that has none."""

    @property
    def ends(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """Its own two ends, without the wires that lead to it."""
        return (self.path[1], self.path[2]) if len(self.path) > 3 else (self.path[0], self.path[-1])


@dataclass(frozen=True)
class DrawnTerminal:
    """A row of the plug."""

    terminal: str
    label: str
    """Written at it."""
    y: float
    at: TextAnchor
    pin: str | None
    """From the vehicle's pin table."""
    colour: str | None
    """From the vehicle's pin table."""


@dataclass(frozen=True)
class DrawnFlow:
    """The heater's current, for as long as the vehicle is in one of these states."""

    keys: tuple[Key, ...]
    connector: Mating
    forth: tuple[float, float]
    """The tips of its arrows."""
    back: tuple[float, float] | None
    """The tips of its arrows."""
    pulsed: tuple[float, float] | None
    """Where a pulsed drive is marked."""


@dataclass(frozen=True)
class Drawing:
    """The whole board."""

    width: float
    height: float
    """In the same units as its points."""
    elements: tuple[DrawnElement, ...]
    points: tuple[DrawnPoint, ...]
    terminals: tuple[DrawnTerminal, ...]
    plug: tuple[tuple[float, float], ...]
    """The corners of its frame."""
    flow: DrawnFlow | None
    """None where the sensor has no heater."""
    stretch: tuple[tuple[float, float], ...] = ()
    """The ends of the piece of the feed that a decision names, empty for none."""


@dataclass(frozen=True)
class _Shape:
    """An element before its state is known."""

    id: str
    kind: ElementKind
    label: str
    path: tuple[tuple[float, float], ...]
    sites: tuple[str, ...] = ()
    """The fault sites that lie in it."""
    part: str | None = None
    tick: tuple[float, float] | None = None
    """Where its mark stands once it is proven."""


def drawing(job: Job, verdict: Verdict) -> Drawing:
    """The circuit of a job with what the verdict knows of every part."""
    high_side = bool(job.case.sensor and job.case.sensor.heater_switch == "high-side")
    rows = _row_heights(job.family.terminals, high_side)
    bottom = max(rows.values()) + RAIL
    shapes = [
        *_feed(job.case.vehicle.feed_order, job.case.vehicle.system_voltage or 12),
        *_rows(rows, high_side),
        *_ends(rows, bottom, high_side),
    ]
    touched = _touched(job)
    points = tuple(_points(rows, bottom, high_side, job.pins, job.case.vehicle.feed_order))
    pins: dict[str, tuple[str | None, str | None]] = {
        pin.terminal: (number, pin.colour) for number, pin in job.pins.items() if pin.terminal
    }
    return Drawing(
        width=WIDTH,
        height=bottom + EDGE,
        elements=tuple(_with_state(shape, verdict, touched) for shape in shapes),
        points=points,
        terminals=tuple(
            DrawnTerminal(name, TERMINAL_WORDS[name], y, _name_at(name, y, high_side), *pins.get(name, _NO_PIN))
            for name, y in rows.items()
        ),
        plug=((HARNESS - 18, min(rows.values()) - 30), (HARNESS + 18, max(rows.values()) + 30)),
        flow=_flow(rows, pulsed=bool(job.case.sensor and job.case.sensor.heater_drive == "pwm")),
        stretch=_stretch(verdict.between, points),
    )


def _name_at(terminal: str, y: float, high_side: bool) -> TextAnchor:
    """Where a wire's name stands: where the wire begins, so that values at the plug have their place. The feed's own wire, which no
    value stands above, has it at the plug.
    """
    if _is_fed(terminal, high_side):
        return TextAnchor(HARNESS - 26, y - 12, "end")
    begins = SECOND_OF_BOX + 12 if _is_grounded(terminal, high_side) else MODULE_RIGHT + 56
    return TextAnchor(begins, y - 12, "start")


def _is_fed(terminal: str, high_side: bool) -> bool:
    return terminal in ("heater_supply", "supply") and not high_side


def _is_grounded(terminal: str, high_side: bool) -> bool:
    return terminal == "ground" or (terminal == "heater_control" and high_side)


def _row_heights(terminals: Sequence[str], high_side: bool) -> dict[str, float]:
    """Terminal -> y of its row. The first one lies on the feed where the feed leads to it, else all lie below it."""
    step = next(height for most, height in ROWS if len(terminals) <= most)
    fed = not high_side and bool({"heater_supply", "supply"} & set(terminals))
    places = range(0 if fed else 1, len(terminals) + 1)
    heights = (FIRST_ROW + place * step + (BELOW_FEED if place else 0.0) for place in places)
    return dict(zip(terminals, heights, strict=False))


def _stretch(between: tuple[str, str] | None, points: Sequence[DrawnPoint]) -> tuple[tuple[float, float], ...]:
    at = {point.id: (point.x, point.y) for point in points}
    return tuple(at[name] for name in between if name in at) if between else ()


def _flow(rows: dict[str, float], pulsed: bool) -> DrawnFlow | None:
    """With the engine running and the plug in, the module heats the sensor."""
    supply = rows.get("heater_supply", rows.get("supply"))
    if supply is None:
        return None
    control = rows.get("heater_control")
    back = (BACK, control) if control is not None else None
    return DrawnFlow(
        ("running",), "mated", (FORTH, supply), back, (PULSES, control) if control is not None and pulsed else None
    )


def _box(order: FeedOrder | None) -> dict[str, float]:
    """Where the parts of the feed stand, in the order of this vehicle."""
    relay, fuse = (SECOND_OF_BOX, FIRST_OF_BOX) if order == "fuse-relay" else (FIRST_OF_BOX, SECOND_OF_BOX)
    return {"main_fuse": MAIN_FUSE, "relay": relay, "fuse": fuse}


def _feed(order: FeedOrder | None, volts: int) -> Iterator[_Shape]:
    y = FIRST_ROW
    yield _Shape("battery", "battery", f"{volts} V", ((BATTERY - 26, y - 20), (BATTERY + 26, y + 20)))
    at = _box(order)
    relay, fuse, main = at["relay"], at["fuse"], at["main_fuse"]
    way = ((BATTERY + 26, y), (FIRST_OF_BOX - 28, y))
    yield _Shape("feed", "wire", "feed", way, ("main feed", "supply resistance"), "supply", (BATTERY + 60, y + 3))
    for name, kind, label, x, half, high, sites in (
        ("main-fuse", "fuse", "main fuse", main, 24, 12, ()),
        ("relay", "relay", "relay", relay, 28, 18, ("relay",)),
        ("fuse", "fuse", "fuse", fuse, 28, 12, ("fuse",)),
    ):  # fmt: skip
        corners, tick = ((x - half, y - high), (x + half, y + high)), (x + 18 + 5.5 * len(label), y - high - 12)
        yield _Shape(name, kind, label, corners, sites, "supply", tick)  # type: ignore[arg-type]
    yield _Shape("link", "wire", "", ((FIRST_OF_BOX + 28, y), (SECOND_OF_BOX - 28, y)), (), "supply")


_NO_PIN: tuple[str | None, str | None] = (None, None)
_WIRE_SITES = {"heater_supply": ("wire supply",), "heater_control": ("wire control",)}
_PIN_SITES = {"heater_supply": ("plug supply",), "heater_control": ("plug control",)}
_PART_OF = {"heater_supply": "supply", "heater_control": "control", "signal": "signal", "signal_return": "return",
            "supply": "supply", "ground": "ground", "can_high": "bus", "can_low": "bus", "cell_positive": "signal",
            "cell_negative": "return", "nernst": "signal", "virtual_ground": "return", "pump": "pump", "trim": "trim"}  # fmt: skip


def _rows(rows: dict[str, float], high_side: bool) -> Iterator[_Shape]:
    for terminal, y in rows.items():
        from_fuse, to_ground = _is_fed(terminal, high_side), _is_grounded(terminal, high_side)
        start = SECOND_OF_BOX + 28 if from_fuse else SECOND_OF_BOX if to_ground else MODULE_RIGHT
        if to_ground:
            yield _Shape(f"ground.{terminal}", "ground", "", ((SECOND_OF_BOX, y), (SECOND_OF_BOX, y + 24)))
        sites = _WIRE_SITES.get(terminal, (f"wire {terminal}",))
        pins = _PIN_SITES.get(terminal, (f"plug {terminal}",))
        label, part = TERMINAL_WORDS[terminal], _PART_OF.get(terminal)
        tick = (498.0 if from_fuse else 725.0, y + 3)  # clear of the wire's name
        yield _Shape(f"wire.{terminal}", "wire", f"{label} wire", ((start, y), (HARNESS, y)), sites, part, tick)
        yield _Shape(
            f"inline.{terminal}",
            "inline",
            "",
            ((INLINE - 13, y - 11), (INLINE + 13, y + 11)),
            (),
            part,
        )
        pin = ((HARNESS, y), (SENSOR, y))
        yield _Shape(f"pin.{terminal}", "plug", f"{label} pin", pin, pins, part, ((HARNESS + SENSOR) / 2, y))


def _ends(rows: dict[str, float], bottom: float, high_side: bool) -> Iterator[_Shape]:
    ys = list(rows.values())
    yield _Shape("sensor", "sensor", "sensor", ((SENSOR, ys[0] - 34), (WIDTH - 30, ys[-1] + 34)))
    lower, top = bottom - RAIL + MODULE_BOTTOM, FIRST_ROW + MODULE_TOP
    box = ((34.0, top), (MODULE_RIGHT, lower))
    yield _Shape("module", "module", "module", box, ("bias", "input"), "bias", (205.0, lower - 12))
    yield _Shape("module-ground", "ground", "ground", ((BATTERY + 30, lower), (BATTERY + 30, bottom)),
                 ("module ground",), "driver")  # fmt: skip
    if "heater_supply" in rows:
        upper, low = rows["heater_supply"], rows["heater_control"]
        way, mark = _between_pins(upper, low), (ELEMENT - 44, (upper + low) / 2 + 12)
        yield _Shape("element", "element", "heater element", way, ("element",), "heater", mark)
        yield from _driver(upper if high_side else low, top + 6 if high_side else None)
    if "can_high" in rows:
        corners = ((ELEMENT - 60, ys[0] + 10), (ELEMENT + 130, ys[-1] - 10))
        yield _Shape(
            "unit", "unit", "control unit and probe", corners, ("unit", "tip"), "cell", (ELEMENT + 35, ys[-1] - 24)
        )
        return
    signal_rows = [y for name, y in rows.items() if name not in ("heater_supply", "heater_control")]
    if signal_rows:
        first, last = signal_rows[0], signal_rows[-1] if len(signal_rows) > 1 else signal_rows[0] + 30
        mark = (ELEMENT - 44, (first + last) / 2 + 8)
        yield _Shape("cell", "cell", "cell", _between_pins(first, last), ("cell",), "cell", mark)
        for y in signal_rows:
            yield _Shape(f"input.{y:g}", "input", "", ((110.0, y), (MODULE_RIGHT, y)))


def _driver(y: float, fed_at: float | None) -> Iterator[_Shape]:
    """The module's switch in the row of its wire: to ground, or to the feed, which then comes in at ``fed_at``."""
    other = y + 34 if fed_at is None else fed_at
    yield _Shape(
        "driver",
        "driver",
        "driver",
        ((90.0, other), (90.0, y), (MODULE_RIGHT, y)),
        ("driver",),
        "driver",
        (200.0, y + 3),
    )
    if fed_at is not None:
        fuse_out = SECOND_OF_BOX + 28
        way = ((fuse_out, FIRST_ROW), (fuse_out, fed_at), (90.0, fed_at))
        yield _Shape("module-feed", "wire", "", way, (), "supply")


def _between_pins(top: float, low: float) -> tuple[tuple[float, float], ...]:
    """The wires of what lies between two pins of the sensor, and its own two ends."""
    return (SENSOR, top), (ELEMENT, top), (ELEMENT, low), (SENSOR, low)


def _points(
    rows: dict[str, float], bottom: float, high_side: bool, pins: Mapping[str, Pin], order: FeedOrder | None
) -> Iterator[DrawnPoint]:
    def fixed(name: str, x: float, y: float, label: str) -> DrawnPoint:
        return _point(name, x, y, label, pins)

    top = FIRST_ROW
    yield fixed("battery.positive", BATTERY + 26, top, "+")
    for part, x in _box(order).items():
        half = 24 if part == "main_fuse" else 28
        yield fixed(f"{part}.in", x - half, top, "in")
        yield fixed(f"{part}.out", x + half, top, "out")
    yield fixed("battery.negative", BATTERY - 8, bottom, "−")
    yield fixed("module.power_ground", BATTERY + 30, bottom - RAIL + MODULE_BOTTOM, "ground")
    yield fixed("module.power_feed", BATTERY + 80, top + MODULE_TOP, "feed")
    yield fixed("chassis", BATTERY + 130, bottom, "chassis")
    yield fixed("sensor.shell", WIDTH - 120, list(rows.values())[-1] + 34, "shell")
    for number, (terminal, y) in enumerate(rows.items()):
        reaches_module = not _is_fed(terminal, high_side) and not _is_grounded(terminal, high_side)
        columns: Sequence[tuple[str, float, str]] = (("inline", INLINE, "in-line"), ("harness", HARNESS, "loom"),
                                                     ("sensor", SENSOR, "sensor"))  # fmt: skip
        if reaches_module:
            columns = (("module", MODULE_RIGHT + 38, "loom"), ("module_pin", MODULE_RIGHT, "pin"), *columns)
        for place, x, label in columns:
            name = f"{place}.{terminal}"
            yield _point(name, x, y, label, pins, terminal, number % 2 == 0)


def _point(
    name: str, x: float, y: float, label: str, pins: Mapping[str, Pin], terminal: str | None = None, upper: bool = True
) -> DrawnPoint:
    return DrawnPoint(name, x, y, label, words(name, pins), _value_at(name, x, y, upper), terminal)


def _value_at(name: str, x: float, y: float, upper: bool) -> TextAnchor:
    """Where a value stands, so that no two print over each other. upper: the point is of the upper wire of two that an element or a cell joins. The sensor's values stand outside of both."""
    place, _, side = name.partition(".")
    if place in ("main_fuse", "relay", "fuse"):
        return TextAnchor(x - (40 if name == "fuse.in" else 22), y + (29 if side == "in" else -46), "start")
    if place == "sensor":
        return TextAnchor(x + 12, y - 7 if upper else y + 20, "start")
    if name == "battery.positive":
        return TextAnchor(x - 86, y + 37, "start")
    offset = _VALUES.get(place)
    return TextAnchor(x + offset[0], y + offset[1], offset[2]) if offset else TextAnchor(x, y + 29, "middle")


#: Place of a point -> how far from it its value stands, to the right and below, and which of its ends lies there.
_VALUES: Mapping[str, tuple[float, float, Literal["start", "end"]]] = {
    "harness": (-22, 26, "end"), "inline": (-12, 29, "start"), "module": (6, 26, "start"), "module_pin": (-8, 26, "end"),
}  # fmt: skip


def _touched(job: Job) -> frozenset[str]:
    """Terminals and feed parts that a reading that counts was taken at."""
    return frozenset(word for item in job.counted for point in item.probe.points for word in point.split("."))


def _never_measured(shape: _Shape, touched: frozenset[str]) -> bool:
    """Whether no reading was taken at a wire, a pin or a part of the feed."""
    name = shape.id.partition(".")[2]
    if name:
        return name not in touched
    feeds = shape.id in ("feed", "main-fuse", "relay", "link", "fuse")
    return feeds and not touched & {"relay", "fuse", "heater_supply", "supply"}


def _with_state(shape: _Shape, verdict: Verdict, touched: frozenset[str]) -> DrawnElement:
    table = faults()
    own = [item for item in verdict.suspects if table[item.fault].site in shape.sites]
    belief = min(1.0, sum(item.probability for item in own))
    by = next((item.by for item in verdict.proven if item.part == shape.part), ())
    state: ElementState = "scenery"
    if own or shape.part:
        state = "unproven"
        if belief >= CONDEMNED or any(item.fault in verdict.found for item in own):
            state = "condemned"
        elif belief >= SUSPECT and verdict.judged:
            state = "suspect"
        elif by and belief < SUSPECT:
            state = "proven"
        elif _never_measured(shape, touched):
            state = "untouched"
    return DrawnElement(
        shape.id,
        shape.kind,
        shape.label,
        shape.path,
        state,
        round(belief, 4),
        percent(belief),
        by if state == "proven" else (),
        shape.part,
        shape.tick,
    )
