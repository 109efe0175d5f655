"""Working time of a job: by the clock of its ledger, unless someone has corrected it."""

import json
from dataclasses import replace

from django.db import transaction

from dianoia.repair.time import JobTime, by_the_clock, worth
from server.jobs.bodies import Minutes
from server.jobs.ledger import Author, Lines, New, append, locked
from server.jobs.models import Job, Kind
from server.jobs.view import JobView
from server.jobs.workshop import workshop


def time_of(job: Job, view: JobView, lines: Lines) -> JobTime:
    """The time of a job; what was corrected last stands."""
    repair = view.verdict.repair
    taken = [reading.taken or written.at for reading, written in zip(view.case.readings, lines.written, strict=True)]
    time = by_the_clock(taken, repair)
    row = job.ledger.filter(kind=Kind.TIME).last()
    if row is not None:
        body = json.loads(row.body)
        time = JobTime(body["finding"], body["mending"], row.by)
    return replace(time, says=worth(time, repair, workshop()))


@transaction.atomic
def correct(job: Job, minutes: Minutes, by: Author) -> None:
    """Say how long it took; an entry of the ledger, like everything that is changed."""
    job = locked(job)
    append(job, [New(Kind.TIME, {"finding": minutes.finding, "mending": minutes.mending})], by)
    job.save(update_fields=["entries"])
