"""Working time of a job: by the clock of its ledger, unless someone has corrected it."""

import json
from dataclasses import asdict
from itertools import count

from django.db import transaction

from dianoia.repair.time import JobTime, Moment, by_the_clock, valued
from server.jobs.bodies import Minutes
from server.jobs.workshop import workshop
from server.ledger.entries import Author, NewEntry, append, locked
from server.ledger.models import Job, Kind
from server.work.view_types import JobView

#: Entries that are no work on the vehicle.
_NO_WORK = (Kind.TIME, Kind.CUSTOMER)


def time_of(job: Job, view: JobView) -> JobTime:
    """The time of a job; what was corrected last stands."""
    repair = view.verdict.repair
    row = job.ledger.filter(kind=Kind.TIME).last()
    if row is not None:
        body = json.loads(row.body)
        time = JobTime(body["finding"], body["mending"], body.get("proving", 0.0), row.by)
    else:
        time = by_the_clock(_moments(job), repair, _returned(view))
    return valued(time, repair, workshop())


def _moments(job: Job) -> list[Moment]:
    """All that was done on a job, in order: what was read by its own time, the rest by the server's."""
    found, places = [], count()
    for row in job.ledger.exclude(kind__in=_NO_WORK):
        if row.kind == Kind.READING:
            found.append(Moment(json.loads(row.body)["reading"].get("taken") or row.at, next(places)))
        else:
            found.append(Moment(row.at, step=row.kind in (Kind.STEP, Kind.PHOTO)))
    return found


def _returned(view: JobView) -> set[int]:
    """Places of the readings that say that the code is back."""
    return {
        place
        for place, reading in enumerate(view.case.readings)
        if reading.struck is None and reading.acted == "clear-codes" and str(reading.value).startswith("returned")
    }


@transaction.atomic
def correct(job: Job, minutes: Minutes, by: Author) -> None:
    """Say how long it took; an entry of the ledger, like everything that is changed."""
    job = locked(job)
    append(job, [NewEntry(Kind.TIME, asdict(minutes))], by)
    job.save(update_fields=["entries"])
