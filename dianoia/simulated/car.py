"""The car: what its module does with the heaters, how warm element and cell are, and how the mixture runs.

A ``State`` is what the person has set up. The module drives the heater or not (relay, ramp, cut-off, latch), the element and
the cell warm up in time, the mixture runs, and the circuit is solved for the driver on and off.
"""

from dataclasses import replace
from random import Random

from dianoia.simulated.engine import Engine, Run, run
from dianoia.simulated.heat import (
    AMBIENT_C,
    EXHAUST_C,
    PROBE_STABLE_S,
    PROBE_WORKS_C,
    STOPPED_C,
    WORKED_C,
    Drive,
    exhaust_after,
    probe_after,
    probe_warms_s,
    settled,
    warmed,
)
from dianoia.simulated.parts import (
    BATTERY_OHMS,
    CHARGING_V,
    CRANKING_V,
    FUSE_OHMS,
    RELAY_OHMS,
    RESTING_V,
    between,
    wire,
)
from dianoia.simulated.sensor import Sensor
from dianoia.simulated.state import State
from dianoia.simulated.wiring import UNIT_COMPLAINS, UNIT_WORKS, Feed, WiredCar, ceramic_ohms

#: Share of the least accepted current from which a module sees current that it did not ask for.
LEAKS = 0.25
#: A state is taken for settled from here, in seconds after the start.
SETTLED_S = 300.0


def ramped(sensor: Sensor, at_s: float) -> float:
    """Duty so many seconds after the drive began: a pulsed heater starts gently, so that its ceramic does not crack."""
    return sensor.duty * (min(0.15 + 0.85 * at_s / sensor.ramp_s, 1.0) if sensor.ramp_s > 0 else 1.0)


