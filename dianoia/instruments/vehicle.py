"""A simulated vehicle: the second car in time with a fault in it, and what a technician can do to it.

>>> vehicle = SimulatedVehicle("switching-4w", ("element-open",), 7)
>>> vehicle.turn(key="running"); vehicle.wait(30.0)
>>> vehicle.read({"measure": "scan", "pid": "heater_current"}).value
'0.00 A'
"""

from collections.abc import Mapping, Sequence
from copy import deepcopy
from dataclasses import dataclass, replace
from random import Random
from typing import Any, Literal, get_args

from dianoia.errors import RefusedInput, refuse
from dianoia.families.types import Family
from dianoia.instruments.interface import Display
from dianoia.simulated.car import new_car
from dianoia.simulated.engine import new_engine
from dianoia.simulated.faults import FAULTS, Fault, of_sensor
from dianoia.simulated.job import Yard, noticed, twins_of
from dianoia.simulated.live import LiveCar
from dianoia.simulated.live_bench import live_bench
from dianoia.simulated.looks import seen
from dianoia.simulated.sensor import Sensor, kind_of, new_sensor

#: Draws of a car and its fault until the module would notice it.
TRIES = 200
#: Longest wait at once, in seconds.
MOST_WAIT_S = 3600.0
#: What can be read of it.
MEASURES = ("voltage", "resistance", "current", "lamp", "scope", "scan", "trace", "inspect")
#: Live values of NOx sensors; all others are of oxygen and air-fuel sensors.
NOX_VALUES = ("nox", "o2", "nox_status", "can_messages")
#: Seeds.
MOST_SEED = 2**32


@dataclass(frozen=True)
class VehicleRequest:
    """Which simulated vehicle: the same request gives the same vehicle."""

    family: Family
    """Of the sensor in question."""
    faults: tuple[str, ...]
    """Names of what is wrong, none for a healthy vehicle."""
    seed: int
    """Anything that varies from vehicle to vehicle follows from it."""
    address: str | None = None
    """Sensor by bank and position; None to draw one that the fault can befall."""
    system_v: float | None = None
    """12 or 24; None for what the family usually has."""
    heater_switch: Literal["low-side", "high-side"] | None = None
    """Which end of the heater the module switches; None to draw it, as with all that follows."""
    heater_drive: Literal["steady", "pwm"] | None = None
    """How it drives it."""
    bias_v: float | None = None
    """The module's bias on the signal wire, in volts."""
    heater_ohms_20c: tuple[float, float] | None = None
    """Between what ends the heater's cold resistance lies, in ohms."""
    feed_live: Literal["always", "key-on", "running"] | None = None
    """When the feed has voltage."""
    feed_order: Literal["relay-fuse", "fuse-relay"] | None = None
    """What comes first from the battery."""
    sensor_banks: int | None = None
    """1 or 2."""


