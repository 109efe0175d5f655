"""The path from the battery to the plug, its points in their order, and the faults between two of them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dianoia.case.measures import Probe
from dianoia.case.observed import Observed
from dianoia.case.terms import FeedOrder

#: Of a fault: the stretch of the path that it lies in. A resistance in the supply may lie anywhere up to the fuse box's last point.
_IN: Mapping[str, str] = {
    "supply-open": "main", "supply-high": "box", "relay-open": "relay", "fuse-blown": "fuse", "wire-open:heater_supply": "loom",
    "wire-high:heater_supply": "loom", "wire-short-ground:heater_supply": "loom", "wire-open:supply": "loom", "wire-high:supply": "loom",
    "wire-short-ground:supply": "loom",
}  # fmt: skip
#: Of a fault that may lie anywhere from the battery on: how far, as a place of the path, from its end where negative.
_LAST_POINT: Mapping[str, int] = {"main": 3, "box": -2}
_GROUNDS = ("battery.negative", "chassis", "module.power_ground")
#: A feed with less than this share of the battery's voltage is bad, with more than the other one good under load.
BAD_SHARE, GOOD_SHARE = 0.75, 0.9


@dataclass(frozen=True)
class Stretch:
    """A stretch of the feed between two points."""

    last_good: str
    """Points of the path."""
    first_bad: str
    """Points of the path."""
    faults: tuple[str, ...]
    """Faults that lie between the two points."""


def paths(order: FeedOrder | None, terminal: str) -> list[tuple[str, ...]]:
    """The ways the feed may run. order: of relay and fuse; None for not known, and then either may come first."""
    orders: tuple[FeedOrder, ...] = (order,) if order else ("relay-fuse", "fuse-relay")
    return [path(each, terminal) for each in orders]


def path(order: FeedOrder, terminal: str) -> tuple[str, ...]:
    """The points from the battery to the plug."""
    parts = ("fuse", "relay") if order == "fuse-relay" else ("relay", "fuse")
    return (
        "battery.positive",
        *(f"{part}.{side}" for part in ("main_fuse", *parts) for side in ("in", "out")),
        f"harness.{terminal}",
    )


def stretch(
    readings: Sequence[tuple[int, Observed]], ways: Sequence[Sequence[str]], battery_v: float
) -> Stretch | None:
    """The bad stretch of the feed; where it may run in two ways, with what lies in it either way. None where no point is read bad."""
    found = [item for points in ways if (item := _stretch(readings, points, battery_v)) is not None]
    if not found:
        return None
    return Stretch(
        found[0].last_good, found[0].first_bad, tuple(dict.fromkeys(name for item in found for name in item.faults))
    )


def _stretch(readings: Sequence[tuple[int, Observed]], points: Sequence[str], battery_v: float) -> Stretch | None:
    """Between the last point of the path that is read good, or the battery, and the first that is read bad; None where none is."""
    bad = [
        place
        for place, point in enumerate(points)
        if any(_shows(item, point, battery_v) is False for _, item in readings)
    ]
    if not bad or bad[0] == 0:
        return None
    good = [
        place for place, point in enumerate(points[: bad[0]])
        if place == 0 or any(_shows(item, point, battery_v) for _, item in readings)
    ]  # fmt: skip
    first, last = good[-1], bad[0]
    between = tuple(name for name, part in _IN.items() if _lies_in(part, points, first, last))
    return Stretch(points[first], points[last], between)


def dividing(points: Sequence[str], found: Stretch) -> list[str]:
    """The points inside a stretch, the one that divides it best first."""
    first, last = points.index(found.last_good), points.index(found.first_bad)
    middle = (first + last) / 2
    return sorted(points[first + 1 : last], key=lambda point: abs(points.index(point) - middle))


def _lies_in(part: str, points: Sequence[str], first: int, last: int) -> bool:
    harness = len(points) - 1
    ends = {
        "loom": (harness - 1, harness),
        "relay": (_at(points, "relay.in"), _at(points, "relay.out")), "fuse": (_at(points, "fuse.in"), _at(points, "fuse.out")),
    }  # fmt: skip
    if part in _LAST_POINT:
        return first < _LAST_POINT[part] % len(points)
    start, end = ends[part]
    return first <= start and end <= last


def _at(points: Sequence[str], point: str) -> int:
    return list(points).index(point)


def _shows(item: Observed, point: str, battery_v: float) -> bool | None:
    """True where a point of the feed is good under load, False where it is bad; None where a reading does not tell."""
    probe = item.probe
    if probe.of is not None or probe.key != "running" or point not in probe.points:
        return None
    if not set(probe.points) & set(_GROUNDS):
        return None
    if probe.is_lamp:
        return {"bright": True, "flashing": None, "dim": False, "off": False}.get(str(item.value))
    if not probe.reads_volts or item.number is None:
        return None
    share = abs(item.number) / battery_v
    if share < BAD_SHARE:
        return False
    return True if share > GOOD_SHARE and (_loaded(probe) or point == "battery.positive") else None


def _loaded(probe: Probe) -> bool:
    return probe.loaded or probe.setting.connector == "mated"
