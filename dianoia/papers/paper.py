"""What the papers say of a job: for the driver in plain words, for the file everything."""

from dataclasses import dataclass

from dianoia.answer.answer import Answer
from dianoia.case.job import Job
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from dianoia.drawings.circuit import Drawing, drawing
from dianoia.drawings.svg import svg_of
from dianoia.readings.describe import describe_reading
from dianoia.repair.acts import mended
from dianoia.repair.plain import driver_words, plain_readings, plainly
from dianoia.repair.types import ProofItem
from dianoia.vehicle.words import address_words

#: Of a feed whose fault is not told apart yet.
FEED_IS_BAD = "The sensor gets no power: its feed is interrupted somewhere between the battery and the sensor's plug."
#: Readings shown to the driver: before and after, the most telling first.
SHOWN = 3
_TELLING = ("heater-current", "minutes-later", "response")


@dataclass(frozen=True)
class BeforeAfter:
    """A reading that showed the fault, and the same after the repair; empty where there is none."""

    what: str
    should: str
    before: str
    after: str


@dataclass(frozen=True)
class Paper:
    """What the papers say."""

    wrong: tuple[str, ...]
    """What was wrong, in plain words."""
    how: tuple[BeforeAfter, ...]
    """Before and after."""
    done: tuple[str, ...]
    """What was done, with the part."""
    state: str
    """How far the repair is proven."""
    stands: str
    """How far it is proven, as the driver is told."""
    unproven: tuple[str, ...]
    """What is not shown."""
    next: tuple[str, ...]
    """What may come."""
    watch: tuple[str, ...]
    """What the driver should look out for."""
    drawing: str
    """Of the circuit as it was found, SVG."""


def paper_of(diagnosis: Diagnosis, answer: Answer) -> Paper:
    """The paper of a job worked through."""
    job, repair = diagnosis.job, answer.repair
    found = repair.found or answer.found or answer.found_one_of
    wrong = (FEED_IS_BAD,) if "feed" in answer.components else plainly(found) or (_nothing_found(answer),)
    left = plain_readings([item.read for item in repair.proof if item.by is None])
    state = repair.says or answer.says
    return Paper(
        wrong=wrong, how=tuple(_how(job, answer)), done=tuple(_done(job, answer)), state=state, stands=_stands(answer), unproven=tuple(dict.fromkeys(left)),
        next=tuple(item.says for item in repair.may_come), watch=_watch(answer), drawing=svg_of(_as_found(diagnosis, answer)),
    )  # fmt: skip


def _nothing_found(answer: Answer) -> str:
    """What was wrong, where no fault was found."""
    if answer.repair.done:
        return "What was wrong had not been proven when the part was fitted."
    if answer.decision == "no-fault-now":
        return "Everything that was measured is as it should be."
    return "This is not known yet. The search goes on."


def _how(job: Job, answer: Answer) -> list[BeforeAfter]:
    """Before and after; with no repair, the readings that tell it."""
    repair = answer.repair
    if repair.state != "none":
        shown = [item for item in repair.proof if _tells(item)][:SHOWN]
        whats = plain_readings([item.read for item in shown])
        return [
            BeforeAfter(what, driver_words(item.expect), _value(job, item.before), _value(job, item.by))
            for what, item in zip(whats, shown, strict=True)
        ]
    bad = [item for item in answer.judged if item.result == "fail"][-SHOWN:]
    whats = plain_readings([job.readings[item.reading].probe for item in bad])
    return [
        BeforeAfter(what, driver_words(item.expected), _value(job, item.reading), "")
        for what, item in zip(whats, bad, strict=True)
    ]


def _tells(item: ProofItem) -> bool:
    """Whether a driver sees by it what has changed."""
    return item.before is not None or (item.by is not None and item.kind in _TELLING)


def _value(job: Job, place: int | None) -> str:
    return "" if place is None else driver_words(describe_reading(job.readings[place], job.pins).value or "")


def _done(job: Job, answer: Answer) -> list[str]:
    told = []
    for item in answer.repair.done:
        part = f", part {item.part}" if item.part else ""
        early = " This was done before the fault was proven." if item.early else ""
        where = (
            f" ({address_words(job.bank, job.position, job.family.kind.unit)})"
            if item.action == "replace-sensor"
            else ""
        )
        told.append(f"{item.says}{where}{part}.{early}")
    return told


def _watch(answer: Answer) -> tuple[str, ...]:
    if answer.repair.state == "none":
        return (
            "If the warning lamp comes on again, note whether the engine was cold or hot, and the weather wet or dry.",
        )
    return (
        "If the warning lamp comes on again, come back with this page: it will be looked at with all that was measured.",
        "Some of the vehicle's self-tests finish only after a few ordinary drives.",
    )


def _as_found(diagnosis: Diagnosis, answer: Answer) -> Drawing:
    """The circuit as it stood before the repair, or as it stands."""
    repairs = mended(diagnosis.job)
    if not repairs:
        return drawing(diagnosis.job, answer)
    before = Diagnosis(repairs[0].before, plan=False)
    return drawing(before.job, before.verdict())


def _stands(answer: Answer) -> str:
    repair = answer.repair
    if repair.state == "proven":
        return "Repaired, and proven by readings taken afterwards."
    if repair.state == "closed-unproven" and repair.closed:
        return f"Repaired, and handed over before all of the proof was in: {repair.closed.reason}"
    if repair.state == "came-back":
        return "The warning came back after a repair. The search goes on with all that was measured."
    return "Repaired. Not all of the proof is in yet." if repair.state == "done" else answer.says
