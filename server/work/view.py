"""What the screens are given of a job; every word and figure of it comes from the core."""

from collections.abc import Iterator
from typing import Any

from dianoia.answer.answer import Answer, answer_of, sheets_of, stage_of, summary_of
from dianoia.case.job import Job
from dianoia.case.measures.offered import choices, others_of
from dianoia.case.types import Case
from dianoia.codes.triage import in_order
from dianoia.diagnosis.catalogue.offered import named
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from dianoia.diagnosis.verdict.explain import how_sure, still_open
from dianoia.diagnosis.verdict.summary import TITLES
from dianoia.drawings.circuit import drawing
from dianoia.drawings.plug import plug
from dianoia.drawings.vehicle import plan
from dianoia.readings.beside import compared, noted_at
from dianoia.readings.describe import describe, describe_reading
from dianoia.readings.heater_model import LATCH_AGAIN_S
from dianoia.repair.acts import acts_for, mend_choices
from dianoia.repair.time import JobTime
from dianoia.vehicle.words import ADDRESS_HELP, address_words, place_words
from dianoia.visit.other_sensor import found_at_others
from server.work.view_types import JobResult, JobView, PutAside


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
        photos=(),
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
        "simulated": case.of_simulated,
    }
