"""The second car at one moment: what driver and technician have done to it, and what it answers.

It answers the same questions as ``Car``, for the moment at which it stands. Whatever a state says of time or temperature is
left aside: the car's own clock and temperatures count. ``live`` lets time go by.
"""

from dataclasses import fields, replace
from typing import Any

from dianoia.errors import refuse
from dianoia.simulated.car import Car
from dianoia.simulated.engine import STEP_S as MIXTURE_S
from dianoia.simulated.engine import MixtureLoop, Run, Sample, stretch
from dianoia.simulated.heat import (
    AMBIENT_C,
    DEW_POINT_C,
    PROBE_STABLE_S,
    Port,
    water_to_dry,
)
from dianoia.simulated.module import CodeMemory
from dianoia.simulated.monitors import EVERY_S
from dianoia.simulated.sensor import Sensor
from dianoia.simulated.sensor_state import VOLTS_MOVED, Ports, SensorState
from dianoia.simulated.state import State
from dianoia.simulated.wiring import UNIT_COMPLAINS, UNIT_WORKS, ceramic_ohms

#: What is done to the mixture.
STIMULI = ("rich", "lean", "snap", "fuel-cut", "fresh-air")
#: Conditions that a state may hold.
CONDITIONS = (*STIMULI, "heater-commanded", "signal-grounded", "control-grounded", "dosing-on", "dosing-off")
#: Engine speeds that it is driven at.
RPM = (500.0, 6500.0)


