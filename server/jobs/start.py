"""Starts a job: from codes as typed, or from a case file with its readings."""

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from django.db import IntegrityError, transaction

from dianoia.case.load import to_plain
from dianoia.case.types import Case
from dianoia.diagnosis.verdict.check import check
from dianoia.errors import refuse
from server.jobs.read import with_uniform_time
from server.jobs.results import summary_of, with_stored, work_out, worked_out
from server.jobs.search import columns
from server.ledger.chain import canonical
from server.ledger.entries import NOBODY, Author, NewEntry, append
from server.ledger.models import Job, Kind
from server.ledger.readings import lines_of, reading_entry
from server.work.view_types import JobResult


@dataclass(frozen=True)
class StartedJob:
    """A new job with what was worked out of it."""

    job: Job
    worked: JobResult

    @property
    def pk(self) -> int:
        """The job's number."""
        return int(self.job.pk)


def start_job(case: Case, key: str | None = None, by: Author = NOBODY) -> StartedJob:
    """Store a new job, once for each ``key`` of a client; the readings it brings are marked as imported. Raises RefusedInput,
    and then nothing is stored.

    The diagnosis is worked out before the write, which then takes milliseconds.
    """
    case = replace(case, readings=tuple(with_uniform_time(item) for item in case.readings))
    if earlier := _opened_before(key, case):
        return StartedJob(earlier, worked_out(earlier))
    check(case)
    worked = work_out(case)  # the diagnosis comes before the write
    try:
        job = _insert(to_plain(case), summary_of(worked), key, by)
    except IntegrityError:
        # the same request, repeated, was quicker; else it is no repeat, and no second try would help
        earlier = _opened_before(key, case)
        if earlier is None:
            raise
        return StartedJob(earlier, worked_out(earlier))
    return StartedJob(job, with_stored(worked, job, lines_of(job)))


def job_with_key(key: str | None) -> Job | None:
    """The job that a request with this key has made."""
    return Job.objects.filter(key=key).first() if key else None


def _opened_before(key: str | None, case: Case) -> Job | None:
    """The job that was made of this case under this key. Raises RefusedInput where the key made a job of another case."""
    job = job_with_key(key)
    if job is None:
        return None
    known = to_plain(case)
    readings, recordings = known.pop("readings", []), known.pop("recordings", [])
    opened = [NewEntry(Kind.OPENED, {"known": known}), *_imported(readings, recordings)]
    kept = job.ledger.order_by("place").values_list("kind", "body")[: len(opened) + 1]
    more = len(kept) > len(opened) and json.loads(kept[len(opened)][1]).get("imported")
    if more or [*kept[: len(opened)]] != [(str(entry.kind), canonical(entry.body)) for entry in opened]:
        raise refuse("Idempotency-Key", "another key for another job", str(key))
    return job


def _imported(readings: Sequence[dict[str, Any]], recordings: Sequence[dict[str, Any]]) -> list[NewEntry]:
    lines = [reading_entry(line, plain, imported=True) for line, plain in enumerate(readings)]
    return [*lines, *(NewEntry(Kind.RECORDING, {"recording": plain, "imported": True}) for plain in recordings)]


@transaction.atomic
def _insert(known: dict[str, Any], summary: dict[str, Any], key: str | None, by: Author) -> Job:
    readings, recordings = known.pop("readings", []), known.pop("recordings", [])
    header = {name: value for name, value in known.items() if name != "codes"}
    job = Job.objects.create(header=header, codes=known.get("codes", []), key=key, **columns(summary))
    append(job, [NewEntry(Kind.OPENED, {"known": known}), *_imported(readings, recordings)], by)
    job.save(update_fields=["entries", "lines"])
    return job
