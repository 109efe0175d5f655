"""One job: a car with something wrong, a person with a style, and the case file that comes of it.

Everything follows from the seed and the job's number. A fault is struck into a sound car by its own random stream, so that a
repair is the same car with one fault less.
"""

from copy import deepcopy
from dataclasses import dataclass, field
from random import Random
from typing import Any

from dianoia.families.types import Family
from dianoia.simulated.car import Car, new_car
from dianoia.simulated.engine import new_engine
from dianoia.simulated.faults import SWAYS, WRONG_PART, Fault, picked
from dianoia.simulated.instruments import Bench, new_bench
from dianoia.simulated.module import HEATER_CODES, NOX_CODES, SIGNAL_CODES
from dianoia.simulated.parts import between
from dianoia.simulated.people import STYLES, Person
from dianoia.simulated.sensor import TERMINALS, Sensor, kind_of, new_sensor
from dianoia.simulated.signal_people import NoxPerson, SignalPerson
from dianoia.simulated.state import State

#: Families by how many of a hundred jobs they are.
FAMILIES: tuple[tuple[Family, int], ...] = (
    ("switching-4w", 36), ("switching-3w", 6), ("switching-1w", 4), ("switching-2w", 2), ("titania-4w", 6), ("airfuel-4w", 16),
    ("wideband-5w", 9), ("wideband-6w", 7), ("nox-can-4w", 9), ("nox-can-5w", 5),
)  # fmt: skip
#: Codes of a signal that stands lean, rich, by address.
STUCK = {"B1S1": ("P2195", "P2196"), "B2S1": ("P2197", "P2198"), "B1S2": ("P2270", "P2271"), "B2S2": ("P2272", "P2273")}
VISITS, MOST = 4, 45
DEPOT = ("Valley bus", "School bus", "Ambulance", "Road crew van", "Snow plough", "Forest tender", "Post van")


@dataclass
class Job:
    """One job."""

    number: int
    family: Family
    style: str
    truth: frozenset[str]
    """Components at fault."""
    faults: tuple[str, ...]
    """Their names."""
    ordered: list[str]
    """What the person ordered, in turn."""
    first: int
    """How many readings stood at the first order."""
    right_at_the_end: bool
    wrongly: frozenset[int]
    """Places of readings noted wrongly."""
    case: dict[str, Any]
    """The case file, all visits in it."""


@dataclass
class Yard:
    """A sound car and what was struck into it."""

    sound: Car
    present: list[tuple[Fault, int]]
    """What is still wrong."""
    wrong_part: float = 1.0
    sways: bool = False
    car: Car = field(init=False)

    def __post_init__(self) -> None:
        self.car = self._struck()

    def _struck(self) -> Car:
        car = deepcopy(self.sound)
        for fault, seed in self.present:
            fault.strike(car, Random(seed))
        if self.wrong_part != 1.0 and car.sensor.element is not None:
            car.sensor.element.ohms_20c *= self.wrong_part
        return car

    @property
    def truth(self) -> frozenset[str]:
        """Components at fault."""
        wrong = {"sensor"} if self.wrong_part != 1.0 else set()
        return frozenset({fault.component for fault, _ in self.present} | wrong)

    def mend(self, component: str) -> None:
        """Take away what is wrong with a component. A fuse alone over a short blows again."""
        self.present = [item for item in self.present if item[0].component != component]
        if component == "sensor":
            self.wrong_part = 1.0
        self.car = self._struck()


def yard(random: Random, family: Family) -> Yard:
    """A car with a sensor of a family, and what is wrong with it; drawn again until the module would notice."""
    for _ in range(40):
        kind = kind_of(family)
        volts = 24.0 if kind == "nox" and random.random() < 0.6 else 12.0
        address = f"B{1 if kind == 'nox' or random.random() < 0.6 else 2}S{1 if kind in ('current', 'two-cell') or random.random() < 0.55 else 2}"
        sensor = new_sensor(random, address, family, volts)
        sound = new_car(random, volts, sensor, twins_of(random, sensor, volts), new_engine(random))
        faults = picked(random, sensor)
        made = Yard(sound, [(fault, random.getrandbits(32)) for fault in faults])
        if kind != "nox" and sensor.element is not None and random.random() < WRONG_PART:
            made = Yard(sound, [], wrong_part=random.choice((0.4, 2.4)))
        made.sways = bool(faults) and faults[0].component == "wiring" and random.random() < SWAYS
        if noticed(made):
            return made
    return made


