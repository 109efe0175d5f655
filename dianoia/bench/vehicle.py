"""A simulated vehicle to practise on: one draw of the circuit with a hidden fault, answering any probe as text.

Its tolerances are not the engine's: other draws, and an error of its own on every figure.
"""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from dianoia.case.job import Job
from dianoia.case.load import from_plain, to_plain
from dianoia.case.measures import Probe, Reading
from dianoia.case.measures.figures import HIGHEST, LOWEST
from dianoia.circuit.draws import Draws, Sampling, WideDraws
from dianoia.circuit.known import known_of
from dianoia.circuit.network import Array
from dianoia.diagnosis.faults.elsewhere import felt_elsewhere, rows_met
from dianoia.diagnosis.faults.hypotheses import traits, without_heat
from dianoia.diagnosis.faults.observations import chances, usual
from dianoia.diagnosis.faults.space import JointSpace
from dianoia.diagnosis.faults.tables import faults
from dianoia.quantities.show import show
from dianoia.readings.circuit_model import CircuitModel, ModelRequest
from dianoia.readings.display import Categorical, Numeric
from dianoia.readings.heater_model import HeaterModel
from dianoia.readings.moving import MovingValue
from dianoia.readings.nox_model import NoxModel
from dianoia.readings.outcomes import Display
from dianoia.readings.scale import OL_FROM
from dianoia.readings.signal_model import SignalModel

#: Relative and absolute error of a simulated figure, one standard deviation.
NOISE = {
    "voltage": (0.006, 0.01), "current": (0.03, 0.004), "resistance": (0.025, 0.03), "ratio": (0.01, 0.01),
    "number": (0.02, 0.01), "time": (0.05, 0.01), "cell_current": (0.04, 1e-5), "lambda": (0.006, 0.002),
    "ppm": (0.05, 3.0), "oxygen": (0.02, 0.1),
}  # fmt: skip
#: Share of looks that are no better than a look at any vehicle.
UNCLEAR = 0.1
_DRAWS = 48