class Car(WiredCar):
    """The second car."""

    # ---- the module's doing

    def plausible(self, sensor: Sensor) -> bool:
        """Whether the module accepts the heater's current: the one test that sets its code, shuts the heater off and clears."""
        if sensor.element is None or sensor.kind == "nox":
            return True
        if sensor.driver == "stuck":
            return False
        low, high = self.accepted_amps(sensor)
        if self._amps(sensor, False) > LEAKS * low:
            return False  # there is current while it means to drive none
        return low < self._amps(sensor, sensor.driver != "open") < high

    def accepted_amps(self, sensor: Sensor) -> tuple[float, float]:
        """Lowest and highest heater current that the module accepts, in amperes."""
        assert sensor.element is not None
        hot = sensor.element.ohms(500.0) / sensor.element.ohms_20c * sensor.made_for_ohms
        low, high = sensor.accepts
        return low * self.charging_v / hot, high * self.charging_v / hot

    def _amps(self, sensor: Sensor, driven: bool) -> float:
        """Current through the element at 500 °C with the driver on or off, in amperes."""
        assert sensor.element is not None
        volts = self.solved(State(), sensor, driven, 500.0)
        return abs(volts["sensor.heater_supply"] - volts["sensor.heater_control"]) / sensor.element.ohms(500.0)

    def latched(self, state: State, sensor: Sensor) -> bool:
        """Whether the module has given the heater up: after a bad current, until the codes are cleared and a while more."""
        if sensor.driver == "stuck":
            return False
        bad = state.connector == "unplugged" or not self.plausible(sensor)
        if not bad:
            return False
        if state.cleared or "heater-commanded" in state.conditions:
            return state.at_s is not None and state.at_s > sensor.latches_after_s + 20.0
        return True

    def duty(self, state: State, sensor: Sensor) -> float:
        """Share of the time the module means to drive, 0 to 1."""
        return self.duty_at(state, sensor, 60.0 if state.at_s is None else state.at_s, self.latched(state, sensor))

    @staticmethod
    def duty_at(state: State, sensor: Sensor, at_s: float, latched: bool) -> float:
        """The same so many seconds after the start, where it is known whether the module has given the heater up."""
        unpowered = state.key == "off" or state.module != "mated" or state.battery != "connected"
        if sensor.element is None or sensor.kind == "nox" or unpowered or latched:
            return 0.0
        allowed = state.key == "running" and (state.rpm or 0.0) <= sensor.cut_off_rpm
        if not allowed and "heater-commanded" not in state.conditions:
            return 0.0
        return ramped(sensor, at_s)

    def share_on(self, state: State, sensor: Sensor) -> float:
        """Share of the time the driver does conduct."""
        if sensor.driver == "stuck":
            return 1.0
        return 0.0 if sensor.driver == "open" else self.duty(state, sensor)

    # ---- temperatures

    def drives(self, state: State, sensor: Sensor) -> list[Drive]:
        """What feeds the heater's element: with the driver on and off."""
        share = self.share_on(state, sensor)
        return [
            Drive(part, self.heater_port(state, sensor, driven))
            for driven, part in ((True, share), (False, 1.0 - share))
            if part > 1e-6
        ]

    def element_c(self, state: State, sensor: Sensor) -> float:
        """The heater's temperature in °C."""
        if sensor.kind == "nox":
            return self.probe_c(state, sensor)
        around = self.around_c(state, sensor)
        if sensor.element is None or state.connector == "unplugged" or sensor.element.ohms_20c > 1e6:
            return around
        if state.at_s is None or state.at_s >= SETTLED_S:
            return settled(sensor.element, self.drives(state, sensor), around)
        ports = {driven: self.heater_port(state, sensor, driven) for driven in (True, False)}
        given_up = self.latched(state, sensor)
        warm = self.around_c(replace(state, at_s=None), sensor)

        def drives_at(at: float) -> list[Drive]:
            share = {"stuck": 1.0, "open": 0.0}.get(sensor.driver, self.duty_at(state, sensor, at, given_up))
            return [Drive(share, ports[True]), Drive(1.0 - share, ports[False])]

        return warmed(sensor.element, drives_at, lambda at: exhaust_after(warm, at), state.at_s)

    def temperatures(self, state: State, sensor: Sensor) -> tuple[float, float]:
        """Element and cell in °C. A cell is as warm as its element, but for the first moments."""
        celsius = self.element_c(state, sensor)
        return celsius, celsius

    def around_c(self, state: State, sensor: Sensor) -> float:
        """What the exhaust does to the tip by itself, in °C."""
        if state.cold:
            return AMBIENT_C
        if state.key != "running":
            return STOPPED_C
        return exhaust_after(self.warm_c(state, sensor), state.at_s)

    def warm_c(self, state: State, sensor: Sensor) -> float:
        """What the exhaust comes to at a tip as the engine runs now, in °C."""
        worked = bool(state.conditions & {"rich", "lean", "snap", "fuel-cut"}) or (state.rpm or 0) > 2000
        return self.exhaust_c[min(sensor.position, 2)] + (WORKED_C if worked else 0.0)

    def probe_c(self, state: State, sensor: Sensor) -> float:
        """A NOx probe's temperature in °C: its unit heats it once the exhaust is dry."""
        if sensor.probe_cold or not self.dry(state):
            return self.around_c(state, sensor)
        return probe_after(self._released_c(sensor), None if state.at_s is None else state.at_s - self.dew_s)

    def _released_c(self, sensor: Sensor) -> float:
        """The tip when the exhaust has just become dry, in °C."""
        return exhaust_after(self.exhaust_c[min(sensor.position, 2)], self.dew_s)

    def unit_seen(self, state: State, sensor: Sensor) -> tuple[bool, float]:
        """Whether a NOx unit's messages reach the module, and the unit's volts as a share of the system's."""
        element_c, cell_c = self.temperatures(state, sensor)
        volts = self.network(state, sensor, False, element_c, None, cell_c).solve()
        if state.connector != "mated":
            return False, 0.0
        share = (volts["sensor.supply"] - volts["sensor.ground"]) / self.system_v
        high, low = volts["sensor.can_high"], volts["sensor.can_low"]
        whole = all(sum(sensor.wires[name].faults.values()) < 500 for name in ("can_high", "can_low"))
        bus = whole and high - low > 0.07 and 2.0 < high < 3.6 and 1.4 < low < 3.0
        return bus and share > UNIT_WORKS and state.key != "off" and not sensor.unit_dead, share

    def nox_ppm(self, state: State, sensor: Sensor) -> float:
        """NOx (and ammonia) in the gas at a sensor, in ppm."""
        if state.conditions & {"fresh-air", "fuel-cut"}:
            return 0.0
        made = self.nox["engine"]
        if sensor.position == 1:
            return made
        if "dosing-off" in state.conditions:
            return 0.9 * made
        return self.nox["left"] * made + self.nox["slip"] * (1.4 if "dosing-on" in state.conditions else 1.0)

    def nox_o2(self, state: State) -> float:
        """Oxygen in the gas at a NOx sensor, in percent."""
        return 20.9 if state.conditions & {"fresh-air", "fuel-cut"} else self.nox["o2"]

    def unit_status(self, state: State, sensor: Sensor, supply: float) -> str:
        """What a NOx unit that is heard says of itself. supply: its volts as a share of the system's."""
        if supply <= UNIT_COMPLAINS:
            return "supply-out-of-range"
        if not self.dry(state) or self.probe_c(state, sensor) < PROBE_WORKS_C:
            return "not-at-temperature"
        stable = (
            state.at_s is None or state.at_s > self.dew_s + probe_warms_s(self._released_c(sensor)) + PROBE_STABLE_S
        )
        return "valid" if stable else "not-stable"

    def cell_hot(self, state: State, sensor: Sensor) -> bool:
        """Whether the cell works."""
        return self.temperatures(state, sensor)[1] > sensor.cell.lights_c

    # ---- the mixture

    def running(self, state: State, sensor: Sensor, seconds: float = 10.0) -> Run:
        """Front and rear of the sensor's bank while the engine runs."""
        pair = {item.position: item for item in (self.sensor, *self.twins.values()) if item.bank == sensor.bank}
        front, rear = pair.get(1, sensor), pair.get(2, sensor)
        plain = replace(
            state,
            connector="mated",
            module="mated",
            jumper=None,
            fed_v=None,
            conditions=state.conditions & {"rich", "lean", "snap", "fuel-cut", "fresh-air", "heater-commanded"},
        )
        hot = [self.cell_hot(plain, item) and not item.cell.dead for item in (front, rear)]
        reached = front.kind == "switching" or self.connected(plain, front)
        asked = next(
            (name for name in ("rich", "lean", "snap", "fuel-cut", "fresh-air") if name in state.conditions), ""
        )
        return run(
            self.engine, front, rear, seconds, state.rpm or self.engine.idle_rpm, asked,
            seen=self.reaches(plain, front), alive=(hot[0] and not front.input_dead and reached, hot[1]),
        )  # fmt: skip

    def reaches(self, state: State, sensor: Sensor) -> tuple[float, float]:
        """What of a cell's answer the module gets: an offset in volts and a share. Exact, as the circuit is linear."""
        if sensor.kind != "switching":
            return (0.0, 1.0)
        celsius = self.element_c(state, sensor)
        return self.cell_port(state, sensor, celsius).seen(ceramic_ohms(sensor, celsius))

    @staticmethod
    def connected(state: State, sensor: Sensor) -> bool:
        """Whether the module reaches a current cell or a pump: no plug is apart and no wire is broken."""
        wires = [sensor.wires[name] for name in sensor.terminals if not name.startswith("heater") and name != "trim"]
        return state.connector == "mated" and all(sum(item.faults.values()) < 2e3 for item in wires)