def twins_of(random: Random, sensor: Sensor, volts: float) -> dict[str, Sensor]:
    """The other sensors of a vehicle, by address."""
    if sensor.kind == "nox":
        other = f"B1S{3 - sensor.position}"
        return {other: new_sensor(random, other, sensor.family, volts)}
    banks = (1, 2) if sensor.bank == 2 or random.random() < 0.6 else (1,)
    rear: Family = (
        "switching-4w"
        if sensor.kind in ("current", "two-cell") or "heater_supply" not in TERMINALS[sensor.family]
        else sensor.family
    )
    found = {}
    for bank in banks:
        for position in (1, 2):
            address = f"B{bank}S{position}"
            if address != sensor.address:
                family = sensor.family if position == sensor.position else rear if position == 2 else "switching-4w"
                found[address] = new_sensor(random, address, family, volts)
    return found


def noticed(made: Yard) -> bool:
    """Whether a heater's fault is bad enough for the module to set a code."""
    heater = [fault for fault, _ in made.present if fault.code == "heater"]
    if not heater or heater[0].name in ("heaters crosswise",):
        return True
    return not made.car.plausible(made.car.sensor)


def _settled_amps(car: Car, sensor: Sensor) -> float:
    assert sensor.element is not None
    volts = car.solved(State(), sensor, sensor.driver != "open", 500.0)
    return abs(volts["sensor.heater_supply"] - volts["sensor.heater_control"]) / sensor.element.ohms(500.0)


def codes_of(random: Random, made: Yard) -> list[dict[str, str]]:
    """What the scan tool lists."""
    sensor = made.car.sensor
    kind = (
        made.present[0][0].code
        if made.present
        else ("nox-value" if sensor.kind == "nox" else "heater" if sensor.element is not None else "signal")
    )
    if kind in NOX_CODES:
        return [{"code": NOX_CODES[kind][sensor.position - 1], "status": "stored"}]
    if kind == "heater":
        circuit, low, high, plain = HEATER_CODES[sensor.address]
        number = random.choice((plain, plain, plain, circuit, low, high))
        return [{"code": f"P{number:04d}", "status": random.choice(("stored", "pending"))}]
    base, stuck = SIGNAL_CODES[sensor.address], STUCK[sensor.address]
    if sensor.kind in ("current", "two-cell") and kind == "signal":
        choices = (
            f"P{2237 if sensor.bank == 1 else 2240}",
            f"P{2243 if sensor.bank == 1 else 2247}",
            f"P{base + 4:04d}",
        )
        return [{"code": random.choice(choices), "status": "stored"}]
    number = {"slow": base + 3, "lean": base + 1, "rich": base + 2}.get(kind, random.choice((base, base + 4, base + 1)))
    if kind in ("lean", "rich") and random.random() < 0.5:
        return [{"code": stuck[0 if kind == "lean" else 1], "status": "stored"}]
    return [{"code": f"P{number:04d}", "status": "stored"}]