class CarAtMoment(Car):
    """The second car at one moment."""

    def __init__(self, car: Car) -> None:
        super().__init__(**{item.name: getattr(car, item.name) for item in fields(car)})
        self.setup = State(key="off")
        self._elsewhere = (self.setup, self.setup)
        self.worked_on = self.sensor.address
        self.now_s = self.since_s = self.changed_s = self.tests_at_s = self.load = 0.0
        self.volts, self.charge, self._volts_moved = self.resting_v, 1.0, VOLTS_MOVED
        self.coolant_c = AMBIENT_C
        self.cleared_s: float | None = None
        self.conditions_since: dict[str, float] = {}
        self.parts = {sensor.address: SensorState() for sensor in self.sensors}
        self.ports = {sensor.address: Ports() for sensor in self.sensors}
        self.loops: dict[int, MixtureLoop] = {}
        self.samples: dict[int, list[Sample]] = {}
        self.closed: dict[int, bool] = {}
        self.closed_s: dict[int, float] = {}
        self.memory = CodeMemory(self._supported())
        self._accepted: dict[str, bool] = {}
        self._new_engine()
        for sensor in self.sensors:
            self.parts[sensor.address].latched = not self.accepted(sensor)

    # ---- what it is made of

    @property
    def sensors(self) -> tuple[Sensor, ...]:
        """The sensor in question first."""
        return (self.sensor, *self.twins.values())

    def refit(self, car: Car) -> None:
        """Take over another car's parts (one that was repaired), with temperatures, clock and memory as they stand."""
        for item in fields(car):
            setattr(self, item.name, getattr(car, item.name))
        self._accepted.clear()
        self.ports = {sensor.address: Ports() for sensor in self.sensors}
        self._new_engine()

    def _supported(self) -> tuple[str, ...]:
        if self.sensor.kind == "nox":
            return ("nox",)
        heated = any(sensor.element is not None for sensor in self.sensors)
        return (*(("heater",) if heated else ()), "oxygen-sensor", "catalyst", "fuel-system")

    def _new_engine(self) -> None:
        """The loops of the banks anew; what the module has learnt stays."""
        learnt = {bank: loop.long_trim for bank, loop in self.loops.items()}
        self.loops.clear()
        for bank in () if self.sensor.kind == "nox" else sorted({sensor.bank for sensor in self.sensors}):
            pair = {item.position: item for item in self.sensors if item.bank == bank}
            front = pair.get(1) or pair[2]
            self.loops[bank] = MixtureLoop(self.engine, front, pair.get(2, front))
            self.loops[bank].long_trim = learnt.get(bank, 0.0)
            self.samples[bank] = []
            self.closed[bank], self.closed_s[bank] = False, 0.0

    # ---- what is done to it

    def set(self, **changes: Any) -> None:
        """Turn a key, pull a plug, lay a lead, force a mixture: any field of ``State`` but time and temperature.

        Raises RefusedInput, naming the field, where that cannot be done to a car as it stands.
        """
        if changes.get("battery") == "disconnected":
            changes.setdefault("key", "off")
        if changes.get("key") in ("off", "on"):
            # what an engine that stops ends by itself
            changes.setdefault("rpm", None)
            ended = {*STIMULI, "heater-commanded"} if changes["key"] == "off" else set(STIMULI)
            changes.setdefault("conditions", self.setup.conditions - ended)
        setup = replace(self.setup, **changes)
        _check(self.setup, setup)
        if setup.module != "mated" and setup.key == "running":
            setup = replace(setup, key="on", rpm=None, conditions=setup.conditions - {*STIMULI, "heater-commanded"})
        if setup.key == "running" != self.setup.key:
            setup = replace(setup, key="cranking")
        if setup.key != self.setup.key:
            self._key_turned(setup.key)
        if setup.battery != self.setup.battery:
            self.clear_codes()
        for name in setup.conditions - self.setup.conditions:
            self.conditions_since[name] = self.now_s
            if name == "heater-commanded":
                self._drive_anew()
        self.setup, self.changed_s = setup, self.now_s

    def _key_turned(self, key: str) -> None:
        self.since_s = self.now_s
        self.load = 0.0
        if key == "cranking":
            self.memory.new_cycle()
            self.tests_at_s = self.now_s + EVERY_S
        for sensor in self.sensors:
            part = self.parts[sensor.address]
            part.driven_s = part.bad_s = part.cold_s = 0.0
            part.tested = ""
            if key == "cranking" and self.accepted(sensor):
                part.latched = False  # the module tries anew at each start
            if key == "cranking" and part.exhaust_c < DEW_POINT_C:
                part.water = water_to_dry(self.exhaust_c[min(sensor.position, 2)], self.dew_s)
        self._new_engine()

    def clear_codes(self) -> None:
        """As a scan tool does it: codes, monitors and what was learnt go, and heaters are driven again."""
        self.memory.clear()
        self.cleared_s = self.now_s
        self._drive_anew()
        for bank, loop in self.loops.items():
            loop.long_trim = loop.trim = 0.0
            self.closed_s[bank] = 0.0

    def _drive_anew(self) -> None:
        for part in self.parts.values():
            part.latched, part.tested, part.driven_s, part.bad_s = False, "", 0.0, 0.0

    @property
    def since(self) -> float:
        """Seconds since the engine started, else since the key was turned."""
        return self.now_s - self.since_s

    def stood(self, sensor: Sensor) -> State:
        """How everything stands at one sensor: plug and leads are at the one that is worked on, the others are plugged in."""
        if sensor.address == self.worked_on:
            return self.setup
        if self._elsewhere[0] is not self.setup:
            kept = self.setup.conditions - {"signal-grounded", "control-grounded"}
            plugged = replace(self.setup, connector="mated", jumper=None, fed_v=None, conditions=kept)
            self._elsewhere = (self.setup, plugged)
        return self._elsewhere[1]

    def work_on(self, address: str) -> None:
        """Go to another sensor of the vehicle: the first one's plug is mated again, leads are taken off."""
        self.loop(address)
        if address != self.worked_on:
            left = next(sensor for sensor in self.sensors if sensor.address != self.worked_on)
            self.setup, self.worked_on = self.stood(left), address

    @property
    def running_s(self) -> float:
        """Seconds since the engine started; 0 where it does not run."""
        return self.since if self.setup.key == "running" else 0.0

    # ---- the same questions as to any car

    def battery_v(self, key: str) -> float:
        """Open-circuit volts."""
        return self.volts

    def temperatures(self, state: State, sensor: Sensor) -> tuple[float, float]:
        """Element and cell in °C."""
        part = self.parts[sensor.address]
        return part.element_c, part.cell_c

    def element_c(self, state: State, sensor: Sensor) -> float:
        """The heater's temperature in °C."""
        return self.parts[sensor.address].element_c

    def around_c(self, state: State, sensor: Sensor) -> float:
        """What surrounds the tip, in °C."""
        return self.parts[sensor.address].exhaust_c

    def probe_c(self, state: State, sensor: Sensor) -> float:
        """A NOx probe's temperature in °C."""
        return self.parts[sensor.address].element_c

    def dry(self, state: State) -> bool:
        """Whether the exhaust at the sensor in question is dry."""
        return self.setup.key == "running" and self.parts[self.sensor.address].water <= 0.0

    def latched(self, state: State, sensor: Sensor) -> bool:
        """Whether the module has given the heater up."""
        return self.parts[sensor.address].latched

    def duty(self, state: State, sensor: Sensor) -> float:
        """Share of the time the module means to drive, 0 to 1."""
        part = self.parts[sensor.address]
        return self.duty_at(self.setup, sensor, part.driven_s, part.latched)

    def unit_status(self, state: State, sensor: Sensor, supply: float) -> str:
        """What a NOx unit that is heard says of itself. supply: its volts as a share of the system's."""
        part = self.parts[sensor.address]
        if supply <= UNIT_COMPLAINS:
            return "supply-out-of-range"
        if part.ready_s <= 0.0:
            return "not-at-temperature"
        return "valid" if part.ready_s >= PROBE_STABLE_S else "not-stable"

    def accepted(self, sensor: Sensor) -> bool:
        """Whether the module accepts this heater's current when it is charged, plugged in and warm."""
        if sensor.address not in self._accepted:
            kept, self.volts = self.volts, self.charging_v
            self._accepted[sensor.address] = self.plausible(sensor)
            self.volts = kept
        return self._accepted[sensor.address]

    def heater_ports(self, sensor: Sensor) -> tuple[Port, Port]:
        """What feeds the element with the driver on and off."""
        return self._heater_port(sensor, sensor.driver != "open"), self._heater_port(sensor, sensor.driver == "stuck")

    def _heater_port(self, sensor: Sensor, driven: bool) -> Port:
        kept = self._solved(sensor).heater
        if driven not in kept:
            kept[driven] = self.heater_port(replace(self.stood(sensor), at_s=self.since), sensor, driven)
        return kept[driven]

    def lit(self, sensor: Sensor) -> bool:
        """Whether the cell works and the module reaches it."""
        part = self.parts[sensor.address]
        return part.cell_c > sensor.cell.lights_c and not sensor.cell.dead

    def running(self, state: State, sensor: Sensor, seconds: float = 10.0) -> Run:
        """The last so many seconds of this sensor's bank."""
        samples, loop = self.samples[sensor.bank], self.loops[sensor.bank]
        still = (1.0, 1.0, loop.answer, loop.rear_answer, loop.trim)
        kept = samples[-max(int(seconds / MIXTURE_S), 1) :] or [still]
        return stretch(kept, loop.long_trim, self.closed[sensor.bank])

    def _solved(self, sensor: Sensor) -> Ports:
        """The sensor's circuit, solved anew where something has moved."""
        kept, setup = self.ports[sensor.address], self.stood(sensor)
        # without a short to the signal, nothing that is solved here depends on the element, which is left out
        celsius = self.parts[sensor.address].element_c if sensor.shorts else AMBIENT_C
        state = replace(setup, at_s=self.since) if setup.key == "on" else setup
        switched = (setup, self.feed_on(state), self.dry(state))
        if kept.holds(switched, self.volts, self._volts_moved, celsius):
            return kept
        kept.switched, kept.volts, kept.celsius = switched, self.volts, celsius
        if sensor.kind == "nox":
            kept.supply = self.unit_seen(state, sensor)[1]
        kept.heater.clear()
        if sensor.kind == "switching":
            kept.cell = self.cell_port(state, sensor, celsius)
        return kept

    def unit_works(self, sensor: Sensor) -> bool:
        """Whether a NOx unit has the supply it needs, and works."""
        return self.setup.key != "off" and not sensor.unit_dead and self._solved(sensor).supply > UNIT_WORKS

    def seen(self, sensor: Sensor) -> tuple[float, float]:
        """What of the cell's answer the module gets: an offset in volts and a share."""
        if sensor.kind != "switching":
            return (0.0, 1.0)
        port = self._solved(sensor).cell
        assert port is not None
        return port.seen(ceramic_ohms(sensor, self.parts[sensor.address].cell_c))