class ModelVehicle:
    """Answers probes for a hidden set of faults.

    gross_errors: share of readings misread by a factor or taken at the wrong pin; wide: tolerances beyond the engine's.
    """

    def __init__(
        self, job: Job, hidden: Sequence[str], seed: int, gross_errors: float = 0.0, wide: bool = False
    ) -> None:
        self.hidden = tuple(hidden)
        self._made_of = job, seed, gross_errors, wide
        self._wrong = gross_errors
        self._terminals = job.family.terminals
        self._drawn = WideDraws if wide else Draws
        self._random = np.random.default_rng(seed)
        self._models = self._build(job, seed + 1000)
        self._misread = False
        self._moves: str | None = None
        self._draw: dict[str, int] = {}
        for model in self._models:
            weight = model.draws_before[-1]  # only wiring in which the hidden fault is one
            self._draw[model.name] = int(self._random.choice(weight.size, p=weight / weight.sum()))

    def mended(self, hidden: Sequence[str]) -> "ModelVehicle":
        """The same vehicle with these faults left."""
        job, seed, gross_errors, wide = self._made_of
        return ModelVehicle(job, hidden, seed, gross_errors, wide)

    def _build(self, job: Job, seed: int) -> list[CircuitModel]:
        table, family, known = faults(), job.family, known_of(job)
        sampling = Sampling(_DRAWS, seed=seed, make=self._drawn)
        heater = tuple(name for name in self.hidden if "heater" in table[name].loop.split())
        signal = tuple(name for name in self.hidden if "signal" in table[name].loop.split())
        models: list[CircuitModel] = []
        if family.kind.unit:
            return [NoxModel(known, ModelRequest(_chain(self.hidden), traits()), sampling)]
        if family.has_heater_terminals:
            models.append(HeaterModel(known, ModelRequest(_chain(heater), traits()), sampling))
        models.append(
            SignalModel(known, ModelRequest(_chain((*without_heat(heater), *signal)[:2]), traits()), sampling)
        )
        return models

    def take(self, probe: Probe) -> Reading | None:
        """The reading a technician would note; None where the probe cannot be put there."""
        wrong = self._random.random() < self._wrong
        value = self._wrongly(probe) if wrong else self._value(probe)
        if (
            isinstance(value, str) and ".." in value and not probe.may_move
        ):  # the neighbouring pin's signal, noted as one figure
            value = value.partition("..")[2]
        if value is None:
            return None
        moves = {"moves": self._moves} if self._moves and ".." in str(value) else {}
        reading: Reading = from_plain(Reading, {**to_plain(probe), "value": value, **moves})
        return reading

    def _wrongly(self, probe: Probe) -> object:
        """What is noted by mistake: the value at a neighbouring pin, or misread by a factor or a line."""
        beside = self._beside(probe)
        if beside is not None and self._random.random() < 0.5:
            return self._value(beside)
        self._misread = True
        value = self._value(probe)
        self._misread = False
        return value

    def _beside(self, probe: Probe) -> Probe | None:
        """The probe one pin further; None where it touches no pin of the plug."""
        for name, point in probe.named_points:
            place, _, terminal = point.partition(".")
            if place in ("harness", "sensor") and terminal in self._terminals:
                others = [item for item in self._terminals if item != terminal]
                changes: dict[str, Any] = {name: f"{place}.{self._random.choice(others)}"} if others else {}
                moved = replace(probe, **changes)
                apart = len(set(moved.points)) == len(moved.points)
                return moved if apart and others else None
        return None

    def _value(self, probe: Probe) -> object:
        if probe.by_hand:
            return self._looked(probe)
        returns = "sensor.shell" in probe.points
        for model in reversed(self._models) if returns else self._models:  # the cell returns through the shell
            displays = model.displays(probe)
            if displays:
                row = int(rows_met(model.hypotheses, probe)[-1]) if probe.of else -1
                shown = {name: self._shown(model, display, row) for name, display in displays.items()}
                return self._as_value(probe, shown)
        return None

    def _as_value(self, probe: Probe, shown: dict[str, Any]) -> object:
        present = {name: text for name, text in shown.items() if text is not None}
        if probe.is_wave:
            return present or None
        if probe.recorded:
            seconds = {name for name in present if name.endswith("_s") or name == "switches_per_min"}
            return {name: float(text.split()[0]) if name in seconds else text for name, text in present.items()} or None
        self._moves = present.get("moves")
        if self._moves and LOWEST in present and HIGHEST in present:
            return _span(present[LOWEST], present[HIGHEST])
        silent = "n/a" if probe.scanned in ("nox", "o2") else None
        return shown["value"] if shown["value"] is not None else silent

    def _looked(self, probe: Probe) -> str | None:
        """What is seen or comes of it, as often as the table says for this fault, but seen less clearly."""
        base = usual(probe)
        if not base:
            return None
        space = JointSpace([self.hidden], {}, np.ones(1))
        chance = chances(probe, space)
        assert chance is not None
        if probe.acted == "clear-codes":
            return str(self._random.choice(list(base), p=chance[0] / chance[0].sum()))
        blurred = (1 - UNCLEAR) * chance[0] + UNCLEAR * np.array(list(base.values())) / sum(base.values())
        return str(self._random.choice(list(base), p=blurred / blurred.sum()))

    def _one(self, model: CircuitModel, values: Array, row: int) -> float:
        shape = (len(model.hypotheses), model.draws)
        return float(np.broadcast_to(values, shape)[row, self._draw[model.name]])

    def _shown(self, model: CircuitModel, display: Display, row: int) -> str | None:
        if isinstance(display, Categorical):
            words = list(display.chance)
            chance = np.array([self._one(model, values, row) for values in display.chance.values()]).clip(min=0.0)
            if not np.isfinite(chance).all():
                return None
            if self._misread:
                chance = np.ones_like(chance)
            return str(self._random.choice(words, p=chance / chance.sum()))
        return self._figure(display, self._one(model, display.shown, row))

    def _figure(self, display: Numeric | MovingValue, value: float) -> str | None:
        if np.isnan(value):
            return None
        if self._misread:
            value *= float(self._random.choice([0.1, 0.5, 2.0, 10.0]))
        if display.kind == "resistance" and value > OL_FROM * 5:
            return "OL"
        share, floor = NOISE[display.kind]
        noisy = value + self._random.normal() * (share * abs(value) + floor)
        if display.kind in ("resistance", "time", "number", "ppm", "oxygen"):
            noisy = abs(noisy)
        return show(noisy, display.kind, zeros=True)


def _chain(hidden: Sequence[str]) -> list[tuple[str, ...]]:
    """No fault, each alone, what another sensor feels of it, all together: the last is the vehicle's truth."""
    truth = tuple(hidden)
    listed = [(), *((name,) for name in hidden), *felt_elsewhere(truth)]
    return [*(item for item in dict.fromkeys(listed) if item != truth), truth]


def _span(low: str, high: str) -> str:
    """As a person notes it: one unit for both."""
    unit = low.partition(" ")[2]
    if unit and unit == high.partition(" ")[2]:
        return f"{low.partition(' ')[0]}..{high}"
    return f"{low}..{high}"
