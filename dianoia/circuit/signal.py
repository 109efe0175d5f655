"""The signal loop: cell, plug, loom, module input with its bias or reference.

Phases are the mixture at the cell, ``rich`` and ``lean``. Kinds of cell:
zirconia: a voltage behind a source resistance that falls from megohms when cold; the module adds its bias.
titania: a resistance in a pull-up, low when rich. limiting-current: both wires held by the module a few tenths of a
volt apart, the current says the mixture. two-cell: sensing cell held 0.45 V above a virtual ground, pump current as the
signal, a trim resistor between trim and pump.
"""

import numpy as np
from numpy.typing import NDArray

from dianoia.case.setting import Setting
from dianoia.circuit.assumptions import battery, prior
from dianoia.circuit.draws import Draws
from dianoia.circuit.feed import battery_branch
from dianoia.circuit.known import Known
from dianoia.circuit.leads import FED_THROUGH_OHMS, JUMPER_OHMS
from dianoia.circuit.network import OPEN_OHMS, Array, Network, each_draw
from dianoia.circuit.types import Change, Circuit, Effect
from dianoia.families.tables import FamilyRow
from dianoia.families.types import HEATER_TERMINALS

RICH, LEAN = "rich", "lean"
PHASES = (RICH, LEAN)
GROUND = "battery.negative"
#: Marks a hypothesis in which the heater does not work, so that the cell may stay cold.
COLD_HEATER = "@heater-dead"
#: Marks one in which it is fed through a resistance, which may leave it the heat it needs.
WEAK_HEATER = "@heater-weak"
#: Share of the cells cold without a heater that a weak one leaves cold: of resistances spread by ratio from 0.085 to 30 times the
#: hot element those above 0.58 of it, through which it has less than 40 % of its power.
WEAK_LEAVES_COLD = 0.67
#: What a two-cell sensor's sensing cell is held at, in volts.
SENSED_V = 0.45
#: Usual module biases in volts and how usual each is.
BIASES = ((0.45, 0.0, 1.0, 1.7), (0.66, 0.16, 0.1, 0.08))
#: What a titania sensor is pulled up to, in volts.
PULL_UPS = (1.0, 5.0)
#: The engine worked hard enough for its exhaust to heat the cell, whatever it was at idle.
WORKED = frozenset(("rich", "lean", "snap", "fuel-cut"))
#: Running so long heats a cell without a heater, in s.
UNHEATED_HOT_S = 600.0
#: What the cell's positive wire touches where two of its wires touch.
BESIDE_THE_SIGNAL = ("signal_return", "cell_negative", "virtual_ground")
#: How often the heater beside is driven while the engine runs, and how often it is its feed that a signal touches; own estimates.
DRIVEN_BESIDE, TO_FEED = 0.75, 0.7
#: Share of the modules that, of several sources, lose all; else one of them.
ALL_LOST = 0.5
#: Share of the cells that read off whose volts are sound: they step at another mixture, and only trims and gas tell. Few: the trade
#: takes a prompt answer to rich and lean for a sound cell.
CHANGES_OVER_ELSEWHERE = 0.12
#: Share of the draws in which a healthy cell stays cold although heated.
COLD_DRAWN = 0.12


def terminals_of(family: FamilyRow) -> tuple[str, str | None]:
    """The cell's positive and negative terminal; None where it returns through the shell."""
    names = [name for name in family.terminals if name not in ("heater_supply", "heater_control", "pump", "trim")]
    return names[0], (names[1] if len(names) > 1 else None)


