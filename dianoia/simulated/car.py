"""The car: battery, feed, one sensor in question and its twins, the module, solved point by point and moment by moment.

A ``State`` is what the person has set up. The module drives the heater or not (relay, ramp, cut-off, latch), the element and
the cell warm up in time, the mixture runs, and the circuit is solved for the driver on and off.
"""

from dataclasses import dataclass, field, replace
from math import exp
from random import Random

from dianoia.simulated.engine import Engine, Run, answer_of, run
from dianoia.simulated.net import Net
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

GROUND = "battery.negative"
OPEN = 1e9
#: Exhaust at the sensor, in °C: front and rear, idling, warm; what working the engine adds (thermocouple figures of
#: petrol engines: 350 to 450 at the manifold, 250 to 330 behind the catalyst at idle).
EXHAUST_C, WORKED_C = {1: (330.0, 430.0), 2: (230.0, 330.0)}, 180.0
#: The bus: two terminators of 120 ohm; its wires average 0.1 to 0.3 V either side of 2.5 V with traffic (ISO 11898-2).
TERMINATOR_OHMS, BUS_MIDDLE_V = 120.0, 2.5
#: A NOx unit works down to about 55 % of system voltage and says so below about 80 % (unit data sheets, 12 V: 9.5 V).
UNIT_WORKS, UNIT_COMPLAINS = 0.55, 0.79


def one_way_ohms(volts: float, pin: float) -> float:
    """A corroded pin that passes current one way, and drops more than a volt doing it (oxide rectifiers: 0.5 to 1.5 V)."""
    return pin + 1e6 * exp(-min(max(volts, 0.0) / 0.09, 20.0))


def bulb_ohms(cold: float, lit: float) -> float:
    """A bulb at a share of its voltage: tungsten at full light has about 12 times its cold ohms, and less by the root of the voltage."""
    return cold * max(12.0 * min(abs(lit), 1.5) ** 0.5, 1.0)


@dataclass(frozen=True)
class State:
    """How car and plugs stand."""

    key: str = "running"
    connector: str = "mated"
    module: str = "mated"
    battery: str = "connected"
    cleared: bool = False
    """Codes cleared just before; extra: things laid into the circuit while reading, each called with the network."""
    at_s: float | None = None
    """Seconds since start (or key on)."""
    rpm: float | None = None
    conditions: frozenset[str] = frozenset()
    fed_v: float | None = None
    jumper: tuple[str, str] | None = None
    cold: bool = False


@dataclass
class Feed:
    """The way from the battery to the heaters."""

    order: str
    live: str
    """When the relay closes."""
    prime_s: float
    """Seconds it does at key on."""
    joints: dict[str, float]
    """Ohms of main link, relay, strip, fuse, splice."""
    consumers: list[float]
    """Others on it, ohms each to ground."""
    #: A bulb on it: its cold ohms, None for none.
    bulb: float | None = None
    blown: bool = False
    relay_dead: bool = False


