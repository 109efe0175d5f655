"""The NOx sensor's circuit: supply and ground under the heater's load, and the two CAN wires with their terminators.

Probe and control unit are one part. Phases: ``heating``, the unit draws its heater's current; ``waiting``, it only
listens (before the dew point, or asleep).
"""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from dianoia.case.setting import Setting
from dianoia.circuit.assumptions import battery
from dianoia.circuit.draws import Draws
from dianoia.circuit.feed import BOX, END, IN_BOX, MAIN, battery_branch, blown_ohms, broken_ohms, feed
from dianoia.circuit.heater import MATTERS_FROM
from dianoia.circuit.known import KnownValues
from dianoia.circuit.leads import JUMPER_OHMS
from dianoia.circuit.network import OPEN_OHMS, Array, Network, each_draw
from dianoia.circuit.types import Change, Circuit, Effect

HEATING, WAITING = "heating", "waiting"
PHASES = (HEATING, WAITING)
GROUND = "battery.negative"
#: The bus at one level, as a scope catches it; a meter averages both.
DOMINANT, RECESSIVE = "bus-dominant", "bus-recessive"
#: What drives a dominant bit: 1.5 to 3 V are allowed between the wires (ISO 11898-2), mostly 1.8 to 2.4 V at 60 ohm behind 40 ohm.
DOMINANT_V = (3.0, 4.0)
#: Seconds from engine start until the exhaust has passed the dew point, (low, high).
DEW_POINT_S = (40.0, 420.0)
TERMINATOR_OHMS = 120.0
#: How often a NOx unit holds one of the two itself; own estimate.
ENDS_THE_BUS = 0.06
#: Of the probe's heater while it heats, at 12 V, (low, high).
UNIT_HEATER_OHMS = (2.5, 6.0)
#: The worst corrosion, in times the heater: through it the unit at rest still wakes, and fails when it heats.
WORST = 300.0


