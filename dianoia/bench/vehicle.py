"""A simulated vehicle to practise on: one draw of the circuit with a hidden fault, answering any probe as text.

Its tolerances are not the engine's: other draws, and an error of its own on every figure.
"""

from collections.abc import Sequence
from typing import Any

import numpy as np

from dianoia.case.load import from_plain, to_plain
from dianoia.case.types import Case, Reading
from dianoia.circuit.network import Array
from dianoia.diagnosis.hypotheses import latch_chances
from dianoia.diagnosis.observations import usual
from dianoia.families.tables import FamilyRow
from dianoia.quantities.show import show
from dianoia.readings.display import Display, Figure, Words
from dianoia.readings.heater_model import HeaterModel
from dianoia.readings.scale import OL_FROM

#: Relative and absolute error of a simulated figure, one standard deviation.
NOISE = {"voltage": (0.006, 0.01), "current": (0.03, 0.01), "resistance": (0.025, 0.03), "ratio": (0.01, 0.01)}


class SimulatedVehicle:
    """Answers probes for a hidden set of faults."""

    def __init__(self, case: Case, family: FamilyRow, hidden: Sequence[str], seed: int) -> None:
        self.hidden = tuple(hidden)
        self._random = np.random.default_rng(seed)
        singles = [(name,) for name in hidden]
        listed = [(), *singles, self.hidden] if len(hidden) > 1 else [(), *singles]
        self._model = HeaterModel(case, family, listed, latch_chances(), seed=seed + 1000, draws=24)
        self._row = len(listed) - 1
        weight = self._model.draw_weight
        self._draw = int(self._random.choice(weight.size, p=weight / weight.sum()))

    def take(self, probe: Any) -> Reading | None:
        """The reading a technician would note; None where the probe cannot be put there."""
        value = self._value(probe)
        if value is None:
            return None
        plain = {**to_plain(probe), "value": value}
        reading: Reading = from_plain(Reading, plain)
        return reading

    def _value(self, probe: Any) -> object:
        if probe.measure in ("inspect", "act"):
            return self._looked(probe)
        displays = self._model.displays(probe)
        if not displays:
            return None
        shown = {name: self._shown(display) for name, display in displays.items()}
        if probe.measure == "scope":
            return {name: text for name, text in shown.items() if text is not None} or None
        return shown["value"]

    def _looked(self, probe: Any) -> str | None:
        if probe.measure == "act":
            return "not-returned" if not self.hidden else "returned-at-once"
        if probe.target == "fuse":
            return "blown" if {"fuse-blown", "wire-short-ground:heater_supply"} & set(self.hidden) else "ok"
        return "ok" if usual(probe.target) else None

    def _one(self, values: Array) -> float:
        shape = (len(self._model.hypotheses), self._model.draws)
        return float(np.broadcast_to(values, shape)[self._row, self._draw])

    def _shown(self, display: Display) -> str | None:
        if isinstance(display, Words):
            words = list(display.chance)
            chance = np.array([max(self._one(values), 0.0) for values in display.chance.values()])
            return str(self._random.choice(words, p=chance / chance.sum()))
        return self._figure(display)

    def _figure(self, display: Figure) -> str | None:
        value = self._one(display.shown)
        if np.isnan(value):
            return None
        if display.kind == "resistance" and value > OL_FROM * 5:
            return "OL"
        share, floor = NOISE[display.kind]
        noisy = value + self._random.normal() * (share * abs(value) + floor)
        if display.kind == "resistance":
            noisy = abs(noisy)
        return show(noisy, display.kind)
