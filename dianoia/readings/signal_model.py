"""The signal loop under every hypothesis: voltages through the network, and what the module makes of them.

What is not a voltage or a current follows from behaviour: how often a signal switches, how fast its edges are, which
way the fuel trims go, whether the loop closes. Those figures are drawn for each hypothesis from the trade's own ranges.
"""

from collections.abc import Mapping, Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from dianoia.case.measures import Probe
from dianoia.case.measures.figures import HIGHEST, LOWEST
from dianoia.case.measures.scan import OF_CELL
from dianoia.case.setting import Setting
from dianoia.case.terms import Pid
from dianoia.circuit.cells.cell import LEAN, RICH
from dianoia.circuit.draws import Sampling
from dianoia.circuit.known import KnownValues
from dianoia.circuit.network import Array
from dianoia.circuit.signal import COLD_HEATER, PHASES, WORKED, SignalLoop
from dianoia.families.types import HEATER_TERMINALS
from dianoia.quantities.types import Kind
from dianoia.readings.circuit_model import CircuitModel, ModelRequest, ModelResponse
from dianoia.readings.control import GIVEN_UP, ControlInput, Trims, between, deaf_to_none, heard
from dianoia.readings.display import Categorical, Numeric
from dianoia.readings.instruments import query_of
from dianoia.readings.instruments.seen import ProbePlace, Query, metered
from dianoia.readings.model import Hypothesis
from dianoia.readings.movement import FAST_RPM, PAST_THE_TRIMS, RUN_AWAY, SETTLES, Gas, Movement
from dianoia.readings.moving import Levels, live
from dianoia.readings.outcomes import Display

#: As wide as the unknown is.
EVEN = Sampling()
#: A module bias below this many volts is none.
NO_BIAS_V = 0.05
#: A sensing cell above this resistance cannot be held by the module's pump control, which then lets go, in ohms.
SENSED_OHMS = 2500.0
#: Share of the cells that stay cold which do so although their heater is seen to draw current; own estimate.
COLD_THOUGH_HEATED = 0.1
#: From this share of hot cells on a healthy one is held to be hot.
USUALLY_HOT = 0.75
#: A recording that swings less than this, in the base unit, has no moment at which it follows a stimulus.
MOVES: dict[Kind, float] = {"voltage": 0.05, "cell_current": 3e-5, "lambda": 0.01}
#: Edges from 0.3 to 0.6 V in s, sound, coated and worn; and how long gas takes from the valve to the cell, in s.
EDGE_S, COATED_S, SLOW_S, TRANSPORT_S = (0.03, 0.09), (0.1, 0.5), (0.15, 1.6), (0.05, 0.4)
#: Share of the modules whose input goes with their bias; own estimate.
DEAF = 0.6
#: What a module's input holds a signal down to, in volts, and how usual each is: its own supply, a converter's end, nothing.
CLAMPS = ((5.1, 1.6, 99.0), (0.5, 0.15, 0.35))
#: How far above the wire a scan tool may read, in volts.
TOOL_ABOVE_V = 0.12
#: Share of the swing that a scan tool's refreshing keeps.
SCAN_KEEPS = (0.8, 1.0)


