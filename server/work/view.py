"""What the screens are given of a job; every word and figure of it comes from the core."""

from collections.abc import Iterator
from dataclasses import dataclass, fields
from datetime import datetime
from typing import Any

from dianoia.answer.answer import Answer, answer_of, sheets_of, stage_of, summary_of
from dianoia.case.job import Job
from dianoia.case.measures.offered import Choices, choices, others_of
from dianoia.case.terms import Action
from dianoia.case.types import Case
from dianoia.codes.triage import in_order
from dianoia.codes.types import Decoded
from dianoia.diagnosis.catalogue.offered import named
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from dianoia.diagnosis.verdict.explain import how_sure, still_open
from dianoia.diagnosis.verdict.summary import TITLES, VerdictSummary
from dianoia.drawings.circuit import Drawing, drawing
from dianoia.drawings.plug import Plug, plug
from dianoia.drawings.vehicle import plan
from dianoia.readings.beside import Compared, NotedAt, compared, noted_at
from dianoia.readings.describe import Described, describe, describe_reading
from dianoia.readings.heater_model import LATCH_AGAIN_S
from dianoia.repair.acts import MendChoice, acts_for, mend_choices
from dianoia.repair.sheets import RepairSheet
from dianoia.repair.time import JobTime
from dianoia.repair.types import RepairState
from dianoia.vehicle.types import Plan
from dianoia.vehicle.words import ADDRESS_HELP, address_words, place_words
from dianoia.visit.other_sensor import OtherFound, found_at_others
from server.ledger.readings import EntryOrigin
from server.work.view_parts import Ticked


@dataclass(frozen=True)
class PutAside:
    """A proposal that cannot be taken."""

    reading: str
    """Its name."""
    reason: str
    words: Described | None
    """None for one that is not proposed of such a sensor."""


@dataclass(frozen=True)
class JobView:
    """One job, whole."""

    id: int
    case: Case
    codes: tuple[Decoded, ...]
    """In the order to work in."""
    primary: Decoded | None
    """The code the job is about, None where the sensor was chosen by hand."""
    address: str
    """Of the sensor in question, and what it means."""
    bank: int | None
    position: int | None
    address_help: str
    where: str
    """The same in words."""
    place: str
    """Where it sits, in words."""
    plan: Plan
    plug: Plug
    family_label: str
    verdict: Answer
    proof_words: tuple[Described, ...]
    """The readings of the proof."""
    summary: VerdictSummary
    """Names, percentages and costs of the verdict."""
    drawing: Drawing
    ledger: tuple[Described, ...]
    """Each reading in words, in order."""
    compared: tuple[Compared, ...]
    """What each stands beside."""
    noted: tuple[NotedAt, ...]
    written: tuple[EntryOrigin, ...]
    """Who wrote each."""
    entries: int
    """How many entries the stored job has, by which a change says what it was made on."""
    seal: str
    """Hash of the newest of them."""
    latch_window_s: float
    """Seconds a freshly cleared heater is driven before the module may shut it off again."""
    asks_voltage: bool
    """Whether 12 or 24 V is to be asked first."""
    others_found: tuple[OtherFound, ...]
    """What does not read as it should at other sensors."""
    next_words: Described | None
    alternative_words: tuple[Described, ...]
    before_words: tuple[Described, ...]
    after_words: tuple[Described | None, ...]
    choices: Choices
    """What an entry may be."""
    sheets: tuple[RepairSheet, ...]
    """How it is repaired."""
    acts: tuple[Action, ...]
    """Those that mend what was decided, none where nothing was."""
    mends: tuple[MendChoice, ...]
    """Of a feed, which of its faults may have been mended."""
    ticks: tuple[Ticked, ...]
    """Their steps as they stand."""
    time: JobTime
    """Worked."""
    put_aside: tuple[PutAside, ...]
    how_sure: str
    still_open: tuple[str, ...]


@dataclass(frozen=True)
class JobSummary:
    """One line of the start page."""

    id: int
    title: str
    vehicle: str
    codes: tuple[str, ...]
    where: str
    stage: str
    """Where the job is."""
    decision: str
    decided: str
    """The decision in words."""
    says: str
    confidence: float
    waits_for: str
    """What it waits for."""
    readings: int
    repair: RepairState
    """How far it is."""
    early: bool
    """Whether a part was fitted before the decision stood."""
    returns: int
    """How often the code came back after it."""
    updated: datetime
    archived: bool = False


@dataclass(frozen=True)
class JobPage:
    """Some lines of the start page."""

    jobs: tuple[JobSummary, ...]
    total: int
    """How many there are in all of this list."""
    counts: dict[str, int]
    """Of every list, whatever is searched for."""