class NoxLoop:
    """Builds the network for any setting, from one set of draws."""

    def __init__(self, known: KnownValues, draws: Draws) -> None:
        self.known, self.draws = known, draws
        self.system_v = known.system_v

    def battery_v(self, key: str) -> Array:
        """Battery or charging voltage in volts."""
        return self.system_v / 12.0 * self.draws.uniform("battery " + key, *battery()[key].usual_v)

    def dew_point_passed(self, setting: Setting) -> Array:
        """(draws,) 1 where the engine has run long enough for the unit to heat."""
        if setting.key != "running":
            return np.zeros(self.draws.count)
        if setting.at_s is None:
            return (self.draws.unit("warm engine") < 0.85).astype(float)
        return (self.draws.log_uniform("dew point", *DEW_POINT_S) < setting.at_s).astype(float)

    def electrical(self, setting: Setting) -> Setting:
        """See ``Loop``: the dew point and the gas say how often the unit heats, not what flows when it does."""
        level = setting.conditions & {DOMINANT, RECESSIVE}
        return replace(setting, sensor_c=None, at_s=None, rpm=None, codes_cleared=False, conditions=level)

    @property
    def ends_the_bus(self) -> NDArray[np.bool_]:
        """(draws,) True where the unit holds the bus's far terminator: unplugged, it takes it along."""
        return self.draws.unit("ends the bus") < ENDS_THE_BUS

    def _without_terminator(self, network: Network) -> Effect:
        port = network.through("terminator far", "unit bus", choice=self.ends_the_bus.astype(np.int64))
        return Effect((Change(port, np.full(self.draws.count, OPEN_OHMS)),))

    def circuit(self, setting: Setting, phase: str) -> Circuit:
        """The network in a setting, and what each fault does in it."""
        network, draws = Network(GROUND, self.draws.count), self.draws
        connected = setting.battery == "connected"
        battery_branch(network, draws, connected, self.battery_v(setting.key))
        live = setting.powered or self.known.feed_live == "always"
        branch_at = feed(network, draws, setting, self.known.feed_order, 0.03 if live else OPEN_OHMS)
        network.branch("chassis strap", "chassis", GROUND, draws.uniform("chassis strap", 0.002, 0.02))
        network.branch("module ground", "module.power_ground", "chassis", 0.01)
        network.branch("module feed", "battery.positive", "module.power_feed", 0.05 if setting.powered else 2e4)
        network.branch("shell", "sensor.shell", "chassis", draws.uniform("shell", 0.02, 0.5))
        for terminal, start in (("supply", END), ("ground", "chassis"), ("can_high", "module.can_high"),
                                ("can_low", "module.can_low")):  # fmt: skip
            self._wire(network, setting, terminal, start, branch_at)
        self._unit(network, phase)
        self._bus(network, setting)
        for a, b in setting.jumpers:
            if network.has_node(a) and network.has_node(b):
                network.bridge(a, b, JUMPER_OHMS)
        return Circuit(network, self._effects(network), branch_at, switched="unit")

    def _wire(self, network: Network, setting: Setting, terminal: str, start: str, branch_at: dict[str, str]) -> None:
        half = self.draws.uniform("wire " + terminal, 0.01, 0.05)
        network.branch(f"wire {terminal} 1", start, f"inline.{terminal}", half)
        network.branch(f"wire {terminal} 2", f"inline.{terminal}", f"harness.{terminal}", half)
        mated = setting.connector == "mated"
        network.branch(f"pin {terminal}", f"harness.{terminal}", f"sensor.{terminal}", 0.02 if mated else OPEN_OHMS)
        branch_at[f"harness.{terminal}"] = branch_at[f"sensor.{terminal}"] = f"pin {terminal}"

    def _unit(self, network: Network, phase: str) -> None:
        scale = (self.system_v / 12.0) ** 2
        heater = scale * self.draws.uniform("unit heater", *UNIT_HEATER_OHMS)
        network.branch(
            "unit",
            "sensor.supply",
            "sensor.ground",
            heater if phase == HEATING else scale * self.draws.log_uniform("unit waiting", 100.0, 1500.0),
        )
        own = np.where(self.ends_the_bus, TERMINATOR_OHMS, self.draws.uniform("transceiver", 2.5e4, 5e4))
        network.branch("unit bus", "sensor.can_high", "sensor.can_low", own)

    def _bus(self, network: Network, setting: Setting) -> None:
        draws = self.draws
        seated = setting.module_connector == "mated"
        for side in ("can_high", "can_low"):
            network.branch(f"module pin {side}", f"module_pin.{side}", f"module.{side}", 0.02 if seated else OPEN_OHMS)
        network.branch("terminator module", "module_pin.can_high", "module_pin.can_low", TERMINATOR_OHMS)
        far = np.where(self.ends_the_bus, OPEN_OHMS, TERMINATOR_OHMS)
        network.branch("terminator far", "module.can_high", "module.can_low", far)
        awake = 1.0 if setting.powered else 0.0
        for side in ("can_high", "can_low"):
            network.branch(
                f"recessive {side}", "module.power_ground", f"module_pin.{side}", draws.uniform("bus bias", 4e3, 2e4), awake * 2.5
            )  # fmt: skip
            # the other units on the trunk, where there are any
            others = draws.log_uniform("bus others", 1e4, 1e9)
            network.branch(f"others {side}", "module.power_ground", f"module.{side}", others, awake * 2.5)
        traffic: Array | float = draws.uniform("traffic", 0.25, 1.1)
        if DOMINANT in setting.conditions:
            traffic = draws.uniform("dominant", *DOMINANT_V)
        if RECESSIVE in setting.conditions:
            traffic = 0.0
        network.branch("traffic", "module.can_low", "module.can_high", 40.0 if awake else 2e4, awake * traffic)

    def _effects(self, network: Network) -> dict[str, Effect]:
        draws, scale = self.draws, self.system_v / 12.0
        hot = scale**2 * draws.uniform("unit heater", *UNIT_HEATER_OHMS)
        open_ohms = broken_ohms(draws, 1e4)
        corroded = draws.log_uniform("corroded", MATTERS_FROM, WORST) * hot
        short, touching = draws.log_uniform("short", 0.05, 3.0), draws.log_uniform("short", 0.05, 30.0)

        def series(ohms: Array | float, *branches: str, shares: Sequence[float] = ()) -> Effect:
            even = [1.0] * len(branches)
            picked = draws.choice("place " + branches[0], shares or even) if len(branches) > 1 else None
            return Effect((Change(network.through(*branches, choice=picked), each_draw(ohms, draws.count)),))

        def across(ohms: Array, a: str, b: str) -> Effect:
            return Effect((Change(network.across(a, b), 1.0 / ohms),))

        effects = {
            "fuse-blown": series(blown_ohms(draws), "fuse"),
            "relay-open": series(open_ohms, "relay"),
            "supply-open": series(open_ohms, *MAIN),
            "supply-high": series(corroded, *BOX, shares=IN_BOX),
            "can-lines-shorted": across(touching, "harness.can_high", "harness.can_low"),
            "terminator-lost": self._without_terminator(network),
            "unit-dead": series(1e5, "unit"),
            "probe-heater": series(1e5, "unit"),
        }
        for terminal in ("supply", "ground", "can_high", "can_low"):
            halves = (f"wire {terminal} 1", f"wire {terminal} 2")
            effects[f"wire-open:{terminal}"] = series(open_ohms, *halves)
            effects[f"pin-open:{terminal}"] = series(open_ohms, f"pin {terminal}")
        for terminal in ("supply", "ground"):
            effects[f"wire-high:{terminal}"] = series(corroded, f"wire {terminal} 1", f"wire {terminal} 2")
        for terminal in ("can_high", "can_low"):
            effects[f"wire-short-ground:{terminal}"] = across(touching, f"harness.{terminal}", GROUND)
            effects[f"wire-short-battery:{terminal}"] = across(touching, f"harness.{terminal}", "battery.positive")
        blown = series(blown_ohms(draws), "fuse").changes
        effects["wire-short-ground:supply"] = Effect(across(short, "harness.supply", GROUND).changes + blown)
        return effects
