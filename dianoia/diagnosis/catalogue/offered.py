"""Which readings may be proposed in a job: those that its sensor has and its workshop has the tools for."""

from collections.abc import Sequence, Set
from typing import get_args

from dianoia.case.job import Job
from dianoia.case.measures import Probe
from dianoia.case.terms import HeaterSwitch
from dianoia.case.workshop import Tool
from dianoia.circuit.cells.cell import terminals_of
from dianoia.diagnosis.catalogue.candidates import Allowed, Candidate, candidates, usable
from dianoia.diagnosis.inference.engine import Engine
from dianoia.diagnosis.inference.store import EngineStore


def offered(
    job: Job, engine: Engine, suspected: Set[str] = frozenset(), switch: HeaterSwitch = "low-side"
) -> list[Candidate]:
    """Readings that may be proposed in this job's style.

    suspected: loops to be searched like the code's own; switch: the likelier side where the vehicle's is not known.
    """
    side = engine.subject.known.heater_switch or switch
    focus = {engine.focus, *suspected}
    return usable(Allowed(set(engine.loops), focus, tools_missing(job), side, job.family, terminals_around(job)))


def readable_candidates(job: Job, engine: Engine, switch: HeaterSwitch) -> list[Candidate]:
    """Readings of every loop in play, whatever tools are at hand."""
    side = engine.subject.known.heater_switch or switch
    loops = frozenset(engine.loops)
    return usable(Allowed(loops, loops, frozenset(), side, job.family, terminals_around(job)))


def named(job: Job, name: str) -> Candidate | None:
    """The reading of a name among all that may be proposed of such a sensor; None where there is none."""
    return next((item for item in candidates(*terminals_around(job)) if item.id == name), None)


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


def terminals_around(job: Job) -> tuple[str, str | None, str]:
    """The cell's terminals of a job's sensor, and its twin: what the rows of the catalogue leave open."""
    terminals = ("", None) if job.family.kind.unit else terminals_of(job.family.terminals)
    return (*terminals, twin_of(job))


def _at_first(job: Job, engine: Engine) -> Sequence[Probe]:
    return [item.probe for item in offered(job, engine)]


def _whatever_comes(job: Job, engine: Engine) -> Sequence[Probe]:
    """What may follow with any loop suspected and the module switching either side."""
    return [
        item.probe
        for switch in get_args(HeaterSwitch)
        for item in offered(job, engine, frozenset(engine.loops), switch)
    ]


#: The engines of this process.
engines = EngineStore(ready=_at_first, may_follow=_whatever_comes)