@dataclass
class Car:
    """The second car."""

    system_v: float
    feed: Feed
    engine: Engine
    sensor: Sensor
    """The one in question."""
    twins: dict[str, Sensor]
    """Other sensors of the vehicle by address."""
    battery_ohms: float
    resting_v: float
    charging_v: float
    cranking_v: float
    exhaust_c: dict[int, float]
    module_ground: float
    chassis_strap: float
    terminators: list[float] = field(default_factory=lambda: [TERMINATOR_OHMS, TERMINATOR_OHMS])
    bus_shift: tuple[float, float] = (0.18, 0.2)
    dew_s: float = 120.0
    nox: dict[str, float] = field(default_factory=dict)

    def loop(self, address: str | None) -> Sensor:
        """The sensor in question, or another of the vehicle."""
        return self.sensor if address in (None, self.sensor.address) else self.twins[str(address)]

    def battery_v(self, key: str) -> float:
        """Open-circuit volts."""
        return {"running": self.charging_v, "cranking": self.cranking_v}.get(key, self.resting_v)

    def feed_on(self, state: State) -> bool:
        """Whether the relay is closed."""
        if self.feed.relay_dead or state.battery != "connected":
            return False
        if self.feed.live == "always":
            return True
        if self.feed.live == "key-on":
            return state.key != "off"
        primed = state.key == "on" and state.at_s is not None and state.at_s < self.feed.prime_s
        return state.key in ("running", "cranking") or primed

    # ---- the module's doing

    def plausible(self, sensor: Sensor) -> bool:
        """Whether the module accepts the heater's current: the one test that sets its code, shuts the heater off and clears."""
        if sensor.element is None or sensor.kind == "nox":
            return True
        if sensor.driver == "stuck":
            return False  # there is current while it means to drive none
        hot = sensor.element.ohms(500.0) / sensor.element.ohms_20c * sensor.made_for_ohms
        low, high = (share * self.charging_v / hot for share in sensor.accepts)
        return low < self._driven_amps(sensor) < high

    def _driven_amps(self, sensor: Sensor) -> float:
        volts = self.solved(State(), sensor, sensor.driver != "open", 500.0)
        return (
            abs(volts["sensor.heater_supply"] - volts["sensor.heater_control"]) / sensor.element.ohms(500.0)
            if sensor.element
            else 0.0
        )

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
        if (
            sensor.element is None
            or sensor.kind == "nox"
            or state.key == "off"
            or state.module != "mated"
            or state.battery != "connected"
        ):
            return 0.0
        commanded = "heater-commanded" in state.conditions
        if state.key != "running" and not commanded:
            return 0.0
        if (state.rpm or 0.0) > sensor.cut_off_rpm and not commanded:
            return 0.0
        if self.latched(state, sensor):
            return 0.0
        at = 60.0 if state.at_s is None else state.at_s
        return sensor.duty * (min(0.15 + 0.85 * at / sensor.ramp_s, 1.0) if sensor.ramp_s > 0 else 1.0)

    def share_on(self, state: State, sensor: Sensor) -> float:
        """Share of the time the driver does conduct."""
        if sensor.driver == "stuck":
            return 1.0
        return 0.0 if sensor.driver == "open" else self.duty(state, sensor)

    # ---- temperatures

    def element_c(self, state: State, sensor: Sensor) -> float:
        """The heater's temperature in °C."""
        around = self.around_c(state, sensor)
        if sensor.kind == "nox":
            return 650.0 if self.dry(state) and not sensor.probe_cold else around
        if sensor.element is None or state.connector == "unplugged" or sensor.element.ohms_20c > 1e6:
            return around
        volts = self.solved(state, sensor, True, 400.0)
        across = abs(volts["sensor.heater_supply"] - volts["sensor.heater_control"])
        share = 1.0 if "control-grounded" in state.conditions else self.share_on(state, sensor)
        if state.at_s is not None and state.at_s < 300.0:
            return sensor.element.after(state.at_s, 20.0, across, around, share, 0.0)
        return sensor.element.settled_c(across, around, share)

    def around_c(self, state: State, sensor: Sensor) -> float:
        """What the exhaust does to the tip by itself, in °C."""
        warm = self.exhaust_c[min(sensor.position, 2)]
        if state.cold:
            return 20.0
        if state.key != "running":
            return 45.0
        worked = WORKED_C if state.conditions & {"rich", "lean", "snap", "fuel-cut"} or (state.rpm or 0) > 2000 else 0.0
        share = 1.0 if state.at_s is None else 1.0 - exp(-state.at_s / 150.0)
        return 20.0 + (warm + worked - 20.0) * share

    def cell_hot(self, state: State, sensor: Sensor) -> bool:
        """Whether the cell works."""
        return self.element_c(state, sensor) > sensor.cell.lights_c

    # ---- the circuit

    def network(self, state: State, sensor: Sensor, driven: bool, celsius: float, gas: float | None = None) -> Net:
        """Every point of one sensor's circuit. driven: the driver conducts; celsius: of the element; gas: lambda at the cell,
        None for air that is not told.
        """
        net = Net()
        volts = self.battery_v(state.key) if state.battery == "connected" else 0.0
        if state.battery == "connected":
            net.source(GROUND, "battery.positive", volts, self.battery_ohms)
        else:
            net.resistor("battery.positive", GROUND, 3e3)  # what sleeps on the car's other circuits
        net.resistor("chassis", GROUND, self.chassis_strap)
        net.resistor("module.power_ground", "chassis", self.module_ground)
        net.resistor("battery.positive", "module.power_feed", 0.03)
        net.resistor("sensor.shell", "chassis", sensor.shell_ohms)
        self._feed(net, state)
        if sensor.element is not None and sensor.kind != "nox":
            self._heater(net, state, sensor, driven, celsius)
        if sensor.kind == "nox":
            self._unit(net, state, sensor)
        else:
            self._signal(net, state, sensor, celsius, gas)
        for a, b, ohms in sensor.shorts:
            if net.has(a) and net.has(b):
                net.resistor(a, b, ohms)
        self._laid_in(net, state, sensor)
        return net

    def solved(self, state: State, sensor: Sensor, driven: bool, celsius: float) -> dict[str, float]:
        """Point -> volts, nothing laid across."""
        return self.network(state, sensor, driven, celsius).solve()

    def _feed(self, net: Net, state: State) -> None:
        feed = self.feed
        joint = feed.joints
        relay = joint["relay"] if self.feed_on(state) else OPEN
        fuse = OPEN if feed.blown else joint["fuse"]
        first, second = (
            (("relay", relay), ("fuse", fuse)) if feed.order == "relay-fuse" else (("fuse", fuse), ("relay", relay))
        )
        net.resistor("battery.positive", f"{first[0]}.in", joint["main"])
        net.resistor(f"{first[0]}.in", f"{first[0]}.out", first[1])
        net.resistor(f"{first[0]}.out", f"{second[0]}.in", joint["strip"])
        net.resistor(f"{second[0]}.in", f"{second[0]}.out", second[1])
        net.resistor(f"{second[0]}.out", "splice", joint["splice"])
        for ohms in feed.consumers:
            net.resistor("splice", "chassis", ohms)
        if feed.bulb is not None:
            cold = feed.bulb
            net.curved("splice", "chassis", lambda volts: bulb_ohms(cold, volts / self.system_v))

    def _strand(self, net: Net, state: State, sensor: Sensor, terminal: str, to_module: bool) -> None:
        """A wire from the sensor's plug to the module's pin, or (the feed, a ground) to the end it is given elsewhere."""
        strand = sensor.wires[terminal]
        pin = strand.at("pin") if state.connector == "mated" else OPEN
        if sensor.diode == terminal and state.connector == "mated":
            net.curved(f"harness.{terminal}", f"sensor.{terminal}", lambda v: one_way_ohms(v, pin))
        else:
            net.resistor(f"harness.{terminal}", f"sensor.{terminal}", pin)
        net.resistor(f"inline.{terminal}", f"harness.{terminal}", strand.at("near"))
        if to_module:
            crossed = terminal == "heater_control" and sensor.crossed_heater
            net.resistor(f"module.{terminal}", f"inline.{terminal}", OPEN if crossed else strand.at("far"))
            seated = strand.at("module_pin") if state.module == "mated" else OPEN
            net.resistor(f"module_pin.{terminal}", f"module.{terminal}", seated)

    def _heater(self, net: Net, state: State, sensor: Sensor, driven: bool, celsius: float) -> None:
        assert sensor.element is not None
        awake = state.key != "off" and state.battery == "connected" and state.module == "mated"
        driver = sensor.driver_on if (driven and awake) or sensor.driver == "stuck" else sensor.driver_off
        low = sensor.switch == "low-side"
        for terminal in ("heater_supply", "heater_control"):
            self._strand(net, state, sensor, terminal, to_module=low == (terminal == "heater_control"))
        net.resistor("sensor.heater_supply", "sensor.heater_control", sensor.element.ohms(celsius))
        if low:
            net.resistor("splice", "inline.heater_supply", sensor.wires["heater_supply"].at("far"))
            net.resistor("module_pin.heater_control", "module.power_ground", driver)
            if sensor.crossed_heater:  # the wire ends at the other sensor's pin, whose driver does the same
                net.resistor("inline.heater_control", "module.power_ground", driver + 0.1)
            if sensor.watch and awake and not driven:
                net.source("module.power_ground", "module_pin.heater_control", *sensor.watch)
        else:
            net.resistor("splice", "module_pin.heater_supply", driver)
            net.resistor("inline.heater_control", "chassis", sensor.wires["heater_control"].at("far"))

    def _signal(self, net: Net, state: State, sensor: Sensor, celsius: float, gas: float | None) -> None:
        top, low = sensor.cell_ends
        awake = state.key != "off" and state.battery == "connected"
        for terminal in sensor.terminals:
            if terminal not in ("heater_supply", "heater_control"):
                self._strand(net, state, sensor, terminal, to_module=True)
        under = f"module_pin.{low}" if low else "module.power_ground"
        bias = 0.0 if sensor.bias_gone or not awake else sensor.bias_v
        if sensor.kind in ("switching", "titania"):
            if low:
                net.resistor(under, "module.power_ground", 0.1)
            if sensor.bias_v > 0.05:
                net.source(under, f"module_pin.{top}", bias, sensor.bias_ohms)
        elif sensor.kind == "current":
            held = sensor.held_v if awake and not sensor.bias_gone else 0.0
            net.source("module.power_ground", f"module_pin.{top}", held, 40.0)
            net.source("module.power_ground", under, max(held - sensor.apart_v, 0.0), 25.0)
        else:
            held = sensor.held_v if awake and not sensor.bias_gone else 0.0
            net.source("module.power_ground", under, held, 20.0)
            net.source(under, f"module_pin.{top}", 0.45 if held else 0.0, 1.2e5)
            pumped = self._pump_amps(state, sensor, gas) if held else 0.0
            net.source(under, "module_pin.pump", 90.0 * pumped, 35.0)
            if "trim" in sensor.terminals:
                net.resistor("module_pin.trim", "module_pin.pump", 1e5)
        net.resistor(f"module_pin.{top}", "module.power_ground", sensor.input_ohms)
        self._cell(net, sensor, celsius, gas)

    def _cell(self, net: Net, sensor: Sensor, celsius: float, gas: float | None) -> None:
        top, low = sensor.cell_ends
        ends = (f"sensor.{low}" if low else "sensor.shell", f"sensor.{top}")
        cell, lam = sensor.cell, 1.0 if gas is None else gas
        hot = celsius > cell.lights_c and not cell.dead
        # the ceramic's resistance falls by a factor of about three for every 50 degrees (Arrhenius, 1 eV)
        ohms = cell.hot_ohms * 3.0 ** min(max((620.0 - celsius) / 50.0, 0.0), 9.0) if not cell.dead else OPEN
        if cell.shorted_ohms is not None:
            net.resistor(*ends, cell.shorted_ohms)
        if sensor.kind == "titania":
            own = cell.rich_ohms if lam + cell.off < 1.0 else cell.lean_ohms
            net.resistor(*ends, own if hot else OPEN / 10)
        elif sensor.kind == "current":
            volts = sensor.apart_v - answer_of(sensor, lam) * 300.0 if hot else 0.0
            net.source(*ends, volts, 300.0 if hot else OPEN / 10)
        elif sensor.kind == "two-cell":
            net.source(*ends, 0.45 if hot else 0.0, 250.0 if hot else OPEN / 10)
            net.resistor("sensor.pump", ends[0], 55.0 if hot else OPEN / 10)
            if "trim" in sensor.terminals:
                net.resistor("sensor.trim", "sensor.pump", cell.trim_ohms)
        else:
            net.source(*ends, answer_of(sensor, lam) if hot else 0.0, ohms)

    def _pump_amps(self, state: State, sensor: Sensor, gas: float | None) -> float:
        """The current that holds the sensing cell; none where the module does not see it, or cannot reach the pump."""
        whole = all(sum(sensor.wires[name].faults.values()) < 2e3 for name in ("nernst", "virtual_ground", "pump"))
        return (
            answer_of(sensor, 1.0 if gas is None else gas)
            if whole and not sensor.cell.dead and state.connector == "mated"
            else 0.0
        )

    def _unit(self, net: Net, state: State, sensor: Sensor) -> None:
        for terminal in ("supply", "ground", "can_high", "can_low"):
            self._strand(net, state, sensor, terminal, to_module=terminal.startswith("can"))
        net.resistor("splice", "inline.supply", sensor.wires["supply"].at("far"))
        net.resistor("inline.ground", "chassis", sensor.wires["ground"].at("far"))
        if state.connector == "mated":
            net.resistor("sensor.supply", "sensor.ground", self.unit_ohms(state, sensor))
        awake = state.key != "off" and state.battery == "connected"
        shift = self.bus_shift if awake else (0.0, 0.0)
        for terminal, sign, ohms in (("can_high", 1.0, 45.0), ("can_low", -1.0, 45.0)):
            middle = BUS_MIDDLE_V if awake else 0.0
            if awake:
                net.source("module.power_ground", f"module_pin.{terminal}", middle + sign * shift[0], ohms)
            else:
                net.resistor(f"module_pin.{terminal}", "module.power_ground", 3e4)
        for ohms in self.terminators:
            net.resistor("module.can_high", "module.can_low", ohms)

    def unit_ohms(self, state: State, sensor: Sensor) -> float:
        """What a NOx unit is as a load, in ohms: its electronics, and its heater once the exhaust is dry."""
        if sensor.unit_dead or state.key == "off":
            return 2e4
        heating = self.dry(state) and not sensor.probe_cold and sensor.element is not None
        return 1.0 / (
            1.0 / (6.0 * self.system_v)
            + (1.0 / sensor.element.ohms(500.0) * 0.35 if heating and sensor.element else 0.0)
        )

    def dry(self, state: State) -> bool:
        """Whether the dew point has passed."""
        return state.key == "running" and (state.at_s is None or state.at_s > self.dew_s)

    def _laid_in(self, net: Net, state: State, sensor: Sensor) -> None:
        pairs = [state.jumper] if state.jumper else []
        pairs += [("harness.signal", GROUND)] if "signal-grounded" in state.conditions else []
        pairs += [("harness.heater_control", GROUND)] if "control-grounded" in state.conditions else []
        for a, b in pairs:
            if net.has(a) and net.has(b):
                net.resistor(a, b, 0.04)
        if state.fed_v is not None and net.has("harness.signal"):
            net.source(GROUND, "harness.signal", state.fed_v, 1e4)

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
        asked = next(
            (name for name in ("rich", "lean", "snap", "fuel-cut", "fresh-air") if name in state.conditions), ""
        )
        return run(
            self.engine, front, rear, seconds, state.rpm or self.engine.idle_rpm, asked,
            seen=self._reaches(plain, front), alive=(hot[0] and not front.input_dead, hot[1]),
        )  # fmt: skip

    def _reaches(self, state: State, sensor: Sensor) -> tuple[float, float]:
        """What of a cell's answer the module gets: an offset and a share. Exact, as the circuit is linear."""
        if sensor.kind != "switching":
            return (0.0, 1.0)
        celsius = self.element_c(state, sensor)

        def at(lam: float) -> tuple[float, float]:
            return answer_of(sensor, lam), self.input_v(
                self.network(state, sensor, False, celsius, lam).solve(), sensor
            )

        (e0, v0), (e1, v1) = at(0.9), at(1.1)
        share = (v1 - v0) / (e1 - e0) if abs(e1 - e0) > 1e-6 else 0.0
        return v0 - share * e0, share

    @staticmethod
    def input_v(volts: dict[str, float], sensor: Sensor) -> float:
        """What the module's input sees."""
        top, low = sensor.cell_ends
        return volts[f"module_pin.{top}"] - volts[f"module_pin.{low}" if low else "module.power_ground"]


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
