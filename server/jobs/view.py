"""What the screens are given of a job; every word and figure of it comes from the core."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from dianoia.case.job import job_of
from dianoia.case.types import Case
from dianoia.codes.types import Decoded
from dianoia.diagnosis.diagnose import Diagnosis
from dianoia.diagnosis.drawing import Drawing, drawing
from dianoia.diagnosis.types import Verdict
from dianoia.readings.describe import Described, describe


@dataclass(frozen=True)
class JobView:
    """One job, whole. address: of the sensor in question; ledger: each reading in words, in order."""

    id: int
    case: Case
    codes: tuple[Decoded, ...]
    address: str
    family_label: str
    verdict: Verdict
    drawing: Drawing
    ledger: tuple[Described, ...]
    next_words: Described | None
    alternative_words: tuple[Described, ...]


@dataclass(frozen=True)
class JobSummary:
    """One line of the start page. stage: where the job is; waits_for: the one thing it waits for."""

    id: int
    title: str
    vehicle: str
    codes: tuple[str, ...]
    address: str
    stage: str
    decision: str
    says: str
    confidence: float
    waits_for: str
    readings: int
    updated: datetime


def view_of(number: int, case: Case) -> JobView:
    """The job's view, worked out now."""
    job = job_of(case)
    diagnosis = Diagnosis(job)
    verdict = diagnosis.verdict()
    proposed = verdict.next
    return JobView(
        id=number,
        case=case,
        codes=job.codes,
        address=job.address,
        family_label=job.family.label,
        verdict=verdict,
        drawing=drawing(job, verdict),
        ledger=tuple(describe(item) for item in job.case.readings),
        next_words=describe(proposed.reading) if proposed else None,
        alternative_words=tuple(describe(item.reading) for item in verdict.alternatives),
    )


def summary_of(case: Case) -> dict[str, Any]:
    """What is stored with a job for the start page."""
    job = job_of(case)
    verdict = Diagnosis(job).verdict()
    counted = [item for item in case.readings if item.struck is None]
    stage = "decided" if verdict.decision != "keep-testing" else "testing" if counted else "new"
    waits = describe(verdict.next.reading) if verdict.next else None
    return {
        "title": case.title,
        "vehicle": case.vehicle.label,
        "codes": [item.code for item in case.codes],
        "address": job.address,
        "stage": stage,
        "decision": verdict.decision,
        "says": verdict.says,
        "confidence": verdict.confidence,
        "waits_for": f"{waits.instrument}: {waits.where}" if waits else verdict.says,
        "readings": len(counted),
    }
