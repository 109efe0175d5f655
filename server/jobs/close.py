"""Closes a job: as proven, or with the reason why it is not."""

from dataclasses import replace

from django.db import transaction

from dianoia.case.load import to_plain
from dianoia.case.times import now
from dianoia.case.types import Closing
from dianoia.errors import refuse
from server.jobs.results import worked_after, worked_out
from server.jobs.stored import case_of, find_job
from server.ledger.entries import Author, NewEntry, append, locked
from server.ledger.models import Job, Kind
from server.work.view_types import JobResult


def close_job(job: Job, reason: str, by: Author) -> JobResult:
    """Close a job. reason: why it is closed though its repair is not proven; not needed where it is. Raises RefusedInput."""
    worked = worked_out(job)
    repair, decision = worked.view.verdict.repair, worked.view.verdict.decision
    proven = repair.state == "proven" or (repair.state == "none" and decision == "no-fault-now")
    if not proven and not reason.strip():
        raise refuse("reason", "why the job is closed though nothing is proven yet", "nothing")
    _close(
        job,
        Closing(by=by.name, at=now(), reason="" if proven else reason.strip(), readings=len(worked.case.readings)),
        by,
    )
    return worked_after(find_job(job.pk))


@transaction.atomic
def _close(job: Job, closing: Closing, by: Author) -> None:
    job = locked(job)
    if job.lines != closing.readings:
        raise refuse("readings", "the ledger as it was looked at", "a reading that came meanwhile: look again")
    _store(job, closing, by)


@transaction.atomic
def reopen(job: Job, by: Author) -> None:
    """Open a closed job again."""
    _store(locked(job), None, by)


def _store(job: Job, closing: Closing | None, by: Author) -> None:
    case = replace(case_of(job), closed=closing)
    known = {name: value for name, value in to_plain(case).items() if name != "readings"}
    job.header = {name: value for name, value in known.items() if name != "codes"}
    changed = {"closed": to_plain(closing) if closing else None}
    append(job, [NewEntry(Kind.CHANGE, {"changes": changed, "known": known})], by)
    job.save(update_fields=["header", "entries"])
