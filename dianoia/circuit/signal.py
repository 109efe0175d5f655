"""The signal loop: cell, plug, loom, module input with its bias or reference.

Phases are the mixture at the cell, ``rich`` and ``lean``. What a kind of cell does in it is its own file in ``cells``.
"""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from dianoia.case.setting import LAID_BY, Setting
from dianoia.circuit.assumptions import battery, prior
from dianoia.circuit.cells import cell_of
from dianoia.circuit.cells.cell import LEAN, RICH
from dianoia.circuit.draws import Draws
from dianoia.circuit.feed import battery_branch, feed_live_from
from dianoia.circuit.heater import COMMANDED
from dianoia.circuit.known import KnownValues
from dianoia.circuit.leads import FED_THROUGH_OHMS, JUMPER_OHMS
from dianoia.circuit.network import DIRTY_OHMS, OPEN_OHMS, Array, Network, each_draw
from dianoia.circuit.types import Change, Circuit, Effect
from dianoia.families.tables import weights
from dianoia.families.types import HEATER_TERMINALS

PHASES = (RICH, LEAN)
GROUND = "battery.negative"
#: Marks a hypothesis in which the heater does not work, so that the cell may stay cold.
COLD_HEATER = "@heater-dead"
#: Marks one in which it is fed through a resistance, which may leave it the heat it needs.
WEAK_HEATER = "@heater-weak"
#: Added to either where a lead from the heater's control wire at the plug to ground goes round the fault.
BYPASSED = ":bypassed"
#: Every mark of a heater's fault in the signal loop.
HEATER_MARKS = tuple(mark + way for mark in (COLD_HEATER, WEAK_HEATER) for way in ("", BYPASSED))
#: Share of the cells cold without a heater that a weak one leaves cold. Of resistances spread by ratio from 0.085 to 30 times the
#: hot element those above 0.58 of it, through which it has less than 40 % of its power.
WEAK_LEAVES_COLD = 0.67
#: The engine worked hard enough for its exhaust to heat the cell, whatever it was at idle.
WORKED = frozenset(("rich", "lean", "snap", "fuel-cut"))
#: Running so long heats a cell without a heater, in s.
UNHEATED_HOT_S = 600.0
#: What a cell has beside its own resistance where only an idling engine's exhaust heats it, in ohms. A thimble cell of some kilohms at
#: 600 °C has fifty times that at 400 °C and two hundred times at 350 °C (activation energy of zirconia, about 1 eV).
HALF_WARM_OHMS = (1e2, 3e6)
#: What the cell's positive wire touches where two of its wires touch.
BESIDE_THE_SIGNAL = ("signal_return", "cell_negative", "virtual_ground")
#: How often the heater beside is driven while the engine runs, and how often it is its feed that a signal touches; own estimates.
DRIVEN_BESIDE, TO_FEED = 0.75, 0.7
#: What joins the signal to a heater's wire that floats, in siemens.
FLOATS_S = 1e-9
#: Share of the modules that, of several sources, lose all; else one of them.
ALL_LOST = 0.5
#: Share of the draws in which a healthy cell stays cold although heated.
COLD_DRAWN = 0.12


def grounded_by_hand(setting: Setting) -> bool:
    """Whether a lead holds the heater's control wire at ground, so that the heater works without the module."""
    return LAID_BY["control-grounded"] in setting.jumpers


