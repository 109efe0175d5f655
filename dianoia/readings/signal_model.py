"""The signal loop under every hypothesis: voltages through the network, and what the module makes of them.

What is not a voltage or a current follows from behaviour: how often a signal switches, how fast its edges are, which
way the fuel trims go, whether the loop closes. Those figures are drawn for each hypothesis from the trade's own ranges.
"""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from dianoia.case.ledger import Probe, ScanProbe, TraceProbe
from dianoia.case.live import OF_CELL
from dianoia.case.setting import Setting
from dianoia.circuit.draws import Sampling
from dianoia.circuit.known import Known
from dianoia.circuit.network import Array
from dianoia.circuit.signal import COLD_HEATER, LEAN, PHASES, RICH, SignalLoop
from dianoia.quantities.types import Kind
from dianoia.readings.circuit_model import Asked, CircuitModel
from dianoia.readings.display import Categorical, Display, Numeric
from dianoia.readings.instruments import Place, Query

#: As wide as the unknown is.
EVEN = Sampling()
#: Share of time the mixture at the cell is rich, (low, high), by what is done.
_RICH_SHARE = {
    "rich": (0.93, 1.0),
    "lean": (0.0, 0.07),
    "fuel-cut": (0.0, 0.05),
    "fresh-air": (0.0, 0.02),
    "snap": (0.4, 0.7),
}
#: A module bias below this many volts is none.
NO_BIAS_V = 0.05
#: A sensing cell above this resistance cannot be held by the module's pump control, which then lets go, in ohms.
SENSED_OHMS = 2500.0
#: A recording that swings less than this, in the base unit, has no moment at which it follows a stimulus.
MOVES: dict[Kind, float] = {"voltage": 0.05, "cell_current": 3e-5}


