"""Cars and instruments that do not share the engine's model."""

from random import Random
from typing import Any

from dianoia.families.types import Family
from dianoia.simulated.car import Car, new_car
from dianoia.simulated.engine import new_engine
from dianoia.simulated.instruments import Bench
from dianoia.simulated.sensor import new_sensor


def car_of(seed: int, family: Family = "switching-4w", **changed: Any) -> Car:
    """A sound car of a seed, with a front and a rear sensor."""
    random = Random(seed)
    volts = 24.0 if family.startswith("nox") and seed % 2 else 12.0
    front = new_sensor(random, "B1S1", family, volts)
    rear = new_sensor(random, "B1S2", family if family.startswith("nox") else "switching-4w", volts)
    for name, value in changed.items():
        setattr(front, name, value)
    return new_car(random, volts, front, {"B1S2": rear}, new_engine(random))


def bench_of(car: Car) -> Bench:
    """Instruments without errors."""
    return Bench(car, Random(1), 8.0, 0.0, 1.0, 1.0, 1.0)