class SignalLoop:
    """Builds the loop's network for any setting, from one set of draws."""

    def __init__(self, known: KnownValues, draws: Draws) -> None:
        self.known, self.draws = known, draws
        self.family = known.family
        self.cell = cell_of(known, draws)
        self.positive, self.negative = self.cell.positive, self.cell.negative
        self.bias_kind = self.cell.bias_kind()
        self.bias_v = self.cell.bias_v(self.bias_kind)
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

    def hot(self, setting: Setting) -> Array:
        """(draws,) 1 where a cell with a working heater is at temperature."""
        if setting.sensor_c == "hot":
            return np.ones(self.draws.count)
        if setting.powered and grounded_by_hand(setting) and not self.unheated:
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

    def electrical(self, setting: Setting) -> Setting:
        """See ``Loop``: what was done with the mixture says how long each phase lasts, and whether the cell is hot."""
        running = setting.key == "running"
        worked = WORKED if running and setting.conditions & WORKED else frozenset[str]()
        clock = setting.at_s if running and not worked else None
        commanded = setting.conditions & {COMMANDED}
        return replace(setting, at_s=clock, rpm=None, codes_cleared=False, conditions=worked | commanded)

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
        self.cell.at_module(network, self.bias_v, powered)
        network.branch("input", self.cell.top, "module.power_ground", self.draws.log_uniform("input", 1.5e6, 1e7))

    def _cell(self, network: Network, setting: Setting, phase: str) -> None:
        low = f"sensor.{self.negative}" if self.negative else "sensor.shell"
        hot = self.hot(setting)
        cold_ohms = self.draws.log_uniform("cold cell", 5e6, 5e7)
        half_warm = self._half_warm(setting) if self.unheated else 0.0
        ohms = np.where(hot > 0, self.cell.ohms(phase) + half_warm, cold_ohms)
        network.branch("cell", low, f"sensor.{self.positive}", ohms, hot * self.cell.volts(setting, phase))
        self.cell.beside(network, hot, cold_ohms, phase)

    def _half_warm(self, setting: Setting) -> Array:
        """(draws,) ohms that a cell without heat of its own has beside those of a hot one: none once the engine has worked."""
        idling = setting.key == "running" and not setting.conditions & WORKED and setting.sensor_c is None
        return self.draws.log_uniform("half warm", *HALF_WARM_OHMS) * float(idling)

    def _effects(self, network: Network, phase: str, setting: Setting) -> dict[str, Effect]:
        draws = self.draws
        open_ohms = draws.log_uniform("open", 3e7, DIRTY_OHMS)
        high = draws.log_uniform("high ohms", *self.cell.high_ohms)
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
        for name, volts in self.cell.shifts(phase).items():
            effects[name] = series(zero, "cell", volts=volts * running * self.hot(setting))
        effects["bias-missing"] = self._without_bias(network, setting)
        cold = draws.unit("cold without heater") < 1 - self._hot_share(heated=False)
        freezing = np.where(
            cold & (self.hot(setting) > 0), draws.log_uniform("unheated", 5e6, 5e7), self._half_warm(setting)
        )
        left_cold = draws.unit("cold behind a weak heater") < WEAK_LEAVES_COLD
        for mark, chilled in ((COLD_HEATER, freezing), (WEAK_HEATER, np.where(left_cold, freezing, 0.0))):
            effects[mark] = series(chilled, "cell")
            effects[mark + BYPASSED] = series(np.zeros(draws.count) if grounded_by_hand(setting) else chilled, "cell")
        return effects

    def _to_heater(self, network: Network, setting: Setting) -> dict[str, Effect]:
        """The signal touches one of the heater's wires in the loom, or the element leaks into the cell: each pulls it to where that
        wire or the element stands, and to nowhere where that floats.
        """
        mated = setting.connector == "mated"
        grounded, live = self._heater_wire(setting, mated)
        pulled = network.across_either(f"harness.{self.positive}", (GROUND, "battery.positive"), grounded)
        within, fed = self._element(setting)
        inside = network.across_either(f"sensor.{self.positive}", (GROUND, "battery.positive"), within)
        leak = np.where((within | fed) & mated, 1.0 / self.leak_ohms, FLOATS_S)
        touch = np.where(grounded | live, 1.0 / self.to_heater_ohms, FLOATS_S)
        return {
            _beside_heater(self.positive): Effect((Change(pulled, touch),)),
            "cell-heater-leak": Effect((Change(inside, leak),)),
        }

    def _heater_wire(self, setting: Setting, mated: bool) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """(draws,) True where the heater's wire beside the signal stands at ground, and where at battery; in neither case it floats."""
        fed, driven, low_side = self._feed_is_live(setting), self._driven(setting), self.low_side
        through = mated & np.ones_like(fed)  # the element joins the heater's two wires
        feed_live = np.where(low_side, fed, fed & driven)
        feed_ground = ~low_side & ~driven & through
        control_ground = np.where(low_side, driven, True)
        control_live = low_side & ~driven & fed & through
        grounded = np.where(self.to_feed, feed_ground, control_ground)
        return grounded, np.where(self.to_feed, feed_live, control_live) & ~grounded

    def _element(self, setting: Setting) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """The same of the element: at battery where its feed is live, at ground where only a high side's chassis end is joined."""
        fed, driven, low_side = self._feed_is_live(setting), self._driven(setting), self.low_side
        live = fed & (low_side | driven)
        return ~live & ~low_side, live

    def _driven(self, setting: Setting) -> NDArray[np.bool_]:
        """(draws,) True where the module drives the heater beside."""
        running = setting.key == "running" or COMMANDED in setting.conditions
        return (self.draws.unit("heater beside is driven") < DRIVEN_BESIDE) & (running and setting.powered)

    def _feed_is_live(self, setting: Setting) -> NDArray[np.bool_]:
        """(draws,) True where the heater's feed carries battery voltage."""
        live = feed_live_from(self.known, self.draws)
        from_key = {"off": 0, "on": 1}.get(setting.key, 2)
        return (live <= from_key) & (setting.battery == "connected")

    @property
    def low_side(self) -> NDArray[np.bool_]:
        """(draws,) True where the module switches the heater's ground side."""
        if self.known.heater_switch is not None:
            return np.full(self.draws.count, self.known.heater_switch == "low-side")
        return self.draws.unit("heater switch beside") < weights("heater_switch")["low-side"]

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
        sources = self.cell.sources(self.bias_v)
        zero, one_of = np.zeros(self.draws.count), (1.0 - ALL_LOST) / len(sources)
        lost = self.draws.choice("bias lost", [ALL_LOST, *(one_of for _ in sources)])
        return Effect(
            tuple(
                Change(network.through(name), zero, -powered * volts * ((lost == 0) | (lost == place)))
                for place, (name, volts) in enumerate(sources.items(), start=1)
            )
        )


def _beside_heater(positive: str) -> str:
    """The fault of a signal that touches one of the heater's wires; of a two-cell sensor it is another part of the circuit."""
    return "signal-short-heater:nernst" if positive == "nernst" else "signal-short-heater"
