"""What goes wrong, how often, and how badly: every magnitude over its whole range, some come and go, some are on no list.

Prevalences are this car's own estimates of a mixed fleet's sensor codes (heaters and ageing cells lead, then wiring near the
exhaust, then feeds; modules are rare). They are not the engine's.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from random import Random

from dianoia.simulated.car import Car
from dianoia.simulated.parts import between, decades
from dianoia.simulated.sensor import Sensor
from dianoia.simulated.wiring import OPEN

Strike = Callable[[Car, Random], None]
ALL = ("switching", "titania", "current", "two-cell", "nox")
HEATED = ("switching", "titania", "current", "two-cell")


@dataclass(frozen=True)
class Fault:
    """A fault of the second car."""

    name: str
    """Its own."""
    component: str
    """What has to be mended."""
    weight: float
    """How often, of a code of that circuit."""
    kinds: tuple[str, ...]
    """Of sensor."""
    code: str
    """The circuit it sets a code of."""
    strike: Strike
    """What it does."""
    positions: tuple[int, ...] = (1, 2)


def _element(low: float, high: float) -> Strike:
    def strike(car: Car, random: Random) -> None:
        assert car.sensor.element is not None
        car.sensor.element.ohms_20c *= decades(random, low, high)

    return strike


def _element_open(car: Car, random: Random) -> None:
    assert car.sensor.element is not None
    # a cracked film: anything from some tens of ohms to nothing measurable
    car.sensor.element.ohms_20c = OPEN if random.random() < 0.55 else decades(random, 40.0, 5e6)


def _series(
    terminals: Sequence[str], low: float, high: float, places: Sequence[str] = ("near", "far", "pin")
) -> Strike:
    def strike(car: Car, random: Random) -> None:
        names = [name for name in terminals if name in car.sensor.wires]
        place = random.choice(list(places))
        size = OPEN if low >= OPEN else decades(random, low, high)
        car.sensor.wires[random.choice(names)].faults[place] = size

    return strike


def _scaled_series(terminals: Sequence[str]) -> Strike:
    """Corrosion that matters to this element: from where it takes a sixth of the power up."""

    def strike(car: Car, random: Random) -> None:
        hot = car.sensor.element.ohms(600.0) if car.sensor.element else 5.0
        _series(terminals, 0.09 * hot, 30.0 * hot)(car, random)

    return strike


def _short(points: Sequence[tuple[str, str]], low: float = 0.02, high: float = 60.0) -> Strike:
    def strike(car: Car, random: Random) -> None:
        own = [pair for pair in points if pair[0].partition(".")[2] in car.sensor.terminals]
        car.sensor.shorts.append((*random.choice(own), decades(random, low, high)))

    return strike


def _fuse(car: Car, random: Random) -> None:
    car.feed.blown = True


def _fuse_by_short(car: Car, random: Random) -> None:
    car.feed.blown = True
    feed = "heater_supply" if "heater_supply" in car.sensor.terminals else "supply"
    car.sensor.shorts.append((f"harness.{feed}", "chassis", decades(random, 0.02, 0.8)))


def _relay(car: Car, random: Random) -> None:
    car.feed.relay_dead = True


def _joint(car: Car, random: Random) -> None:
    hot = car.sensor.element.ohms(600.0) if car.sensor.element else 5.0
    car.feed.joints[random.choice(("main", "relay", "fuse", "strip"))] += decades(random, 0.09 * hot, 40.0 * hot)


def _module(field: str, value: object) -> Strike:
    return lambda car, random: setattr(car.sensor, field, value)


def _off(low: float, high: float) -> Strike:
    def strike(car: Car, random: Random) -> None:
        car.sensor.cell.off += between(random, (low, high))

    return strike


def _slow(car: Car, random: Random) -> None:
    cell, times = car.sensor.cell, decades(random, 5.0, 40.0)
    both = random.random() < 0.5
    cell.rise_s *= times if both or random.random() < 0.5 else 1.0
    cell.fall_s *= times if both or cell.rise_s < 0.12 else 1.0
    cell.rich_v -= between(random, (0.0, 0.2))


def _dead(car: Car, random: Random) -> None:
    car.sensor.cell.dead = True


def _shorted(car: Car, random: Random) -> None:
    car.sensor.cell.shorted_ohms = decades(random, 1.0, 400.0)


def _leak(car: Car, random: Random) -> None:
    where = car.engine.leak_front if car.sensor.position == 1 else car.engine.leak_rear
    where[car.sensor.bank] = decades(random, 0.04, 0.5)


def _mixture(sign: float) -> Strike:
    def strike(car: Car, random: Random) -> None:
        size = between(random, (0.22, 0.5)) if sign > 0 else between(random, (0.2, 0.4))
        everywhere = random.random() < 0.4  # fuel pressure, injectors; else air that is not metered, at idle
        for bank in (1, 2) if random.random() < 0.6 else (car.sensor.bank,):
            idle = sign * size
            car.engine.base_lean[bank] = (idle, idle if everywhere or sign < 0 else idle * 0.25)

    return strike


def _worn(car: Car, random: Random) -> None:
    car.engine.store[car.sensor.bank] = between(random, (0.0, 0.12))


def _ground_both(car: Car, random: Random) -> None:
    car.module_ground += decades(random, 0.5, 8.0)


def _water(car: Car, random: Random) -> None:
    heater = [name for name in car.sensor.terminals if name.startswith(("heater", "supply"))]
    others = [name for name in car.sensor.terminals if name not in heater] or heater
    car.sensor.shorts.append(
        (
            f"inline.{heater[0]}" if heater else "battery.positive",
            f"inline.{random.choice(others)}",
            decades(random, 300.0, 5e4),
        )
    )
    _series(car.sensor.terminals, 0.5, 40.0, ("near",))(car, random)


def _diode(car: Car, random: Random) -> None:
    car.sensor.diode = random.choice(
        [name for name in ("heater_supply", "heater_control") if name in car.sensor.terminals]
    )


def _nox_drift(car: Car, random: Random) -> None:
    car.sensor.nox_factor, car.sensor.nox_offset = decades(random, 0.4, 2.5), between(random, (30.0, 350.0))
    car.sensor.o2_factor = random.choice((0.7, 0.85, 1.15, 1.3))


def _bus(car: Car, random: Random) -> None:
    which = random.random()
    if which < 0.4:
        car.sensor.shorts.append(("harness.can_high", "harness.can_low", decades(random, 0.1, 20.0)))
    elif which < 0.7:
        car.sensor.shorts.append(
            (f"harness.{random.choice(('can_high', 'can_low'))}", "chassis", decades(random, 0.1, 30.0))
        )
    else:
        car.sensor.wires[random.choice(("can_high", "can_low"))].faults["near"] = OPEN


HEATER_WIRES = ("heater_supply", "heater_control")
CELL_WIRES = ("signal", "signal_return", "cell_positive", "cell_negative", "nernst", "virtual_ground", "pump")
FAULTS: tuple[Fault, ...] = (
    Fault("element open", "sensor", 34, HEATED, "heater", _element_open),
    Fault("element risen", "sensor", 7, HEATED, "heater", _element(1.5, 9.0)),
    Fault("element low", "sensor", 3, HEATED, "heater", _element(0.02, 0.45)),
    Fault("heater wire open", "wiring", 9, HEATED, "heater", _series(HEATER_WIRES, OPEN, OPEN)),
    Fault("heater wire corroded", "wiring", 9, HEATED, "heater", _scaled_series(HEATER_WIRES)),
    Fault("control to ground", "wiring", 2.5, HEATED, "heater", _short([("harness.heater_control", "chassis")])),
    Fault("control to battery", "wiring", 1.5, HEATED, "heater", _short([("harness.heater_control", "battery.positive")])),
    Fault("fuse blown by age", "supply", 6, HEATED, "heater", _fuse),
    Fault("fuse blown by a short", "wiring", 4, HEATED, "heater", _fuse_by_short),
    Fault("relay dead", "supply", 3, HEATED, "heater", _relay),
    Fault("feed joint burnt", "supply", 5, HEATED, "heater", _joint),
    Fault("driver open", "module", 3, HEATED, "heater", _module("driver", "open")),
    Fault("driver stuck on", "module", 1, HEATED, "heater", _module("driver", "stuck")),
    Fault("one-way pin", "wiring", 0.8, HEATED, "heater", _diode),
    Fault("water in the in-line plug", "wiring", 1, HEATED, "heater", _water),
    Fault("heaters crosswise", "wiring", 0.6, HEATED, "heater", _module("crossed_heater", True)),
    Fault("cell dead", "sensor", 16, HEATED, "signal", _dead),
    Fault("cell shorted", "sensor", 3, ("switching", "titania"), "signal", _shorted),
    Fault("cell slow", "sensor", 13, ("switching", "current", "two-cell"), "slow", _slow, (1,)),
    Fault("cell reads lean", "sensor", 5, ("switching", "current", "two-cell"), "lean", _off(0.01, 0.12), (1,)),
    Fault("cell reads rich", "sensor", 4, ("switching", "current", "two-cell"), "rich", _off(-0.1, -0.01), (1,)),
    Fault("signal wire open", "wiring", 9, HEATED, "signal", _series(CELL_WIRES, OPEN, OPEN)),
    Fault("signal wire corroded", "wiring", 3, HEATED, "signal", _series(CELL_WIRES, 2e4, 2e7)),
    Fault("signal to ground", "wiring", 4, ("switching", "current", "two-cell"), "signal",
          _short([(f"harness.{name}", "chassis") for name in ("signal", "cell_positive", "nernst")], 0.05, 300.0)),
    Fault("signal to the heater's feed", "wiring", 2, ("switching",), "signal",
          _short([("harness.signal", "harness.heater_supply")], 5.0, 2e4)),
    Fault("bias missing", "module", 1, ("switching", "titania", "current", "two-cell"), "signal", _module("bias_gone", True)),
    Fault("input dead", "module", 1, ("switching",), "signal", _module("input_dead", True)),
    Fault("exhaust leak", "exhaust", 9, ("switching", "current", "two-cell"), "lean", _leak),
    Fault("engine lean", "mixture", 11, ("switching", "current", "two-cell"), "lean", _mixture(1.0), (1,)),
    Fault("engine rich", "mixture", 7, ("switching", "current", "two-cell"), "rich", _mixture(-1.0), (1,)),
    Fault("catalyst worn", "catalyst", 6, ("switching",), "slow", _worn, (2,)),
    Fault("weak module ground", "wiring", 1, ("switching",), "signal", _ground_both),
    Fault("unit dead", "sensor", 16, ("nox",), "nox-messages", _module("unit_dead", True)),
    Fault("probe heater dead", "sensor", 14, ("nox",), "nox-heater", _module("probe_cold", True)),
    Fault("probe drifted", "sensor", 20, ("nox",), "nox-value", _nox_drift),
    Fault("NOx feed corroded", "wiring", 8, ("nox",), "nox-supply", _scaled_series(("supply", "ground"))),
    Fault("NOx feed open", "wiring", 6, ("nox",), "nox-supply", _series(("supply", "ground"), OPEN, OPEN)),
    Fault("NOx fuse", "supply", 6, ("nox",), "nox-supply", _fuse),
    Fault("NOx relay or joint", "supply", 5, ("nox",), "nox-supply", _joint),
    Fault("bus wires", "wiring", 8, ("nox",), "nox-messages", _bus),
    Fault("ammonia slips", "dosing", 6, ("nox",), "nox-value", lambda car, random: car.nox.update(slip=between(random, (80.0, 500.0))), (2,)),
    Fault("dosing too little", "dosing", 6, ("nox",), "nox-value", lambda car, random: car.nox.update(left=between(random, (0.35, 0.8))), (2,)),
)  # fmt: skip
#: Shares of jobs with two faults, with none, with one that comes and goes, and with a wrong part fitted before.
TWO, NONE, SWAYS, WRONG_PART = 0.04, 0.05, 0.08, 0.02


def of_sensor(sensor: Sensor) -> list[Fault]:
    """The faults that can befall a sensor of this kind and place."""
    heated = sensor.element is not None
    shell = sensor.cell_ends[1] is None
    return [
        item for item in FAULTS
        if sensor.kind in item.kinds and sensor.position in item.positions and (heated or item.code != "heater")
        and not (item.name == "signal to the heater's feed" and "heater_supply" not in sensor.terminals)
        and not (item.name == "control to ground" and sensor.switch == "high-side")
        and not (item.name == "weak module ground" and not shell)
    ]  # fmt: skip


def picked(random: Random, sensor: Sensor) -> list[Fault]:
    """What is wrong this time: mostly one thing, at times two, at times nothing any more."""
    listed = of_sensor(sensor)
    if random.random() < NONE:
        return []
    first = random.choices(listed, [item.weight for item in listed])[0]
    if random.random() >= TWO:
        return [first]
    rest = [item for item in listed if item.component != first.component]
    return [first, random.choices(rest, [item.weight for item in rest])[0]]