def new_feed(random: Random) -> Feed:
    """A sound feed with whatever else hangs on it."""
    others = random.choices((0, 1, 2, 3, 5), (2, 3, 3, 2, 1))[0]
    loads = [
        random.choice((12.0, 24.0, 40.0)) if random.random() < 0.25 else 10 ** random.uniform(3.5, 5.5)
        for _ in range(others)
    ]
    bulb = random.uniform(0.6, 3.0) if random.random() < 0.04 else None
    return Feed(
        order=random.choice(("relay-fuse", "relay-fuse", "fuse-relay")),
        live=random.choices(("always", "key-on", "running"), (1, 5, 4))[0],
        prime_s=random.uniform(1.5, 5.0),
        joints={"main": wire(random, (0.3, 1.0)), "relay": between(random, RELAY_OHMS), "strip": 0.002,
                "fuse": between(random, FUSE_OHMS), "splice": wire(random, (0.2, 1.0))},
        consumers=loads, bulb=bulb,
    )  # fmt: skip


def new_car(random: Random, system_v: float, sensor: Sensor, twins: dict[str, Sensor], engine: Engine) -> Car:
    """A sound car."""
    scale = system_v / 12.0
    return Car(
        system_v=system_v, feed=new_feed(random), engine=engine, sensor=sensor, twins=twins,
        battery_ohms=between(random, BATTERY_OHMS) * scale, resting_v=between(random, RESTING_V) * scale,
        charging_v=between(random, CHARGING_V) * scale, cranking_v=between(random, CRANKING_V) * scale,
        exhaust_c={place: between(random, ends) for place, ends in EXHAUST_C.items()},
        module_ground=wire(random, (0.2, 0.8)), chassis_strap=random.uniform(0.0005, 0.006),
        bus_shift=(random.uniform(0.08, 0.3), 0.0), dew_s=random.uniform(40.0, 260.0),
        nox={"engine": random.uniform(150.0, 750.0), "left": random.uniform(0.03, 0.12), "o2": random.uniform(5.0, 14.0), "slip": 0.0},
    )  # fmt: skip
