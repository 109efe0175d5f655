"""Strikes out a reading."""

from django.db import transaction

from dianoia.errors import refuse
from server.jobs.results import worked_after
from server.ledger.entries import NOBODY, Author, NewEntry, append, locked
from server.ledger.models import Job, Kind
from server.ledger.readings import lines_of
from server.work.view_types import JobResult


def strike_reading(job: Job, place: int, reason: str, by: Author = NOBODY) -> JobResult:
    """Strike out a reading; its line stays. The same strike sent again changes nothing. Raises RefusedInput."""
    job = _struck(job, place, reason.strip()[:300], by)
    return worked_after(job)


@transaction.atomic
def _struck(job: Job, place: int, reason: str, by: Author) -> Job:
    job = locked(job)
    lines = lines_of(job)
    if not 0 <= place < len(lines.plain):
        raise refuse("place", "the place of a reading of this job", str(place))
    if not reason:
        raise refuse("reason", "why the reading does not count", "nothing")
    struck = lines.plain[place].get("struck")
    if struck and struck != reason:
        raise refuse("place", "a reading that is not struck out yet", str(place))
    if not struck:
        append(job, [NewEntry(Kind.STRIKE, {"line": place, "reason": reason})], by)
        job.save(update_fields=["entries"])
    return job
