"""What follows from a stored job: its diagnosis, its summary, its forecast. A process of ``work`` computes it."""

import logging
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from typing import Any

from django.db.models import Max

from dianoia.case.types import Case
from dianoia.diagnosis.planning.types import Forecast
from dianoia.diagnosis.verdict.expected_signals import ExpectedSignal
from dianoia.diagnosis.verdict.summary import TITLES
from dianoia.diagnosis.verdict.types import Judged
from dianoia.errors import refuse
from dianoia.papers.paper import Paper
from dianoia.readings.describe import Described
from server.jobs.photos import reading_photos_of
from server.jobs.search import columns
from server.jobs.steps import ticks_of
from server.jobs.stored import case_of, case_with
from server.jobs.times import time_of
from server.jobs.workshop import in_workshop
from server.ledger.entries import seal_of
from server.ledger.models import Job
from server.ledger.readings import Lines, lines_of
from server.work import diagnosis_tasks
from server.work.diagnosis_tasks import concluded, judged
from server.work.processes import pool
from server.work.view_types import SUMMARY_FIELDS, JobResult, WhatIf

_log = logging.getLogger(__name__)


#: In a summary: how many ledger lines it speaks of.
SUMMARISED_LINES = "lines"


def work_out(case: Case, number: int | None = None) -> JobResult:
    """All that follows from a case, in this workshop. number: of its job, by which a process is kept to it; a new one's is
    guessed. Raises RefusedInput.
    """
    slot = number if number is not None else 1 + (Job.objects.aggregate(last=Max("pk"))["last"] or 0)
    return pool.ask(slot, "slow", concluded, slot, in_workshop(case), case)


def judge(case: Case, number: int) -> tuple[Described, Judged]:
    """The words for a case's newest reading, and its judgement. number: of the job."""
    return pool.ask(number, "quick", judged, in_workshop(case))


def expected_of(job: Job, wanted: Sequence[tuple[str, str | None]]) -> tuple[ExpectedSignal, ...]:
    """What a healthy circuit shows of signals. wanted: signal and sensor."""
    return pool.ask(job.pk, "quick", diagnosis_tasks.expected, in_workshop(case_of(job)), wanted)


def worked_out(job: Job) -> JobResult:
    """The job's diagnosis; its summary is brought up to the ledger."""
    worked = _worked(job)
    if _behind(job, len(worked.case.readings)):
        _keep_summary(job, worked)
    return worked


def _worked(job: Job) -> JobResult:
    lines = lines_of(job)
    return with_stored(work_out(case_with(job, lines), job.pk), job, lines)


def with_stored(worked: JobResult, job: Job, lines: Lines) -> JobResult:
    """The same with what is stored of it."""
    time = time_of(job, worked.view)
    stored = replace(
        worked.view,
        id=job.pk,
        entries=job.entries,
        written=tuple(lines.written),
        seal=seal_of(job),
        ticks=ticks_of(job),
        time=time,
        photos=reading_photos_of(job, len(lines.plain)),
    )
    return replace(worked, view=stored)


def _keep_summary(job: Job, worked: JobResult) -> None:
    """Store a summary, unless the job has changed since it was read: then a newer one stands, or is to come."""
    Job.objects.filter(pk=job.pk, updated=job.updated).update(**columns(summary_of(worked)))


def summarised(jobs: Iterable[Job]) -> Iterator[Job]:
    """Jobs, each with a summary of its whole ledger."""
    for job in jobs:
        if _behind(job, job.lines):
            job.summary = _summary_or_why_not(job)
        yield job


def _summary_or_why_not(job: Job) -> dict[str, Any]:
    """One job that cannot be read or worked out does not take the others off the start page."""
    try:
        return summary_of(worked_out(job))
    except Exception:
        _log.exception("job %s could not be worked out", job.pk)
        header = job.header
        why = "This job could not be worked out. The reason is in the server's log."
        return {
            "title": header.get("title", ""), "vehicle": header.get("vehicle", {}).get("label", ""), "where": "",
            "codes": [item["code"] for item in job.codes], "stage": "testing", "decision": "keep-testing",
            "decided": TITLES["keep-testing"], "says": why, "waits_for": why, "confidence": 0.0, "readings": job.lines,
            "repair": "none", "early": False, "returns": 0,
        }  # fmt: skip


def _behind(job: Job, lines: int) -> bool:
    return job.summary.get(SUMMARISED_LINES) != lines or not job.summary.keys() >= SUMMARY_FIELDS


def summary_of(worked: JobResult) -> dict[str, Any]:
    """A summary as it is stored with the job."""
    return {**worked.summary, SUMMARISED_LINES: len(worked.case.readings)}


def worked_after(job: Job) -> JobResult:
    """The diagnosis after a change that is stored."""
    worked = _worked(job)
    _keep_summary(job, worked)
    return worked


def without(job: Job, place: int) -> WhatIf:
    """What the decision would be without one reading. Raises RefusedInput for a place that is none."""
    if not 0 <= place < job.lines:
        raise refuse("place", "the place of a reading of this job", str(place))
    return pool.ask(job.pk, "slow", diagnosis_tasks.without, in_workshop(case_of(job)), place)


def papered(job: Job) -> tuple[Paper, JobResult]:
    """What the papers say of a job, and all that is shown of it."""
    lines = lines_of(job)
    case = case_with(job, lines)
    paper, worked = pool.ask(job.pk, "slow", diagnosis_tasks.papered, in_workshop(case), case)
    return paper, with_stored(worked, job, lines)


def forecast_of(job: Job) -> Forecast:
    """What lies ahead of a job."""
    return pool.ask(job.pk, "slow", diagnosis_tasks.forecast, in_workshop(case_of(job)))