class SignalLoop:
    """Builds the loop's network for any setting, from one set of draws."""

    def __init__(self, known: Known, draws: Draws) -> None:
        self.known, self.draws = known, draws
        self.family = known.family
        self.cell = self.family.cell
        self.positive, self.negative = terminals_of(self.family)
        self.bias_kind = self._bias_kind()
        self.bias_v = self._bias()
        #: (draws,) True for the few healthy cells that do not get hot although their heater works.
        cold = 1.0 - self._idle_share()
        self.stays_cold = self.draws.rare("cold", cold, max(COLD_DRAWN, cold)) < cold

    @property
    def unheated(self) -> bool:
        """Whether the sensor is made without a heater."""
        return "heater_supply" not in self.family.terminals

    def _idle_share(self) -> float:
        """How often a healthy cell is hot at a warm idle."""
        if self.unheated:
            return prior("no-heater-front" if self.known.position == 1 else "no-heater-behind")
        return self._hot_share(heated=True)

    def _hot_share(self, heated: bool) -> float:
        if self.known.position == 1:
            return prior("hot-front-heated" if heated else "hot-front-unheated")
        return prior("hot-behind-heated" if heated else "hot-behind-unheated")

    def _bias_kind(self) -> NDArray[np.int64]:
        """(draws,) which of the usual biases the module has; 0 where only one is possible."""
        if self.cell == "titania":
            return self.draws.choice("titania pull-up", [1.0] * len(PULL_UPS))
        if self.cell != "zirconia" or self.known.bias_v is not None:
            return np.zeros(self.draws.count, dtype=np.int64)
        return self.draws.evened("bias", BIASES[1])

    def _bias(self) -> Array:
        if self.cell == "limiting-current":
            return self.draws.uniform("reference", 2.4, 3.6)
        if self.cell == "two-cell":
            return self.draws.uniform("reference", 2.3, 2.8)
        if self.cell == "titania":
            return np.array(PULL_UPS)[self.bias_kind]
        if self.known.bias_v is not None:
            return np.full(self.draws.count, self.known.bias_v) * self.draws.uniform("bias error", 0.95, 1.05)
        return np.array(BIASES[0])[self.bias_kind] * self.draws.uniform("bias error", 0.93, 1.07)

    def hot(self, setting: Setting) -> Array:
        """(draws,) 1 where a cell with a working heater is at temperature."""
        if setting.sensor_c == "hot":
            return np.ones(self.draws.count)
        if setting.key == "running" and setting.conditions & WORKED:
            return self._worked_hot()
        if isinstance(setting.sensor_c, int | float):
            return np.full(self.draws.count, float(setting.sensor_c > 320))
        if setting.key != "running":
            return (self.draws.unit("still hot") < 0.25).astype(float)
        if self.unheated and setting.at_s is not None and setting.at_s >= UNHEATED_HOT_S:
            return self._worked_hot()
        if setting.at_s is not None:
            return (self.draws.uniform("light-off", 12.0, 70.0) < setting.at_s).astype(float)
        return (~self.stays_cold).astype(float)

    def _worked_hot(self) -> Array:
        """(draws,) 1 where the exhaust of an engine worked hard has heated the cell, if its heater has not."""
        share = prior("worked-front" if self.known.position == 1 else "worked-behind") if self.unheated else 1.0
        return (self.draws.unit("worked hot") < share).astype(float)

    def circuit(self, setting: Setting, phase: str) -> Circuit:
        """The network in a setting with the mixture rich or lean, and what each fault does in it."""
        network = Network(GROUND, self.draws.count)
        draws = self.draws
        battery_v = (
            self.known.system_v / 12.0 * draws.uniform("battery " + setting.key, *battery()[setting.key].usual_v)
        )
        battery_branch(network, draws, setting.battery == "connected", battery_v)
        network.branch("chassis strap", "chassis", GROUND, draws.uniform("chassis strap", 0.002, 0.02))
        network.branch("module ground", "module.power_ground", "chassis", draws.uniform("module ground", 0.002, 0.02))
        network.branch("shell", "sensor.shell", "chassis", draws.uniform("shell", 0.02, 0.5))
        branch_at: dict[str, str] = {}
        for terminal in self.wired:
            self._wire(network, setting, terminal, branch_at)
        powered = 1.0 if setting.powered and setting.module_connector == "mated" else 0.0
        self._module(network, powered)
        self._cell(network, setting, phase)
        if setting.fed_v is not None:
            network.branch("fed", GROUND, f"harness.{self.positive}", FED_THROUGH_OHMS, setting.fed_v)
        for a, b in setting.jumpers:
            if network.has_node(a) and network.has_node(b):
                network.bridge(a, b, JUMPER_OHMS)
        return Circuit(network, self._effects(network, phase, setting), branch_at)

    @property
    def wired(self) -> list[str]:
        """The terminals of the cell's wires."""
        return [name for name in self.family.terminals if name not in HEATER_TERMINALS]

    def _wire(self, network: Network, setting: Setting, terminal: str, branch_at: dict[str, str]) -> None:
        half = self.draws.uniform("wire " + terminal, 0.01, 0.15)
        mated = setting.connector == "mated"
        seated = setting.module_connector == "mated"
        network.branch(f"pin {terminal}", f"harness.{terminal}", f"sensor.{terminal}", 0.02 if mated else OPEN_OHMS)
        network.branch(f"wire {terminal} 2", f"inline.{terminal}", f"harness.{terminal}", half)
        network.branch(f"wire {terminal} 1", f"module.{terminal}", f"inline.{terminal}", half)
        network.branch(
            f"module pin {terminal}", f"module_pin.{terminal}", f"module.{terminal}", 0.02 if seated else OPEN_OHMS
        )
        branch_at[f"harness.{terminal}"] = branch_at[f"sensor.{terminal}"] = f"pin {terminal}"
        branch_at[f"module.{terminal}"] = f"module pin {terminal}"

    def _module(self, network: Network, powered: float) -> None:
        """Bias or reference sources, and the input's own resistance."""
        draws, top = self.draws, f"module_pin.{self.positive}"
        low = f"module_pin.{self.negative}" if self.negative else "module.power_ground"
        held = self.cell in ("limiting-current", "two-cell")
        if self.negative and not held:
            network.branch("return ground", low, "module.power_ground", draws.uniform("return ground", 0.02, 0.3))
        if self.cell == "limiting-current":
            network.branch("bias", "module.power_ground", top, draws.uniform("held", 20, 60), powered * self.bias_v)
            network.branch("return ground", "module.power_ground", low, 20.0, powered * (self.bias_v - self._apart()))
        elif self.cell == "two-cell":
            network.branch("bias", low, top, draws.log_uniform("sense", 3e4, 2e5), powered * SENSED_V)
            network.branch("return ground", "module.power_ground", low, 15.0, powered * self.bias_v)
            network.branch("pump source", "module.power_ground", "module_pin.pump", 30.0, powered * self.bias_v)
        elif self.cell == "titania":
            network.branch(
                "bias", "module.power_ground", top, draws.log_uniform("pull-up", 5e3, 6e4), powered * self.bias_v
            )
        else:
            source = np.where(self.bias_v < 0.05, 1e8, draws.log_uniform("bias source", 1e5, 1e6))
            network.branch("bias", low, top, source, powered * self.bias_v)
        network.branch("input", top, "module.power_ground", draws.log_uniform("input", 1.5e6, 1e7))

    def _apart(self) -> Array:
        return self.draws.uniform("apart", 0.27, 0.42)

    def _cell(self, network: Network, setting: Setting, phase: str) -> None:
        low = f"sensor.{self.negative}" if self.negative else "sensor.shell"
        top = f"sensor.{self.positive}"
        hot = self.hot(setting)
        cold_ohms = self.draws.log_uniform("cold cell", 5e6, 5e7)
        ohms = np.where(hot > 0, self._hot_ohms(phase), cold_ohms)
        network.branch("cell", low, top, ohms, hot * self._cell_v(setting, phase))
        if self.cell == "two-cell":
            pump_v = self._pump_v(phase) * hot
            network.branch("pump cell", low, "sensor.pump", np.where(hot > 0, 120.0, cold_ohms), pump_v)
            if "trim" in self.family.terminals:
                network.branch("trim resistor", "sensor.trim", "sensor.pump", self.draws.uniform("trim", 30.0, 300.0))

    def _hot_ohms(self, phase: str) -> Array:
        draws = self.draws
        if self.cell == "titania":
            return (
                draws.log_uniform("titania " + phase, 300, 3e3)
                if phase == RICH
                else draws.log_uniform("titania lean", 5e4, 5e5)
            )
        if self.cell == "limiting-current":
            return draws.uniform("cell ohms", 200.0, 400.0)
        return (
            draws.log_uniform("cell ohms", 80.0, 400.0)
            if self.cell == "two-cell"
            else draws.log_uniform("source", 300, 8e3)
        )

    def _cell_v(self, setting: Setting, phase: str) -> Array:
        """The cell's own voltage in volts."""
        draws = self.draws
        if self.cell == "titania":
            return np.zeros(draws.count)
        if self.cell == "two-cell":
            return np.full(draws.count, 0.45)
        if self.cell == "limiting-current":
            apart = self._apart()
            return apart + (
                draws.uniform("rich emf", 0.02, 0.3) if phase == RICH else -draws.uniform("lean emf", 0.02, 0.3)
            )
        if setting.key != "running":
            return draws.uniform("standing", 0.0, 0.2)
        return draws.uniform("rich level", 0.74, 0.95) if phase == RICH else draws.uniform("lean level", 0.03, 0.2)

    def _pump_v(self, phase: str) -> Array:
        size = self.draws.uniform("pump swing", 0.02, 0.25)
        return size if phase == RICH else -size

    def _effects(self, network: Network, phase: str, setting: Setting) -> dict[str, Effect]:
        draws = self.draws
        open_ohms = draws.log_uniform("open", 3e7, OPEN_OHMS)
        high = (
            draws.log_uniform("high ohms", 2e5, 2e7)
            if self.cell == "zirconia"
            else draws.log_uniform("high ohms", 300, 3e4)
        )
        short = draws.log_uniform("short ohms", 0.05, 20.0)

        def series(ohms: Array, *branches: str, volts: Array | None = None) -> Effect:
            picked = draws.choice("place " + branches[0], [1.0] * len(branches)) if len(branches) > 1 else None
            return Effect((Change(network.through(*branches, choice=picked), each_draw(ohms, draws.count), volts),))

        def across(ohms: Array, a: str, b: str) -> Effect:
            return Effect((Change(network.across(a, b), 1.0 / ohms),))

        effects: dict[str, Effect] = {}
        for terminal in self.wired:
            halves = (f"wire {terminal} 1", f"wire {terminal} 2")
            effects[f"wire-open:{terminal}"] = series(open_ohms, *halves)
            effects[f"wire-high:{terminal}"] = series(high, *halves)
            effects[f"pin-open:{terminal}"] = series(open_ohms, f"pin {terminal}")
            effects[f"wire-short-ground:{terminal}"] = across(short, f"harness.{terminal}", GROUND)
            effects[f"wire-short-battery:{terminal}"] = across(short, f"harness.{terminal}", "battery.positive")
            if terminal in BESIDE_THE_SIGNAL:
                effects[f"wire-short-pair:{terminal}"] = across(
                    short, f"harness.{terminal}", f"harness.{self.positive}"
                )
        if not self.unheated:
            effects |= self._to_heater(network, setting)
        effects["shell-ground-high"] = series(draws.log_uniform("rust", 2e4, 1e7), "shell")
        effects["cell-open"] = series(open_ohms, "cell")
        low = f"sensor.{self.negative}" if self.negative else "sensor.shell"
        effects["cell-shorted"] = across(draws.log_uniform("cell short", 1.0, 300.0), f"sensor.{self.positive}", low)
        zero = np.zeros(draws.count)
        running = float(setting.key == "running")
        for name, volts in self._shifts(phase).items():
            effects[name] = series(zero, "cell", volts=volts * running * self.hot(setting))
        effects["bias-missing"] = self._without_bias(network, setting)
        cold = draws.unit("cold without heater") < 1 - self._hot_share(heated=False)
        freezing = np.where(cold & (self.hot(setting) > 0), draws.log_uniform("unheated", 5e6, 5e7), 0.0)
        effects[COLD_HEATER] = series(freezing, "cell")
        left_cold = draws.unit("cold behind a weak heater") < WEAK_LEAVES_COLD
        effects[WEAK_HEATER] = series(np.where(left_cold, freezing, 0.0), "cell")
        return effects

    def _to_heater(self, network: Network, setting: Setting) -> dict[str, Effect]:
        """The signal touches one of the heater's wires in the loom, or the element leaks into the cell: both pull it to battery,
        the control wire to ground while it is driven.
        """
        driven = (self.draws.unit("heater beside is driven") < DRIVEN_BESIDE) & (setting.key == "running")
        pulled = network.across_either(f"harness.{self.positive}", (GROUND, "battery.positive"), ~self.to_feed & driven)
        fed = float(setting.powered and setting.connector == "mated")
        inside = Change(network.across(f"sensor.{self.positive}", "battery.positive"), fed / self.leak_ohms)
        return {
            "signal-short-heater": Effect((Change(pulled, 1.0 / self.to_heater_ohms),)),
            "cell-heater-leak": Effect((inside,)),
        }

    @property
    def to_feed(self) -> NDArray[np.bool_]:
        """(draws,) True where a signal shorted to the heater touches its feed, else its control wire."""
        return self.draws.unit("which heater wire") < TO_FEED

    @property
    def to_heater_ohms(self) -> Array:
        """(draws,) between the signal and the heater's wire that it touches."""
        return self.draws.log_uniform("to heater", 1.0, 2e4)

    @property
    def leak_ohms(self) -> Array:
        """(draws,) between element and cell where the insulation between them has gone."""
        return self.draws.log_uniform("leak inside", 50.0, 2e5)

    def apart_ohms(self, seated: bool) -> Array:
        """(draws,) between a sound signal wire and a heater's wire: the module's input and its driver's leak, or nothing at all."""
        through = self.draws.log_uniform("input", 1.5e6, 1e7) + self.draws.log_uniform("driver leak", 3e4, 5e6)
        return through if seated else np.full(self.draws.count, OPEN_OHMS)

    def _without_bias(self, network: Network, setting: Setting) -> Effect:
        """The module's bias gone; where it holds several wires, what holds all of them or one of them."""
        powered = 1.0 if setting.powered and setting.module_connector == "mated" else 0.0
        sources = {"bias": self.bias_v}
        if self.cell == "limiting-current":
            sources["return ground"] = self.bias_v - self._apart()
        if self.cell == "two-cell":
            sources = {
                "bias": np.full(self.draws.count, SENSED_V),
                "return ground": self.bias_v,
                "pump source": self.bias_v,
            }
        zero, one_of = np.zeros(self.draws.count), (1.0 - ALL_LOST) / len(sources)
        lost = self.draws.choice("bias lost", [ALL_LOST, *(one_of for _ in sources)])
        return Effect(
            tuple(
                Change(network.through(name), zero, -powered * volts * ((lost == 0) | (lost == place)))
                for place, (name, volts) in enumerate(sources.items(), start=1)
            )
        )

    def _shifts(self, phase: str) -> dict[str, Array]:
        """Aged cells: how far their voltage is off, in volts. Some change over at another mixture than they should, at full volts."""
        draws = self.draws
        span = 0.3 if self.cell in ("zirconia", "titania") else 0.12
        up = draws.uniform("shift", 0.8 * span, 1.8 * span)
        if self.cell in ("zirconia", "titania"):
            up = np.where(draws.unit("changes over elsewhere") < CHANGES_OVER_ELSEWHERE, 0.0, up)
        squeeze = draws.uniform("squeeze", 0.6 * span, 1.1 * span)
        slow = draws.uniform("slow squeeze", 0.0, 0.25 * span)
        return {
            "cell-biased-rich": up if phase == LEAN else 0.15 * up,
            "cell-biased-lean": -up if phase == RICH else -0.15 * up,
            "cell-contaminated": -squeeze if phase == RICH else squeeze,
            "cell-slow": -slow if phase == RICH else slow,
        }