def work(seed: int, number: int) -> tuple[Job, Yard, Bench]:
    """The job of a number: its case with all visits, the yard as the person found it, and instruments at it."""
    random = Random(f"{seed}/{number}")
    family = random.choices([name for name, _ in FAMILIES], [weight for _, weight in FAMILIES])[0]
    made = yard(random, family)
    found = deepcopy(made)  # as it stood before anything was mended
    bench = new_bench(made.car, random)
    bench.other = made.sound if made.sways else None
    style = STYLES[number % len(STYLES)]
    head = header(random, made, style)
    ohms = head["sensor"].get("heater_ohms_20c")
    person_of = NoxPerson if kind_of(family) == "nox" else SignalPerson
    person = person_of(style, random.uniform(0.15, 0.95), bench, random, tuple(ohms) if ohms else None)
    truth, faults = (
        made.truth,
        tuple(fault.name for fault, _ in made.present) or (("wrong part",) if made.truth else ()),
    )
    ordered: list[str] = []
    first = 0
    for _ in range(VISITS):
        order = _satisfied(person, head["codes"][0]["code"])
        ordered.append(order)
        first = first or len(person.readings)
        if order == "none" or len(person.readings) > MOST:
            break
        person.done(order)
        made.mend(order)
        bench.car, bench.other = made.car, made.sound if made.sways and made.truth else None
        if not made.truth:
            _proven(person)
            break
    case = {**head, "readings": person.readings[:120]}
    return (
        Job(number, family, style, truth, faults, ordered, first, not made.truth, frozenset(person.wrongly), case),
        found,
        bench,
    )


def _satisfied(person: Person, code: str) -> str:
    if isinstance(person, NoxPerson):
        return person.signal()
    heater = int(code[1:]) in {number for numbers in HEATER_CODES.values() for number in numbers}
    assert isinstance(person, SignalPerson)
    return person.heater() if heater and person.sensor.element is not None else person.signal()


def _proven(person: Person) -> None:
    """After the repair: current or answer back, codes cleared and away."""
    if person.sensor.element is not None and person.sensor.kind != "nox":
        person.scan("heater_current", codes_cleared=True) if person.style != "basic-kit" else None
    person.readings.append({"measure": "act", "action": "clear-codes", "value": "not-returned"})


def header(random: Random, made: Yard, style: str) -> dict[str, Any]:
    """The case file but its readings: what this workshop knows of the vehicle."""
    car, sensor = made.sound, made.sound.sensor
    known: dict[str, Any] = {"bank": sensor.bank, "position": sensor.position}
    codes = codes_of(random, made)
    implied = sensor.family == "switching-4w" or (
        codes[0]["code"][:3] == "P22" and sensor.family in ("airfuel-4w", "wideband-6w")
    )
    if not implied or random.random() < 0.8:
        known |= {"family": sensor.family}
    if sensor.kind != "nox" and sensor.element is not None:
        if random.random() < 0.65:
            known |= {"heater_switch": sensor.switch, "heater_drive": sensor.drive}
        if random.random() < 0.6:
            middle = sensor.element.ohms_20c / between(random, (0.88, 1.12))
            known |= {
                "heater_ohms_20c": [round(0.8 * middle, 1), round(1.22 * middle, 1)],
                "spec_source": "depot data sheet",
            }
        if random.random() < 0.35:
            amps = _settled_amps(car, sensor)
            known |= {"heater_amps": [round(0.72 * amps, 2), round(1.35 * amps, 2)]}
    if sensor.kind == "switching" and random.random() < 0.45:
        known |= {"bias_v": sensor.bias_v}
    vehicle: dict[str, Any] = {
        "label": f"{random.choice(DEPOT)} {random.randint(1, 40)}", "year": random.randint(2002, 2022),
        "fuel": "diesel" if sensor.kind == "nox" else random.choice(("petrol", "petrol", "gas")), "system_voltage": round(car.system_v),
        "engine": {"cylinders": random.choice((4, 6, 8)), "sensor_banks": 2 if any(name.startswith("B2") for name in (sensor.address, *car.twins)) else 1},
    }  # fmt: skip
    if random.random() < 0.6:
        vehicle["feed_live"] = car.feed.live
    if random.random() < 0.6:
        vehicle["feed_order"] = car.feed.order
    return {
        "format": "dianoia-case/1", "title": "", "style": style, "vehicle": vehicle, "sensor": known,
        "codes": codes, "readings": [],
    }  # fmt: skip