def _check(before: State, after: State) -> None:
    """Refuse what cannot be done."""
    if after.key not in ("off", "on", "running", "cranking"):
        raise refuse("key", "off, on or running", after.key)
    starts = after.key in ("running", "cranking") and before.key not in ("running", "cranking")
    if after.key != "off" and after.battery != "connected":
        raise refuse("key", "off while the battery is disconnected", after.key)
    if starts and after.module != "mated":
        raise refuse("key", "on at most: without its module the engine does not start", after.key)
    if after.rpm is not None and not RPM[0] <= after.rpm <= RPM[1]:
        raise refuse("rpm", f"{RPM[0]:.0f} to {RPM[1]:.0f}", f"{after.rpm:g}")
    if after.rpm is not None and after.key not in ("running", "cranking"):
        raise refuse("rpm", "a running engine", f"{after.rpm:g} with the key {after.key}")
    for name in sorted(after.conditions - before.conditions):
        if name not in CONDITIONS:
            raise refuse("with", "one of " + ", ".join(CONDITIONS), name)
        if name in STIMULI and after.key not in ("running", "cranking"):
            raise refuse("with", "a running engine", f"{name} with the key {after.key}")
        if name == "heater-commanded" and after.key == "off":
            raise refuse("with", "the key on, so that the scan tool reaches the module", name)
