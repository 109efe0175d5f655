"""The car's circuit: battery, feed, one sensor's wires and the module's pins, as a network of points to be solved.

The network is linear but for bulbs and one-way pins. What feeds an element or carries a cell's voltage is also given as a port:
the open voltage and the resistance behind it, so that a changing element or cell needs no further solving.
"""

from dataclasses import dataclass, field
from math import exp

from dianoia.simulated.engine import Engine, answer_of
from dianoia.simulated.heat import AMBIENT_C, Port
from dianoia.simulated.net import Net
from dianoia.simulated.sensor import Sensor
from dianoia.simulated.state import State

GROUND = "battery.negative"
OPEN = 1e9
#: An element's temperature while the circuit around it is solved, in °C.
LOADED_C = 400.0
#: Current by which the circuit around a cell is found out, in amperes.
PROBE_A = 1e-6
#: The bus: two terminators of 120 ohm; its wires average 0.1 to 0.3 V either side of 2.5 V with traffic (ISO 11898-2).
TERMINATOR_OHMS, BUS_MIDDLE_V = 120.0, 2.5
#: A NOx unit works down to about 55 % of system voltage and says so below about 80 % (unit data sheets, 12 V: 9.5 V).
UNIT_WORKS, UNIT_COMPLAINS = 0.55, 0.79


def one_way_ohms(volts: float, pin: float) -> float:
    """A corroded pin that passes current one way, and drops more than a volt doing it (oxide rectifiers: 0.5 to 1.5 V)."""
    return pin + 1e6 * exp(-min(max(volts, 0.0) / 0.09, 20.0))


def ceramic_ohms(sensor: Sensor, celsius: float) -> float:
    """A zirconia cell's own resistance: it falls by a factor of about three for every 50 degrees (Arrhenius, 1 eV)."""
    if sensor.cell.dead:
        return OPEN
    return sensor.cell.hot_ohms * 3.0 ** min(max((620.0 - celsius) / 50.0, 0.0), 9.0)


def bulb_ohms(cold: float, lit: float) -> float:
    """A bulb at a share of its voltage: tungsten at full light has about 12 times its cold ohms, and less by the root of the voltage."""
    return cold * max(12.0 * min(abs(lit), 1.5) ** 0.5, 1.0)


@dataclass(frozen=True, slots=True)
class CellPort:
    """What the module's input makes of a cell, whatever its voltage and resistance."""

    open_v: float
    """Volts at the cell's ends with the cell taken out."""
    ohms: float
    """Resistance between them."""
    seen_v: float
    """What the input sees without the cell."""
    seen_per_a: float
    """Volts more at the input for each ampere out of the cell."""

    def seen(self, cell_ohms: float) -> tuple[float, float]:
        """What of a cell's voltage the input sees: an offset in volts and a share."""
        share = self.seen_per_a / (cell_ohms + self.ohms)
        return self.seen_v - share * self.open_v, share


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
class WiredCar:
    """What the second car is made of, and its circuit."""

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

    # ---- the circuit

    def network(
        self,
        state: State,
        sensor: Sensor,
        driven: bool,
        celsius: float,
        gas: float | None = None,
        cell_c: float | None = None,
        without: str = "",
    ) -> Net:
        """Every point of one sensor's circuit.

        The driver conducts if ``driven``. The element is at ``celsius``, the cell at ``cell_c`` (None: as the element), both in °C. The
        gas at the cell has lambda ``gas`` (None: air that is not told). ``without`` leaves "element" or "cell" out.
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
            self._heater(net, state, sensor, driven, None if without == "element" else celsius)
        if sensor.kind == "nox":
            self._unit(net, state, sensor)
        else:
            self._signal(net, state, sensor, gas)
            if sensor.cell.shorted_ohms is not None:
                net.resistor(*self.cell_points(sensor), sensor.cell.shorted_ohms)
            if without != "cell":
                self._cell(net, sensor, celsius if cell_c is None else cell_c, gas)
        for a, b, ohms in sensor.shorts:
            if net.has(a) and net.has(b):
                net.resistor(a, b, ohms)
        self._laid_in(net, state, sensor)
        return net

    def solved(self, state: State, sensor: Sensor, driven: bool, celsius: float) -> dict[str, float]:
        """Point -> volts, nothing laid across."""
        return self.network(state, sensor, driven, celsius).solve()

    def heater_port(self, state: State, sensor: Sensor, driven: bool) -> Port:
        """What feeds the element: solved open and with a load like the element's own."""
        assert sensor.element is not None
        ends = ("sensor.heater_supply", "sensor.heater_control")
        net, load = self.network(state, sensor, driven, AMBIENT_C, without="element"), sensor.element.ohms(LOADED_C)
        opened = net.solve()
        net.resistor(*ends, load)
        loaded = net.solve()
        open_v, loaded_v = (solved[ends[0]] - solved[ends[1]] for solved in (opened, loaded))
        if abs(loaded_v) < 1e-4:
            return Port(0.0, OPEN)
        return Port(open_v, load * max(open_v / loaded_v - 1.0, 0.0))

    @staticmethod
    def cell_points(sensor: Sensor) -> tuple[str, str]:
        """The cell's negative and positive end."""
        top, low = sensor.cell_ends
        return f"sensor.{low}" if low else "sensor.shell", f"sensor.{top}"

    @staticmethod
    def input_v(volts: dict[str, float], sensor: Sensor) -> float:
        """What the module's input sees."""
        top, low = sensor.cell_ends
        return volts[f"module_pin.{top}"] - volts[f"module_pin.{low}" if low else "module.power_ground"]

    def cell_port(self, state: State, sensor: Sensor, celsius: float) -> CellPort:
        """What a zirconia cell is connected to: solved without the cell, and with a microampere in its place."""
        ends = self.cell_points(sensor)
        net = self.network(state, sensor, False, celsius, without="cell")
        still = net.solve()
        net.current(*ends, PROBE_A)
        fed = net.solve()
        open_v, fed_v = (solved[ends[1]] - solved[ends[0]] for solved in (still, fed))
        seen = self.input_v(still, sensor)
        return CellPort(open_v, (fed_v - open_v) / PROBE_A, seen, (self.input_v(fed, sensor) - seen) / PROBE_A)

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

    def _heater(self, net: Net, state: State, sensor: Sensor, driven: bool, celsius: float | None) -> None:
        assert sensor.element is not None
        awake = state.key != "off" and state.battery == "connected" and state.module == "mated"
        driver = sensor.driver_on if (driven and awake) or sensor.driver == "stuck" else sensor.driver_off
        low = sensor.switch == "low-side"
        for terminal in ("heater_supply", "heater_control"):
            self._strand(net, state, sensor, terminal, to_module=low == (terminal == "heater_control"))
        if celsius is not None:
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

    def _signal(self, net: Net, state: State, sensor: Sensor, gas: float | None) -> None:
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

    def _cell(self, net: Net, sensor: Sensor, celsius: float, gas: float | None) -> None:
        ends = self.cell_points(sensor)
        cell, lam = sensor.cell, 1.0 if gas is None else gas
        hot = celsius > cell.lights_c and not cell.dead
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
            net.source(*ends, answer_of(sensor, lam) if hot else 0.0, ceramic_ohms(sensor, celsius))

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