class SignalModel(CircuitModel):
    """Answers queries about the signal loop. Its phases are the mixture's."""

    name = "signal"
    phases = PHASES
    behaviours = frozenset(
        (
            "module-input-dead",
            "cell-nonsense",
            "swapped-connectors",
            "swapped-connectors:nernst",
            "exhaust-leak",
            "engine-lean",
            "engine-rich",
            "catalyst-worn",
        )
    )

    def __init__(self, known: KnownValues, asked: ModelRequest, sampling: Sampling = EVEN) -> None:
        self.position = known.position
        self.loop = SignalLoop(known, sampling.draws())
        super().__init__(asked, [self.loop], [1.0], known.system_v)

    def _ask(self, hypotheses: Sequence[Hypothesis]) -> None:
        """See ``CircuitModel``."""
        super()._ask(hypotheses)
        self._heard_at: dict[object, ControlInput] = {}
        self.__dict__.pop("_gas", None)

    def conditioned(self, battery_v: Mapping[str, float]) -> "SignalModel":
        """The signal hardly depends on the battery: this model itself."""
        return self

    def working(self, probe: Probe) -> Array:
        """(draws,) True where the healthy cell is hot in the probe's state, or cannot be."""
        hot = self.loop.hot(probe.setting) > 0
        usual = probe.key == "running" and np.average(hot, weights=self.draw_weight) > USUALLY_HOT
        return hot if usual else np.ones(self.draws, dtype=bool)

    def when_heated(self) -> Array | None:
        """See ``LoopModel``."""
        return None if self.loop.unheated else np.where(self.loop.stays_cold, np.log(COLD_THOUGH_HEATED), 0.0)

    def can_be(self) -> Array:
        """A bias cannot be missing where the module has none."""
        return ~self.has("bias-missing") | (self.loop.bias_v > NO_BIAS_V)[None]

    @property
    def kinds(self) -> NDArray[np.int64]:
        """By the module's bias, and whether the cell gets hot."""
        return 2 * self.loop.bias_kind + self.loop.stays_cold

    def share(self, setting: Setting) -> dict[str, Array]:
        """How much of the time the mixture at the cell is rich."""
        movement = self._movement(setting, self.position)
        rich = movement.up * movement.high + (1.0 - movement.up) * movement.low
        return {RICH: rich, LEAN: 1.0 - rich}

    def _movement(self, setting: Setting, position: int) -> Movement:
        """How the gas at a cell of this kind moves, ahead of the catalyst (1) or behind it."""
        if setting.key != "running":
            return self._gas.at_rest()
        if position > 1:
            idle = self._gas.rear(setting)
        else:
            heard = self._heard(setting) if self.position == 1 else deaf_to_none()
            idle = self._gas.continuous(setting, heard) if self._continuous else self._gas.front(setting, heard)
        asked = next((name for name in SETTLES if name in setting.conditions), None)
        return self._gas.stirred(setting, asked, idle, position > 1) if asked else idle

    @property
    def _continuous(self) -> bool:
        return self.loop.cell.continuous

    def _heard(self, setting: Setting) -> ControlInput:
        """What reaches the module of a front cell once the engine runs, as hot as it is in a setting."""
        heat = "hot" if setting.conditions & WORKED else setting.sensor_c
        if heat not in self._heard_at:
            at, sound = (self._arrives(Setting(key="running", sensor_c=c)) for c in (heat, "hot"))
            gives_up = self.each_draw("gives up")[None] < GIVEN_UP
            self._heard_at[heat] = heard(at, sound, gives_up) if at and sound else deaf_to_none()
        return self._heard_at[heat]

    def _arrives(self, setting: Setting) -> dict[str, Array] | None:
        return self._amps(setting) if self._continuous else self.input_volts(setting)

    @cached_property
    def _gas(self) -> Gas:
        def unit(name: str) -> Array:
            return self.each_draw(name)[None]

        rise, fall = self._edges()
        return Gas(
            slow=self.has("cell-slow"), edge_s=np.maximum((rise + fall) / 2.0 - EDGE_S[1], 0.0), lean=self.has("engine-lean"), rich=self.has("engine-rich"),
            leak=self.has("exhaust-leak"), worn=self.has("catalyst-worn"), swapped=self.has("swapped-connectors"),
            mixture=unit("mixture"), rate=unit("rate"), swing=unit("swing"), place=unit("place"),
            past=unit("past the trims"), dips=unit("rear dips"), air=unit("air"),
            noted=unit("noted"), part=unit("noted part"), closing=unit("closing noted"),
        )  # fmt: skip

    def _levels(
        self, setting: Setting, at: Mapping[str, Array], kind: Kind, position: int
    ) -> tuple[Levels, Array | None]:
        """A signal between what it is lean and rich, and where it settles after a stimulus."""
        movement, lean, rich = self._movement(setting, position), at[LEAN], at[RICH]
        one, other = lean + movement.low * (rich - lean), lean + movement.high * (rich - lean)
        turned = one > other
        up = np.where(turned, 1.0 - movement.up, movement.up)
        settled = None if movement.settled is None else lean + movement.settled * (rich - lean)
        return Levels(kind, np.minimum(one, other), np.maximum(one, other), up, movement.changes), settled

    def _live(self, seen: Levels, settled: Array | None) -> Mapping[str, Display]:
        """One look, the ends of a span, and its movement; after a stimulus where it settles."""
        low, high = seen.ends()
        if settled is not None:
            return {"value": live(seen.kind, settled), LOWEST: low, HIGHEST: high}
        return {"value": seen.look(), LOWEST: low, HIGHEST: high, "moves": seen.moves()}

    def _scanned(self, seen: Levels) -> Levels:
        low, high = SCAN_KEEPS
        return seen.seen(low + (high - low) * self.each_draw("span kept")[None])

    def queries(self, probe: Probe) -> list[Query]:
        """A scan value or a recording is what arrives at the module."""
        if probe.scanned not in OF_CELL:
            return super().queries(probe)
        setting = probe.setting
        if self._continuous:
            return [Query(setting, (self._measuring, self._input) if self.loop.cell.sensed else (self._measuring,))]
        return [Query(setting, (self._input,)), Query(Setting(key=setting.key), (self._input,))]

    def worked_out(self, probe: Probe) -> Mapping[str, Display] | None:
        """See ``CircuitModel``; what is taken at the heater's wires alone is the heater loop's to answer."""
        beside = probe.terminals.intersection(HEATER_TERMINALS)
        return None if beside and probe.terminals.isdisjoint(self.loop.wired) else super().worked_out(probe)

    def own_displays(self, probe: Probe) -> Mapping[str, Display] | None:
        """Scan values that are behaviour, the figures of a recording, and volts on a wire that moves."""
        if probe.live_value:
            return self._scan(probe.setting, probe.live_value, self._position(probe))
        if probe.scanned:
            return self._trace(probe.setting, probe.scanned, self._position(probe))
        if probe.reads_ohms and probe.terminals.intersection(HEATER_TERMINALS):
            return self._between_loops(probe)
        if probe.reads_volts and probe.may_move and probe.key == "running" and not probe.loaded:
            return self._metered(probe)
        return None

    def _metered(self, probe: Probe) -> Mapping[str, Display] | None:
        query = query_of(probe)
        seen = self.seen(query) if query else None
        if seen is None:
            return None
        volts = {phase: metered(seen, phase) for phase in PHASES}
        levels, settled = self._levels(probe.setting, volts, "voltage", self._position(probe))
        return self._live(levels.through_meter(), settled)

    def _between_loops(self, probe: Probe) -> Mapping[str, Display]:
        """Ohms between one of the cell's wires and one of the heater's."""
        loop, mated = self.loop, probe.setting.connector == "mated"
        inside = mated or all(point.startswith("sensor.") for point in probe.points)
        outside = mated or not any(point.startswith("sensor.") for point in probe.points)
        seated = outside and probe.setting.module_connector == "mated"
        touched = np.where(loop.to_feed, "heater_supply", "heater_control")
        met = (outside & np.isin(touched, list(probe.terminals))) if not inside else np.full(self.draws, outside)
        ohms = np.broadcast_to(loop.apart_ohms(seated), (len(self.hypotheses), self.draws))
        if loop.positive in probe.terminals:
            ohms = np.where(self.has("signal-short-heater") & met, loop.to_heater_ohms, ohms)
            ohms = np.where(self.has("cell-heater-leak") & inside, loop.leak_ohms, ohms)
        return {"value": Numeric("resistance", ohms)}

    def _position(self, probe: Probe) -> int:
        """Of the sensor that is read: another one may sit elsewhere on the pipe."""
        return int(probe.of[-1]) if probe.of and probe.of.startswith("B") else self.position

    def input_volts(self, setting: Setting) -> dict[str, Array] | None:
        """Phase -> volts at the module's input, (hypotheses, draws); None where the module has none."""
        seen = self._answer_at(self._input, setting)
        if seen is None:
            return None
        stuck = np.array([0.0, 0.45, 1.2])[self.loop.draws.choice("stuck input", [0.4, 0.4, 0.2])][None]
        deaf = self.has("bias-missing") & (self.each_draw("deaf without bias")[None] < DEAF)
        dead, swapped = self.has("module-input-dead"), self.has("swapped-connectors")
        other = self._other_input(setting.key) if swapped.any() else seen.volts
        volts = {phase: np.where(swapped, other[phase], seen.volts[phase]) for phase in PHASES}
        held = np.array(CLAMPS[0])[self.loop.draws.choice("input clamp", CLAMPS[1])][None]
        volts = {phase: np.where(deaf, 0.0, np.minimum(volts[phase], held)) for phase in PHASES}
        return {phase: np.where(dead, stuck, volts[phase]) for phase in PHASES}

    def _other_input(self, key: str) -> Mapping[str, Array]:
        """Phase -> what the input shows whose connector was crossed with this one: another healthy sensor, plugged in."""
        seen = self._answer_at(self._input, Setting(key=key))
        assert seen is not None
        return {phase: volts[:1] for phase, volts in seen.volts.items()}

    def _answer_at(self, place: ProbePlace, setting: Setting) -> ModelResponse | None:
        """What the network says of one place."""
        answers = self.answers(Query(setting, (place,)))
        return answers[0] if answers else None

    @property
    def _input(self) -> ProbePlace:
        low = f"module_pin.{self.loop.negative}" if self.loop.negative else "module.power_ground"
        return ProbePlace(f"module_pin.{self.loop.positive}", low)

    def _scan(self, setting: Setting, pid: Pid, position: int) -> Mapping[str, Display] | None:
        if pid == "loop":
            return {"value": self._loop_closed(setting)}
        if pid in ("short_trim", "long_trim"):
            return self._trims(setting, pid)
        levels = self._signal(pid, setting, position)
        return None if levels is None else self._live(self._scanned(levels[0]), levels[1])

    def _signal(self, pid: Pid, setting: Setting, position: int) -> tuple[Levels, Array | None] | None:
        """What the module sees of the cell, as this scan value; None where it has no such value."""
        if pid == "sensor_voltage" and not self._continuous:
            volts = self.input_volts(setting)
            if volts is None:
                return None
            # a tool's nought is a little above the wire's: it shows a grounded wire at a few hundredths
            shown = {
                phase: item + TOOL_ABOVE_V * self.each_draw("tool above")[None] ** 2 for phase, item in volts.items()
            }
            return self._levels(setting, shown, "voltage", position)
        if pid not in ("cell_current", "lambda") or not self._continuous:
            return None
        amps = self._amps(setting)
        if amps is None:
            return None
        if pid == "cell_current":
            return self._levels(setting, amps, "cell_current", position)
        return self._levels(setting, {phase: self._lambda(item) for phase, item in amps.items()}, "lambda", position)

    def _loop_closed(self, setting: Setting) -> Categorical:
        closed = (
            np.where(self._heard(setting).nothing | self.has(COLD_HEATER), 0.2, 0.95)
            if self.position == 1
            else np.full((len(self.hypotheses), 1), 0.93)
        )
        closed = np.broadcast_to(closed, (len(self.hypotheses), self.draws))
        return Categorical({"closed": closed, "open": 1 - closed})

    @property
    def _measuring(self) -> ProbePlace:
        """Where the module measures the cell's current."""
        return ProbePlace(f"module.{self.loop.cell.measured_at or self.loop.positive}")

    def _lambda(self, amps: Array) -> Array:
        return np.clip(1.0 + 400.0 * amps * (0.7 + 0.6 * self.each_draw("lambda slope")), 0.65, 3.0)

    def _amps(self, setting: Setting) -> dict[str, Array] | None:
        """Phase -> the current the module measures, (hypotheses, draws), in amperes; None where it measures none."""
        seen = self._answer_at(self._measuring, setting)
        if seen is None:
            return None
        silent = self.has("module-input-dead", "bias-missing") | ~self._regulated(setting)
        return {phase: np.where(silent, 0.0, seen.volts[phase]) for phase in PHASES}

    def _regulated(self, setting: Setting) -> Array:
        """Whether the module can hold the sensing cell: of two cells, only where it sees that cell at low resistance."""
        if not self.loop.cell.sensed:
            return np.ones((1, 1), dtype=bool)
        seen = self._answer_at(self._input, setting)
        return seen.ohms[RICH] < SENSED_OHMS if seen else np.ones((1, 1), dtype=bool)

    def _trims(self, setting: Setting, pid: Pid) -> Mapping[str, Display]:
        """What the loop makes up for; the short trim moves about more."""
        fast = setting.rpm is not None and setting.rpm > FAST_RPM
        trims, cleared = self._trim(setting), setting.codes_cleared
        trim = trims.short(fast, cleared) if pid == "short_trim" else trims.long(fast, cleared)
        trim = np.broadcast_to(trim, (len(self.hypotheses), self.draws))
        half = (0.01 + 0.07 * self.each_draw("trim swing")[None]) * (1.0 if pid == "short_trim" else 0.2)
        half = np.where(self.has("cell-slow"), 2.0 * half, half)
        still = np.full_like(trim, 20.0)
        levels = Levels("ratio", trim - half, trim + half, np.full_like(trim, 0.5), still)
        return {**self._live(levels, None), "value": live("ratio", trim)}

    def _trim(self, setting: Setting) -> Trims:
        def unit(name: str) -> Array:
            return self.each_draw(name)[None]

        front = self.position == 1
        return Trims(
            lean=self.has("engine-lean"), rich=self.has("engine-rich"), leak=self.has("exhaust-leak"),
            reads_lean=self.has("cell-biased-lean"), reads_rich=self.has("cell-biased-rich"),
            swapped=self.has("swapped-connectors"), heard=self._heard(setting) if front else deaf_to_none(), front=front,
            size=unit("trim"), kind=unit("leans"), side=unit("mixture"), wanders=unit("wanders"), run_away=unit("past the trims") < RUN_AWAY,
            beyond=unit("past the trims") < PAST_THE_TRIMS, gives_up=unit("gives up") < GIVEN_UP,
            learnt=unit("learnt"), end=unit("trim end"),
        )  # fmt: skip

    def _trace(self, setting: Setting, pid: Pid, position: int) -> Mapping[str, Display] | None:
        levels = self._signal(pid, setting, position)
        if levels is None:
            return None
        seen = levels[0]
        low, high = seen.ends()
        swing = seen.high - seen.low
        rise, fall = self._edges()
        transport = between(TRANSPORT_S, self.each_draw("transport")[None])
        delay = transport + 2.0 * np.maximum(rise, fall)
        figures: dict[str, Display] = {
            "mean": live(seen.kind, seen.up * seen.high + (1.0 - seen.up) * seen.low), LOWEST: low, HIGHEST: high,
            "delay_s": Numeric("time", np.where(swing > MOVES[seen.kind], delay, np.nan)),
            "first_activity_s": Numeric("time", self._first_activity()),
            "switches_per_min": Numeric("number", self._switches(seen, swing)),
        }  # fmt: skip
        if seen.kind == "voltage":
            figures |= {"rise_s": Numeric("time", rise), "fall_s": Numeric("time", fall)}
        return figures

    def _switches(self, seen: Levels, swing: Array) -> Array:
        """Switches a minute through the middle, where the swing reaches it."""
        still = swing <= (0.25 if seen.kind == "voltage" else MOVES[seen.kind])
        return np.where(still, 3.0 * self.each_draw("rate")[None], seen.changes)

    def _edges(self) -> tuple[Array, Array]:
        """From lean to rich and back, in s; a worn cell may be slow one way only."""
        one, other, which = (self.each_draw(name)[None] for name in ("edge", "edge back", "slow which way"))
        sound = [between(EDGE_S, unit) for unit in (one, other)]
        coated = [between(COATED_S, unit) for unit in (one, other)]
        slow = [SLOW_S[0] * (SLOW_S[1] / SLOW_S[0]) ** unit for unit in (one, other)]
        ways = (which < 0.75, (which < 0.5) | (which >= 0.75))
        worn, fouled = self.has("cell-slow"), self.has("cell-contaminated")
        rise, fall = (
            np.where(worn & way, lazy, np.where(fouled, poor, good))
            for good, poor, lazy, way in zip(sound, coated, slow, ways, strict=True)
        )
        return rise, fall

    def _first_activity(self) -> Array:
        unit = self.each_draw("first activity")[None]
        worn = self.has("cell-slow", "cell-contaminated")
        return np.where(self.has(COLD_HEATER), 80 + 300 * unit, np.where(worn, 15 + 165 * unit, 8 + 47 * unit))
