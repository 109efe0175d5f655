"""A job's circuit made ready: models, hypotheses and their prior. Its readings do not change it (see ``circuits``)."""

from collections.abc import Sequence, Set
from typing import Any, get_args

from dianoia.case.job import Job
from dianoia.case.terms import HeaterSwitch
from dianoia.case.workshop import Tool
from dianoia.circuit.signal import terminals_of
from dianoia.diagnosis.catalogue.candidates import Candidate, candidates, usable
from dianoia.diagnosis.faults.meaning import Meaning, meaning
from dianoia.diagnosis.inference.belief import Belief
from dianoia.diagnosis.inference.learn import Learnt
from dianoia.diagnosis.inference.loops import modelled, parts_of
from dianoia.quantities.types import Quantity
from dianoia.readings.model import LoopModel
from dianoia.readings.value import figures

#: Of each circuit: the battery voltages it is kept anchored to.
_KEPT_ANCHORS = 6
#: What a battery of a 12 V vehicle can show by key position, in volts; anything else is a slip of the hand.
PLAUSIBLE_V = {"off": (9.0, 14.0), "on": (8.5, 14.0), "running": (10.5, 16.0), "cranking": (5.0, 13.0)}
#: Share by which two readings of the battery may differ and still be the same.
SAME_BATTERY = 0.012
#: (key position, battery volts), sorted.
Anchor = tuple[tuple[str, float], ...]


class Circuit:
    """Everything about a job that its readings do not change. focus: the loop that the code names."""

    def __init__(self, job: Job, with_signal: bool, learnt: Learnt | None = None) -> None:
        self.family = job.family
        self.space, self.models = modelled(job, with_signal, learnt)
        self.loops = tuple(model.name for model in self.models)
        coded = "heater" if job.primary and job.primary.circuit == "heater" else "signal"
        self.focus = coded if coded in self.loops else self.loops[0]
        self.meaning: Meaning = meaning(self.space.faults)
        ordered = sorted(self.loops, key=lambda loop: loop != self.focus)
        parts = (part for loop in ordered for part in parts_of(loop, self.family))
        self.parts = tuple(part for part in parts if part in self.meaning.has_part)
        self._worked_out: set[str] = set()
        self._anchored: dict[Anchor, tuple[LoopModel, ...]] = {}

    def offered(
        self, job: Job, suspected: Set[str] = frozenset(), switch: HeaterSwitch = "low-side"
    ) -> list[Candidate]:
        """Readings that may be proposed in this job's style.

        suspected: loops to be searched like the code's own; switch: the likelier side where the vehicle's is not known.
        """
        switch = (job.case.sensor.heater_switch if job.case.sensor else None) or switch
        focus = {self.focus, *suspected}
        return usable(self.loops, focus, tools_missing(job), switch, self.family, self._terminals(job))

    def named(self, job: Job, name: str) -> Candidate | None:
        """The reading of a name among all that may be proposed of such a sensor; None where there is none."""
        return next((item for item in candidates(*self._terminals(job)) if item.id == name), None)

    def _terminals(self, job: Job) -> tuple[str, str | None, str]:
        terminals = ("", None) if self.family.cell == "nox" else terminals_of(self.family)
        return (*terminals, twin_of(job))

    def prepare(self, job: Job) -> None:
        """Work out the predictions of the job's readings and of all that may be proposed."""
        self.work_out_offered(self.offered(job), job.case.readings)

    def work_out_offered(self, offered: Sequence[Candidate], readings: Sequence[Any] = ()) -> None:
        """Work out the predictions of candidates not seen before, together with those of some readings."""
        fresh = [item for item in offered if item.id not in self._worked_out]
        self._worked_out |= {item.id for item in fresh}
        self.work_out([*(item.probe for item in fresh), *readings])

    def work_out(self, probes: Sequence[Any]) -> None:
        """Work out the predictions of some probes, each state solved once."""
        for model in self.models:
            model.prepare(probes)

    def models_for(self, job: Job) -> tuple[LoopModel, ...]:
        """The models, with the battery voltage known where the job's readings tell it."""
        anchor = battery_anchor(job)
        if anchor not in self._anchored:
            if len(self._anchored) >= _KEPT_ANCHORS:
                self._anchored.clear()
            self._anchored[anchor] = tuple(model.anchored(dict(anchor)) for model in self.models)
        return self._anchored[anchor]

    def belief(self, models: Sequence[LoopModel]) -> Belief:
        """Belief before any reading."""
        return Belief(self.space, models)


def tools_missing(job: Job) -> Set[str]:
    """Tools that are not at hand: by the workshop, else by what the basic kit lacks."""
    workshop = job.case.workshop
    if workshop and workshop.tools is not None:
        return set(get_args(Tool)) - set(workshop.tools)
    return {"scan", "scope", "clamp"} if job.case.style == "basic-kit" else set()


def twin_of(job: Job) -> str:
    """A sensor of the same vehicle to compare with: of the other bank, else the other one on the pipe."""
    engine = job.case.vehicle.engine
    bank, position = job.bank or 1, job.position or 1
    if engine and engine.sensor_banks == 2:
        return f"B{3 - bank}S{position}"
    return f"B{bank}S{2 if position == 1 else 1}"


def battery_anchor(job: Job) -> Anchor:
    """Key position -> battery voltage, from the newest plausible reading across the battery in each position.

    One that says the same as before within ``SAME_BATTERY`` changes nothing: all voltages would be worked out anew for it.
    """
    scale = (job.case.vehicle.system_voltage or 12) / 12.0
    found: dict[str, float] = {}
    for item in job.case.readings:
        if item.struck is not None or item.of is not None or not is_battery(item):
            continue
        shown = figures(item)["value"]
        if (
            item.key
            and isinstance(shown, Quantity)
            and PLAUSIBLE_V[item.key][0] < abs(shown.value) / scale < PLAUSIBLE_V[item.key][1]
        ):
            before = found.get(item.key)
            if before is None or abs(abs(shown.value) / before - 1.0) > SAME_BATTERY:
                found[item.key] = abs(shown.value)
    return tuple(sorted(found.items()))


def is_battery(probe: Any) -> bool:
    """Whether a probe reads the battery's own voltage with a meter, unloaded."""
    return (
        probe.measure == "voltage"
        and not probe.load
        and {probe.red, probe.black} == {"battery.positive", "battery.negative"}
    )


def needs_signal(job: Job) -> bool:
    """Whether the signal loop is in play: its code, or a reading at its terminals."""
    if job.primary is None or job.primary.circuit != "heater":
        return True
    own = {name for name in job.family.terminals if name not in ("heater_supply", "heater_control")}
    for item in job.case.readings:
        points = [str(getattr(item, name, "") or "") for name in ("red", "black", "at")]
        pid = getattr(item, "pid", None) or getattr(item, "signal", None)
        if pid in ("sensor_voltage", "cell_current", "lambda") or any(
            point.partition(".")[2] in own for point in points
        ):
            return True
    return False