class SignalModel(CircuitModel):
    """Answers queries about the signal loop. Its phases are the mixture's."""

    name = "signal"
    phases = PHASES
    behaviours = frozenset(
        ("module-input-dead", "swapped-connectors", "exhaust-leak", "engine-lean", "engine-rich", "catalyst-worn")
    )

    def __init__(self, known: Known, asked: Asked, sampling: Sampling = EVEN) -> None:
        self.position = known.position
        self.loop = SignalLoop(known, sampling.draws())
        super().__init__(asked, [self.loop], [1.0], known.system_v)

    def conditioned(self, battery_v: Mapping[str, float]) -> "SignalModel":
        """The signal hardly depends on the battery: this model itself."""
        return self

    def working(self, probe: Probe) -> Array:
        """(draws,) True where the healthy cell is hot in the probe's state, or cannot be."""
        hot = self.loop.hot(probe.setting) > 0
        return hot if probe.key == "running" and hot.any() else np.ones(self.draws, dtype=bool)

    def _reads(self, how: str) -> Array:
        """(hypotheses, 1) True where a fault makes the module read lean, rich or nothing."""
        return self.with_trait(lambda traits: traits.reads == how)

    def can_be(self) -> Array:
        """A bias cannot be missing where the module has none."""
        return ~self.has("bias-missing") | (self.loop.bias_v > NO_BIAS_V)[None]

    @property
    def kinds(self) -> NDArray[np.int64]:
        """By the module's bias, and whether the cell gets hot."""
        return 2 * self.loop.bias_kind + self.loop.stays_cold

    def share(self, setting: Setting) -> dict[str, Array]:
        """How much of the time the mixture at the cell is rich."""
        rich = self._rich_share(setting)
        return {RICH: rich, LEAN: 1.0 - rich}

    def _rich_share(self, setting: Setting) -> Array:
        unit = self.each_draw("mixture")[None]
        if setting.key != "running":
            return np.zeros((1, self.draws))
        asked = next((name for name in _RICH_SHARE if name in setting.conditions), None)
        low, high = _RICH_SHARE[asked] if asked else ((0.38, 0.62) if self.position == 1 else (0.3, 1.0))
        rich = low + (high - low) * unit
        if asked not in ("fresh-air", "fuel-cut"):
            strength = 0.5 if asked else 1.0
            rich = np.where(self.has("engine-rich"), rich + strength * (1 - rich), rich)
            lean = self.has("engine-lean", "exhaust-leak")
            rich = np.where(lean, rich * (1 - strength) + (0.25 * strength if asked == "rich" else 0.0), rich)
        if asked:
            idle = 0.4 + 0.2 * unit
            rich = np.where(self.has("swapped-connectors"), idle, rich)
        return rich

    def queries(self, probe: Probe) -> list[Query]:
        """A scan value or a recording is what arrives at the module."""
        if probe.scanned not in OF_CELL:
            return super().queries(probe)
        setting = probe.setting
        if self.loop.cell == "limiting-current":
            return [Query(setting, (self._measuring,))]
        if self.loop.cell == "two-cell":
            return [Query(setting, (self._measuring, self._input))]
        return [Query(setting, (self._input,)), Query(Setting(key=setting.key), (self._input,))]

    def own_displays(self, probe: Probe) -> Mapping[str, Display] | None:
        """Scan values that are behaviour, and the figures of a recording."""
        if isinstance(probe, ScanProbe):
            return self._scan(probe)
        if isinstance(probe, TraceProbe):
            return self._trace(probe)
        return None

    def input_volts(self, setting: Setting) -> dict[str, Array] | None:
        """Phase -> volts at the module's input, (hypotheses, draws); None where the module has none."""
        seen = self.seen(Query(setting, (self._input,)))
        if seen is None:
            return None
        stuck = np.array([0.0, 0.45, 1.2])[self.loop.draws.choice("stuck input", [0.4, 0.4, 0.2])][None]
        dead, swapped = self.has("module-input-dead"), self.has("swapped-connectors")
        other = self._other_input(setting.key) if swapped.any() else seen.volts
        volts = {phase: np.where(swapped, other[phase][0], seen.volts[phase][0]) for phase in PHASES}
        return {phase: np.where(dead, stuck, volts[phase]) for phase in PHASES}

    def _other_input(self, key: str) -> Mapping[str, tuple[Array, ...]]:
        """Phase -> what the input shows whose connector was crossed with this one: another healthy sensor, plugged in."""
        seen = self.seen(Query(Setting(key=key), (self._input,)))
        assert seen is not None
        return {phase: (volts[0][:1],) for phase, volts in seen.volts.items()}

    @property
    def _input(self) -> Place:
        low = f"module_pin.{self.loop.negative}" if self.loop.negative else "module.power_ground"
        return Place(f"module_pin.{self.loop.positive}", low)

    def _scan(self, probe: ScanProbe) -> Mapping[str, Display] | None:
        setting = probe.setting
        share = self.share(setting)
        if probe.pid == "sensor_voltage" and self.loop.cell in ("zirconia", "titania"):
            volts = self.input_volts(setting)
            if volts is None:
                return None
            return {"value": Numeric("voltage", sum((share[phase] * volts[phase] for phase in PHASES), np.zeros(1)))}
        if probe.pid in ("cell_current", "lambda") and self.loop.cell in ("limiting-current", "two-cell"):
            return self._current(probe, setting)
        if probe.pid in ("short_trim", "long_trim"):
            return {"value": Numeric("ratio", self._trim())}
        if probe.pid == "loop":
            closed = (
                np.where(self._reads("nothing") | self.has(COLD_HEATER), 0.2, 0.95)
                if self.position == 1
                else np.full((len(self.hypotheses), 1), 0.93)
            )
            closed = np.broadcast_to(closed, (len(self.hypotheses), self.draws))
            return {"value": Categorical({"closed": closed, "open": 1 - closed})}
        return None

    def _current(self, probe: ScanProbe, setting: Setting) -> Mapping[str, Display] | None:
        amps = self._amps(setting)
        if amps is None:
            return None
        share = self.share(setting)
        mean = sum((share[phase] * amps[phase] for phase in PHASES), np.zeros(1))
        if probe.pid == "cell_current":
            return {"value": Numeric("cell_current", mean)}
        return {"value": Numeric("number", self._lambda(mean))}

    @property
    def _measuring(self) -> Place:
        """Where the module measures the cell's current."""
        return Place(f"module.{'pump' if self.loop.cell == 'two-cell' else self.loop.positive}")

    def _lambda(self, amps: Array) -> Array:
        return np.clip(1.0 + 400.0 * amps * (0.7 + 0.6 * self.each_draw("lambda slope")), 0.65, 3.0)

    def _amps(self, setting: Setting) -> dict[str, Array] | None:
        """Phase -> the current the module measures, (hypotheses, draws), in amperes; None where it measures none."""
        seen = self.seen(Query(setting, (self._measuring,)))
        if seen is None:
            return None
        silent = self.has("module-input-dead") | ~self._regulated(setting)
        return {phase: np.where(silent, 0.0, seen.volts[phase][0]) for phase in PHASES}

    def _regulated(self, setting: Setting) -> Array:
        """Whether the module can hold the sensing cell: of two cells, only where it sees that cell at low resistance."""
        if self.loop.cell != "two-cell":
            return np.ones((1, 1), dtype=bool)
        seen = self.seen(Query(setting, (self._input,)))
        return seen.ohms[RICH][0] < SENSED_OHMS if seen else np.ones((1, 1), dtype=bool)

    def _trim(self) -> Array:
        unit = self.each_draw("trim")[None]
        usual = -0.06 + 0.12 * unit
        if self.position > 1:
            lean, rich = self.has("engine-lean"), self.has("engine-rich")
        else:
            lean, rich = self._reads("lean"), self._reads("rich")
        return np.where(lean, 0.12 + 0.2 * unit, np.where(rich, -0.32 + 0.2 * unit, usual))

    def _trace(self, probe: TraceProbe) -> Mapping[str, Display] | None:
        setting = probe.setting
        if probe.signal == "sensor_voltage" and self.loop.cell in ("zirconia", "titania"):
            volts = self.input_volts(setting)
            return self._recorded(setting, volts, "voltage") if volts else None
        if probe.signal == "cell_current" and self.loop.cell in ("limiting-current", "two-cell"):
            amps = self._amps(setting)
            return self._recorded(setting, amps, "cell_current") if amps else None
        return None

    def _recorded(self, setting: Setting, levels: Mapping[str, Array], kind: Kind) -> Mapping[str, Display]:
        """The figures of a recording that alternates between the phases' levels."""
        share = self.share(setting)
        present = [np.where(share[phase] > 0.03, levels[phase], np.nan) for phase in PHASES]
        high, low = np.fmax(*present), np.fmin(*present)
        mean = sum((share[phase] * levels[phase] for phase in PHASES), np.zeros(1))
        unit = self.each_draw("pace")[None]
        edge = np.where(self.has("cell-slow"), 0.16 + 0.6 * unit, np.where(self.has("cell-contaminated"), 0.1 + 0.3 * unit,
                                                                          0.03 + 0.06 * unit))  # fmt: skip
        first = np.where(
            self.has(COLD_HEATER), 80 + 300 * unit, np.where(self.has("cell-slow"), 20 + 60 * unit, 10 + 45 * unit)
        )
        moving = np.abs(high - low) > MOVES[kind]
        figures: dict[str, Display] = {
            "mean": Numeric(kind, mean), "min": Numeric(kind, low), "max": Numeric(kind, high),
            "delay_s": Numeric("time", np.where(moving, 2 * edge, np.nan)), "first_activity_s": Numeric("time", first),
        }  # fmt: skip
        if kind == "voltage":
            switching = {"switches_per_min": Numeric("number", self._switches(high - low, unit))}
            figures |= {**switching, "rise_s": Numeric("time", edge), "fall_s": Numeric("time", edge)}
        return figures

    def _switches(self, swing: Array, unit: Array) -> Array:
        """Switches a minute through the middle."""
        moving = swing > 0.25
        if self.position > 1:
            worn = self.has("catalyst-worn")
            return np.where(worn, 25 + 60 * unit, 6 * unit)
        pace = np.where(self.has("cell-slow"), 4 + 20 * unit, 35 + 90 * unit)
        return np.where(moving & ~self.has("engine-rich", "engine-lean", "exhaust-leak"), pace, 3 * unit)