class SimulatedVehicle:
    """One vehicle, its instruments and its clock. Only ``wait`` and ``record`` let time go by."""

    def __init__(
        self, family: Family, faults: Sequence[str], seed: int, address: str | None = None, **known: Any
    ) -> None:
        self.request = VehicleRequest(family, tuple(faults), seed, address, **known)
        self.yard = yard_of(self.request)
        self.live = LiveCar(self.yard.car)
        self.bench = live_bench(self.live, seed)

    @property
    def sensor(self) -> Sensor:
        """The sensor in question."""
        return self.live.sensor

    # ---- what is done

    def turn(self, **changes: Any) -> None:
        """Set key, plugs, engine speed, leads or conditions, see ``LiveCar.set``. Raises RefusedInput, naming the field."""
        if "of" in changes:
            address = changes.pop("of") or self.sensor.address
            self._known(address)
            self.live.work_on(address)
        load = changes.pop("load", None)
        if "conditions" in changes:
            changes["conditions"] = frozenset(changes["conditions"])
        self.live.set(**changes)
        if load is not None:
            self._load(float(load))

    def _load(self, share: float) -> None:
        """How hard the engine is worked, from idle (0) to full load (1): its exhaust and coolant warm up by it."""
        if not 0.0 <= share <= 1.0:
            raise refuse("load", "0 to 1", f"{share:g}")
        if share and self.live.setup.key not in ("running", "cranking"):
            raise refuse("load", "a running engine", f"{share:g} with the key {self.live.setup.key}")
        self.live.load = share

    def wait(self, seconds: float) -> None:
        """Let time go by. Raises RefusedInput for more than an hour at once."""
        if not 0.0 <= seconds <= MOST_WAIT_S:
            raise refuse("seconds", f"0 to {MOST_WAIT_S:.0f}", f"{seconds:g}")
        self.live.advance(seconds)

    def mend(self, component: str) -> None:
        """Take away what is wrong with a component, as a repair does; wrongly mended, the fault stays."""
        before = self.yard.truth
        self.yard.mend(component)
        if self.yard.truth != before:
            self.live.refit(self.yard.car)

    # ---- a meter, a lamp, a clamp, a scope's figures, a scan tool's value

    def read(self, probe: Mapping[str, Any], span: bool = False) -> Display:
        """What the instrument shows now and the state that belongs to it."""
        asked = dict(probe)
        if asked.get("of") not in ("known-good", "new", "old"):
            self._known(asked.get("of"))
        self._check(asked)
        looked = asked["measure"] == "inspect"
        value = seen(self.live, str(asked.get("target")), asked.get("at")) if looked else self.bench.read(asked, span)
        if value is None:
            raise refuse("reading", "something that this vehicle shows as it stands", _named(asked))
        return Display(value, {} if looked else self.bench.said(asked))

    def moves(self, probe: Mapping[str, Any]) -> str:
        """How what was watched moved: ``steady``, ``slow`` or ``switching``."""
        return self.bench.moves(self.bench.sensor(probe.get("of")))

    def _known(self, address: object) -> None:
        names = [sensor.address for sensor in self.live.sensors]
        if address is not None and address not in names:
            raise refuse("of", "one of " + ", ".join(names), address)

    def _check(self, probe: Mapping[str, Any]) -> None:
        if probe.get("measure") not in MEASURES:
            raise refuse("measure", "one of " + ", ".join(MEASURES), probe.get("measure"))
        sensor = self.bench.sensor(probe.get("of"))
        state = self.live.stood(sensor)
        shown = probe.get("pid") or probe.get("signal")
        if shown not in (None, "battery_voltage") and (shown in NOX_VALUES) != (sensor.kind == "nox"):
            raise refuse("pid", f"a live value of {sensor.address}", shown)
        points = [str(probe[name]) for name in ("red", "black", "at") if name in probe]
        inside = [point for point in points if point.startswith("sensor.") and point != "sensor.shell"]
        if inside and state.connector == "mated":
            raise refuse("connector", f"unplugged: {inside[0]} is reached only then", "mated")
        if probe["measure"] == "resistance" and state.key != "off":
            raise refuse("key", "off: an ohmmeter on a live circuit shows nonsense", state.key)
        if probe["measure"] in ("scan", "trace") and state.key == "off":
            raise refuse("key", "on or running, so that the module answers the scan tool", "off")

    # ---- a scan tool

    def codes(self) -> list[dict[str, str]]:
        """Codes with status and failure type."""
        self._awake()
        return [
            {"code": item.code, "status": item.status, "failure_type": item.failure_type}
            for item in self.live.memory.codes
        ]

    def monitors(self) -> Mapping[str, str]:
        """Monitor -> ``complete`` or ``incomplete``."""
        self._awake()
        return self.live.memory.monitors

    def clear_codes(self) -> None:
        """Clear codes, monitors and learnt values."""
        self._awake()
        self.live.clear_codes()

    def command(self, name: str, on: bool) -> None:
        """Begin or end a routine of the module."""
        kept = self.live.setup.conditions
        self.turn(conditions=kept | {name} if on else kept - {name})

    def _awake(self) -> None:
        if self.live.setup.key == "off":
            raise refuse("key", "on or running, so that the module answers the scan tool", "off")


def _named(probe: Mapping[str, Any]) -> str:
    return str(
        probe.get("pid") or probe.get("signal") or " to ".join(str(probe.get(name, "")) for name in ("red", "black"))
    )


def slug(fault: Fault) -> str:
    """A fault's name in one word, as a command line takes it: ``element-open``."""
    return fault.name.lower().replace(" ", "-").replace("'", "")


def fault_named(name: str) -> Fault:
    """A fault of the second car by its one-word name. Raises RefusedInput for an unknown one."""
    for item in FAULTS:
        if name in (slug(item), item.name):
            return item
    raise refuse("fault", "one of " + ", ".join(map(slug, FAULTS)), name)