#: What is stored of a summary with the job; the rest is the row's own.
SUMMARY_FIELDS = frozenset(field.name for field in fields(JobSummary)) - {"id", "updated", "archived"}


@dataclass(frozen=True)
class JobResult:
    """What was worked out of a case: all that is shown of it, and what the start page keeps."""

    case: Case
    view: JobView
    summary: dict[str, Any]


def view_of(diagnosis: Diagnosis, case: Case) -> JobResult:
    """What is shown of a diagnosis. case: as it is stored; what only the store knows of it is still empty."""
    job, verdict = diagnosis.job, answer_of(diagnosis)
    beside = compared(job.readings)
    proposed, others = verdict.next, found_at_others(job, verdict.judged)
    mended = verdict.repair.state not in ("none", "came-back") and not verdict.components
    nox = job.family.kind.unit
    view = JobView(
        id=0,
        case=case,
        codes=tuple(in_order(job.codes)) if len(job.codes) > 1 else job.codes,
        place=place_words(case.vehicle, job.bank or 1, job.position or 1, nox),
        plan=plan(case.vehicle, _coded(job), nox),
        plug=plug(job),
        address=job.address,
        bank=job.bank,
        position=job.position,
        address_help=ADDRESS_HELP,
        where=address_words(job.bank, job.position, nox),
        primary=job.primary,
        family_label=job.family.label,
        verdict=verdict,
        proof_words=tuple(describe(item.read, job.pins) for item in verdict.repair.proof),
        summary=summary_of(verdict, diagnosis),
        drawing=drawing(job, verdict),
        ledger=tuple(describe_reading(item, job.pins) for item in job.readings),
        compared=beside,
        noted=noted_at(job.readings, beside),
        written=(),
        entries=0,
        seal="",
        latch_window_s=LATCH_AGAIN_S,
        asks_voltage=job.asks_voltage,
        others_found=others,
        next_words=describe(proposed.reading, job.pins) if proposed else None,
        alternative_words=tuple(describe(item.reading, job.pins) for item in verdict.alternatives),
        before_words=tuple(describe(item.read, job.pins) for item in verdict.before_fitting),
        after_words=tuple(describe(item.read, job.pins) if item.read else None for item in verdict.after_repair),
        sheets=sheets_of(verdict, job),
        mends=mend_choices(verdict.found or verdict.found_one_of) if "feed" in verdict.components else (),
        acts=acts_for(verdict.components, verdict.found or verdict.found_one_of),
        ticks=(),
        time=JobTime(0, 0),
        choices=choices(job.family, others_of(job), case.sensor),
        put_aside=tuple(_put_aside(job, diagnosis)),
        how_sure="" if mended else how_sure(diagnosis.standing, diagnosis.weighed.components()),
        still_open=(
            *(_to_show(verdict) if mended else still_open(verdict, diagnosis.standing)),
            *(f"{item.says} {item.why}" for item in others),
        ),
    )
    return JobResult(case, view, _summary(case, job, verdict))


def _to_show(verdict: Answer) -> tuple[str, ...]:
    """What a repair still has to show, and the traps that the job is in."""
    return (
        *(f"Not shown yet: {item.what}." for item in verdict.repair.proof if item.by is None),
        *(item.says for item in verdict.warnings),
    )


def _put_aside(job: Job, diagnosis: Diagnosis) -> Iterator[PutAside]:
    for item in job.case.cannot:
        candidate = named(job, item.reading)
        yield PutAside(item.reading, item.reason, describe(candidate.probe, job.pins) if candidate else None)


def _coded(job: Job) -> tuple[str, ...]:
    """Addresses of the sensors in question."""
    if job.bank and job.position:
        return (job.address,)
    return job.primary.sensors if job.primary else ()


def _summary(case: Case, job: Job, verdict: Answer) -> dict[str, Any]:
    """What is stored with a job for the start page."""
    counted = job.counted
    waits = describe(verdict.next.reading, job.pins) if verdict.next else None
    return {
        "title": case.title,
        "vehicle": case.vehicle.label,
        "codes": [item.code for item in case.codes],
        "where": address_words(job.bank, job.position, job.family.kind.unit),
        "stage": stage_of(verdict, len(counted)),
        "decision": verdict.decision,
        "decided": verdict.repair.title or TITLES[verdict.decision],
        "says": verdict.says,
        "confidence": verdict.confidence,
        "waits_for": waits.short_step if waits else verdict.says,
        "readings": len(counted),
        "repair": verdict.repair.state,
        "early": any(done.early for done in verdict.repair.done),
        "returns": verdict.repair.returns,
    }
