"""The vehicle from above: engine, cylinders, pipes, catalysts and every sensor, with room for every label.

Units are those of a sheet ``WIDTH`` by ``HEIGHT``; the vehicle's front is up. What is not known is drawn the usual way.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

from dianoia.case.types import Vehicle, VehicleEngine
from dianoia.vehicle.questions import questions
from dianoia.vehicle.types import Box, Placed, PlacedSensor, Plan, Role
from dianoia.vehicle.words import bank_side, has_two_banks, place_words, sides

WIDTH, HEIGHT = 340.0, 560.0
MIDDLE = WIDTH / 2
ENGINE_Y = 110.0
#: Where pipes leave the engine bay, where the first sensor sits, and how long a stretch with a catalyst is.
PIPE_TOP, FIRST_SENSOR, CATALYST, STRETCH = 196.0, 214.0, 46.0, 108.0
LABEL_WIDTH, LABEL_HEIGHT = 72.0, 22.0
TAIL = 540.0
#: Distance of a bank's pipe from the middle where there are two.
APART = 44.0


@dataclass(frozen=True)
class _Bank:
    """A bank of cylinders."""

    number: int
    cylinders: tuple[int, ...]
    """Their numbers."""
    spots: tuple[tuple[float, float], ...]
    """Their centres."""
    x: float
    """Its pipe."""
    labels_left: bool
    """Of the pipe."""


def plan(vehicle: Vehicle, coded: tuple[str, ...], nox: bool) -> Plan:
    """The drawing for a vehicle. coded: addresses of the sensors in question; nox: whether they are NOx sensors."""
    engine = vehicle.engine or VehicleEngine()
    two = has_two_banks(engine, max((int(address[1]) for address in coded), default=1))
    banks = _banks(engine, two)
    left, right = sides(vehicle)
    scr = nox or bool(engine.exhaust and engine.exhaust.scr)
    body = Placed("body", "", Box(28.0, 14.0, WIDTH - 56, HEIGHT - 28))
    parts = [body, *_pipes(engine, banks, scr), *_engine(banks)]
    return Plan(
        WIDTH, HEIGHT, tuple(parts), tuple(_sensors(vehicle, banks, coded, scr)), tuple(questions(vehicle)), left, right
    )


def _banks(engine: VehicleEngine, two: bool) -> list[_Bank]:
    """One entry for each bank of sensors. two: whether there are two."""
    # two banks have a cylinder each, whatever was entered
    count = max(engine.cylinders or (4 if engine.layout in (None, "inline") else 6), 2 if two else 1)
    rows = _rows(engine, count, two)
    if not two:
        numbers = tuple(range(1, count + 1))
        return [_Bank(1, numbers, tuple(spot for row in rows for spot in row), MIDDLE, labels_left=False)]
    half = len(rows[0])
    first_is_left = _first_is_left(engine)
    return [
        _Bank(1, tuple(range(1, half + 1)), rows[0], MIDDLE - APART if first_is_left else MIDDLE + APART, first_is_left),
        _Bank(2, tuple(range(half + 1, count + 1)), rows[1], MIDDLE + APART if first_is_left else MIDDLE - APART,
              not first_is_left),
    ]  # fmt: skip


def _first_is_left(engine: VehicleEngine) -> bool:
    """Whether bank 1's pipe is drawn on the left. For banks in front and behind, the rear one's pipe is."""
    side = bank_side(engine, 1)
    if engine.layout == "inline":
        return side not in ("rear", "right")
    return side in ("left", "rear", None)


def _rows(engine: VehicleEngine, count: int, two: bool) -> list[tuple[tuple[float, float], ...]]:
    """Centres of the cylinders: of bank 1's row, then bank 2's; one row where the engine is inline with one bank."""
    across = engine.mounting == "transverse"
    if engine.layout in (None, "inline"):
        row = _line(count, across, 0.0)
        if not two:
            return [row]
        half = (count + 1) // 2
        parts = [row[:half], row[half:]]
        return parts if bank_side(engine, 1) in (None, "front", "left") else parts[::-1]
    first, offset = (count + 1) // 2, 24.0
    side = bank_side(engine, 1)
    sign = 1.0 if side in ("right", "rear") or (side is None and across) else -1.0
    return [_line(first, across, sign * offset), _line(count - first, across, -sign * offset)]


def _line(count: int, across: bool, offset: float) -> tuple[tuple[float, float], ...]:
    step = min(30.0, (230.0 if across else 140.0) / max(count - 1, 1))
    start = -step * (count - 1) / 2
    if across:
        return tuple((MIDDLE + start + step * i, ENGINE_Y + offset) for i in range(count))
    return tuple((MIDDLE + offset, ENGINE_Y + start + step * i) for i in range(count))


def _engine(banks: list[_Bank]) -> Iterator[Placed]:
    xs = [x for bank in banks for x, _ in bank.spots]
    ys = [y for bank in banks for _, y in bank.spots]
    yield Placed("engine", "", Box(min(xs) - 20, min(ys) - 20, max(xs) - min(xs) + 40, max(ys) - min(ys) + 40))
    for bank in banks:
        size = _bore(bank)
        for number, (x, y) in zip(bank.cylinders, bank.spots, strict=True):
            shared = None if len(banks) == 1 else bank.number
            yield Placed("cylinder", str(number), Box(x - size / 2, y - size / 2, size, size), bank=shared)


def _bore(bank: _Bank) -> float:
    """How large a cylinder can be drawn without touching the next."""
    spots = sorted(bank.spots)
    steps = [abs(b[0] - a[0]) + abs(b[1] - a[1]) for a, b in pairwise(spots) if a[0] == b[0] or a[1] == b[1]]
    return min(22.0, *(step - 2.0 for step in steps if step > 0)) if steps else 22.0


def _pipes(engine: VehicleEngine, banks: list[_Bank], scr: bool) -> Iterator[Placed]:
    catalysts = _catalysts(engine)
    for bank in banks:
        start = _outlet(bank)
        yield Placed("manifold", "", path=(start, (bank.x, PIPE_TOP)), bank=bank.number)
        end = _end_of(bank, banks, engine)
        yield Placed("pipe", "", path=((bank.x, PIPE_TOP), *end), bank=bank.number)
        if scr:
            yield from _scr(bank)
            continue
        for index in range(catalysts):
            top = FIRST_SENSOR + 26 + index * STRETCH
            yield Placed("catalyst", "cat", Box(bank.x - 18, top, 36, CATALYST), bank=bank.number)


def _scr(bank: _Bank) -> Iterator[Placed]:
    yield Placed("catalyst", "oxi/DPF", Box(bank.x - 34, 212.0, 68, 46), bank=bank.number)
    yield Placed("doser", "doser", Box(bank.x - 34, 322.0, 68, 24), bank=bank.number)
    yield Placed("scr", "SCR", Box(bank.x - 34, 372.0, 68, 60), bank=bank.number)


def _outlet(bank: _Bank) -> tuple[float, float]:
    """Where the manifold leaves the cylinders: the end of the row that lies nearest the pipe."""
    return min(bank.spots, key=lambda spot: (-spot[1], abs(spot[0] - bank.x)))


def _end_of(bank: _Bank, banks: list[_Bank], engine: VehicleEngine) -> tuple[tuple[float, float], ...]:
    joined = len(banks) == 2 and (engine.exhaust is None or engine.exhaust.merged is not False)
    if not joined:
        return ((bank.x, TAIL),)
    return ((bank.x, 490.0), (MIDDLE, 516.0), (MIDDLE, TAIL))


def _catalysts(engine: VehicleEngine) -> int:
    known = engine.exhaust.catalysts_in_row if engine.exhaust else None
    return min(max(1 if known is None else known, 0), 2)


def _positions(engine: VehicleEngine, scr: bool) -> dict[int, float]:
    """Sensor position -> its y."""
    if scr:
        return {1: 290.0, 2: 456.0}
    found = {1: FIRST_SENSOR, 2: FIRST_SENSOR + 26 + CATALYST + 18}
    if _catalysts(engine) == 2:
        found[3] = found[2] + STRETCH
    return found


def _sensors(vehicle: Vehicle, banks: list[_Bank], coded: tuple[str, ...], scr: bool) -> Iterator[PlacedSensor]:
    engine = vehicle.engine or VehicleEngine()
    positions = _positions(engine, scr)
    for address in coded:
        if int(address[3]) not in positions:
            positions[int(address[3])] = max(positions.values()) + 60
    numbers = [bank.number for bank in banks]
    for bank in banks:
        for position, y in sorted(positions.items()):
            address = f"B{bank.number}S{position}"
            x = bank.x - LABEL_WIDTH - 24 if bank.labels_left else bank.x + 24
            yield PlacedSensor(
                address, bank.x, y, Box(x, y - LABEL_HEIGHT / 2, LABEL_WIDTH, LABEL_HEIGHT),
                place_words(vehicle, bank.number, position, scr), _role(address, coded, numbers),
            )  # fmt: skip


def _role(address: str, coded: tuple[str, ...], banks: list[int]) -> Role:
    if address in coded:
        return "coded"
    twins = {f"B{3 - int(item[1])}{item[2:]}" for item in coded if len(banks) == 2}
    return "twin" if address in twins else "other"