def yard_of(request: VehicleRequest) -> Yard:
    """The car of a request with its faults struck into it. Raises RefusedInput, naming the field."""
    if request.family not in get_args(Family):
        raise refuse("family", "one of " + ", ".join(get_args(Family)), request.family)
    if not 0 <= request.seed < MOST_SEED:
        raise refuse("seed", f"a whole number from 0 to {MOST_SEED - 1}", request.seed)
    if request.address is not None and request.address not in addresses(request.family):
        raise refuse("of", "one of " + ", ".join(addresses(request.family)), request.address)
    if request.system_v not in (None, 12.0, 24.0):
        raise refuse("system_v", "12 or 24", request.system_v)
    faults = [fault_named(name) for name in request.faults]
    for number in range(TRIES):
        random = Random(f"vehicle/{request.family}/{request.seed}/{number}")
        made = _drawn(random, request, faults)
        if made is not None and noticed(made):
            return made
    listed = ", ".join(request.faults)
    raise refuse(
        "fault", f"one that can befall a sensor of {request.family} at {request.address or 'any place'}", listed
    )


def addresses(family: Family) -> tuple[str, ...]:
    """Where a vehicle of this kind can have the sensor in question."""
    kind = kind_of(family)
    if kind == "nox":
        return ("B1S1", "B1S2")
    return ("B1S1", "B2S1") if kind in ("current", "two-cell") else ("B1S1", "B1S2", "B2S1", "B2S2")


def _drawn(random: Random, request: VehicleRequest, faults: Sequence[Fault]) -> Yard | None:
    """One car; None where the faults cannot befall it."""
    volts = request.system_v or (24.0 if kind_of(request.family) == "nox" else 12.0)
    places = [
        place
        for place in addresses(request.family)
        if request.address in (None, place) and all(int(place[3]) in item.positions for item in faults)
    ]
    if not places:
        return None
    address = random.choice(places)
    sensor = new_sensor(random, address, request.family, volts)
    _as_known(random, sensor, request)
    if any(item not in of_sensor(sensor) for item in faults):
        return None
    twins = twins_of(random, sensor, volts)
    banks = 2 if any(name.startswith("B2") for name in (address, *twins)) else 1
    if sensor.kind != "nox" and request.sensor_banks not in (None, banks):
        return None
    sound = new_car(random, volts, sensor, twins, new_engine(random))
    sound.feed.live = request.feed_live or sound.feed.live
    sound.feed.order = request.feed_order or sound.feed.order
    return Yard(deepcopy(sound), [(item, random.getrandbits(32)) for item in faults])


def _as_known(random: Random, sensor: Sensor, request: VehicleRequest) -> None:
    """Make a drawn sensor what is known of it."""
    if sensor.element is None:
        return
    sensor.switch = request.heater_switch or sensor.switch
    if request.heater_drive is not None and request.heater_drive != sensor.drive:
        sensor.drive = request.heater_drive
        sensor.duty = 1.0 if sensor.drive == "steady" else random.uniform(0.4, 0.9)
        sensor.ramp_s = 0.0 if sensor.drive == "steady" else random.uniform(0.0, 12.0)
    if request.bias_v is not None and sensor.kind == "switching":
        sensor.bias_v = request.bias_v
    if request.heater_ohms_20c is not None:
        ohms = random.uniform(*request.heater_ohms_20c)
        # the same losses and heat, so that it still reaches its temperature by about the same power
        scale = sensor.element.ohms_20c / ohms
        sensor.element.ohms_20c = sensor.made_for_ohms = ohms
        sensor.element.loss_w_k *= scale
        sensor.element.heat_j_k *= scale


def request_with_fault(request: VehicleRequest, wanted: str, random: Random) -> VehicleRequest:
    """The same vehicle with one fault that sets a code of a kind (``heater``, ``signal``, ``lean`` ...), by how often each is.

    Where none of that kind can befall the sensor, it is one of any kind.
    """
    sensor = yard_of(request).sound.sensor
    found = of_sensor(sensor)
    listed = [item for item in found if item.code == wanted] or found
    while listed:
        pick = random.choices(listed, [item.weight for item in listed])[0]
        named = replace(request, faults=(slug(pick),), address=sensor.address)
        try:
            yard_of(named)
        except RefusedInput:
            listed = [item for item in listed if item is not pick]
            continue
        return named
    return request
