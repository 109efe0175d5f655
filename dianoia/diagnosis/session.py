"""A job's circuit made ready: models, hypotheses and their prior. Readings do not change it, so it is kept."""

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from dianoia.case.job import Job
from dianoia.diagnosis.belief import Belief, JointSpace
from dianoia.diagnosis.components import Meaning, meaning
from dianoia.diagnosis.hypotheses import hypotheses, latch_chances
from dianoia.diagnosis.plan import Candidate, usable
from dianoia.quantities.types import Quantity
from dianoia.readings.heater_model import HeaterModel
from dianoia.readings.model import LoopModel
from dianoia.readings.value import figures

#: Parts of each loop, in the order they are shown.
PARTS = {"heater": ("supply", "control", "driver", "heater")}
_KEPT_CIRCUITS = 24
#: (key position, battery volts), sorted.
Anchor = tuple[tuple[str, float], ...]


class Circuit:
    """Everything about a job that its readings do not change."""

    def __init__(self, job: Job) -> None:
        family = next((item for item in job.families if item.has_heater_terminals), job.family)
        listed, prior = hypotheses("heater", job.case, job.codes)
        model: LoopModel = HeaterModel(job.case, family, listed, latch_chances())
        self.models: tuple[LoopModel, ...] = (model,)
        self._anchored: dict[Anchor, tuple[LoopModel, ...]] = {}
        rows = np.arange(len(listed))
        self.space = JointSpace(listed, {"heater": rows}, prior)
        self.meaning: Meaning = meaning(listed)
        self.parts = PARTS["heater"]
        self.loops = ("heater",)

    def offered(self, job: Job) -> list[Candidate]:
        """Readings that may be proposed in this job's style."""
        switch = job.case.sensor.heater_switch if job.case.sensor else None
        return usable(self.loops, job.case.style, switch)

    def prepare(self, job: Job) -> None:
        """Work out the predictions of the job's readings and of all that may be proposed."""
        probes = [item.probe for item in self.offered(job)] + list(job.case.readings)
        for model in self.models:
            model.prepare(probes)

    def models_for(self, job: Job) -> tuple[LoopModel, ...]:
        """The models, with the battery voltage known where the job's readings tell it."""
        anchor = battery_anchor(job)
        if anchor not in self._anchored:
            if len(self._anchored) >= _KEPT_CIRCUITS:
                self._anchored.clear()
            self._anchored[anchor] = tuple(model.anchored(dict(anchor)) for model in self.models)
        return self._anchored[anchor]

    def belief(self, models: Sequence[LoopModel]) -> Belief:
        """Belief before any reading."""
        return Belief(self.space, models)


def battery_anchor(job: Job) -> Anchor:
    """Key position -> battery voltage, from the newest plausible reading across the battery in each position."""
    scale = (job.case.vehicle.system_voltage or 12) / 12.0
    found: dict[str, float] = {}
    for item in job.case.readings:
        if item.struck is not None or item.of is not None or not is_battery(item):
            continue
        shown = figures(item)["value"]
        if isinstance(shown, Quantity) and 6.0 < abs(shown.value) / scale < 16.0 and item.key:
            found[item.key] = abs(shown.value)
    return tuple(sorted(found.items()))


def is_battery(probe: Any) -> bool:
    """Whether a probe reads the battery's own voltage with a meter, unloaded."""
    return (
        probe.measure == "voltage"
        and not probe.load
        and {probe.red, probe.black} == {"battery.positive", "battery.negative"}
    )


_circuits: OrderedDict[object, Circuit] = OrderedDict()


def circuit_of(job: Job) -> Circuit:
    """The circuit of a job, from the kept ones where an equal job was seen before."""
    case = replace(job.case, readings=(), title="", specs=(), style="live-first")
    key = repr(case)
    circuit = _circuits.pop(key, None) or Circuit(job)
    _circuits[key] = circuit
    while len(_circuits) > _KEPT_CIRCUITS:
        _circuits.popitem(last=False)
    circuit.prepare(job)
    return circuit


def forget_circuits() -> None:
    """Start without any kept circuit, as a new process does."""
    _circuits.clear()
