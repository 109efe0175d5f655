"""Entries of the ledger: who writes, how an entry is appended, and the newest hash."""

import logging
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from django.db.models import Count

from dianoia.case.times import now
from server.ledger.chain import START, canonical, link, record
from server.ledger.models import Entry, Job, Kind

_log = logging.getLogger(__name__)


#: A clock is taken for right within this.
CLOCK_TOLERANCE = timedelta(minutes=2)


@dataclass(frozen=True)
class Author:
    """Who writes."""

    person: int | None
    """The account's number."""
    name: str
    """As it is then."""


#: For what comes from the command line, or was kept before names were.
NOBODY = Author(None, "")


@dataclass(frozen=True)
class NewEntry:
    """An entry to be written."""

    kind: Kind
    body: dict[str, Any]
    line: int | None = None
    """Of a reading its place in the job."""
    key: str | None = None


def locked(job: Job) -> Job:
    """The job touched, which takes its write lock, so that two readings never get one place; as it stands now. Its counts are
    those of the ledger: where they were out of step, they are mended.
    """
    Job.objects.filter(pk=job.pk).update(updated=datetime.now(UTC))
    there = Entry.objects.filter(job=job.pk).order_by().aggregate(entries=Count("pk"), lines=Count("line"))
    found = Job.objects.get(pk=job.pk)
    if (found.entries, found.lines) != (there["entries"], there["lines"]):
        _log.error("job %s counted %s entries, its ledger has %s", job.pk, found.entries, there["entries"])
        Job.objects.filter(pk=job.pk).update(**there)
        found.entries, found.lines = there["entries"], there["lines"]
    return found


def append(job: Job, entries: Sequence[NewEntry], by: Author) -> list[Entry]:
    """Write entries, in order; within a transaction that holds the write lock. The job counts them; it is not saved."""
    newest = Entry.objects.order_by("-number").values("number", "hash", "at").first()
    number, before, last = (newest["number"], newest["hash"], newest["at"]) if newest else (0, START, "")
    rows = []
    at = _stamp(now(), last)
    for entry in entries:
        number += 1
        body = canonical(entry.body)
        before = link(before, record(number, job.pk, job.entries, entry.kind, by.name, at, body))
        rows.append(Entry(number=number, job=job, place=job.entries, line=entry.line, kind=entry.kind, body=body, person_id=by.person,
                          by=by.name, at=at, key=entry.key, hash=before))  # fmt: skip
        job.entries += 1
        job.lines += entry.kind == Kind.READING
    Entry.objects.bulk_create(rows)
    return rows


def _stamp(here: str, last: str) -> str:
    """The time of a new entry: never before the newest, so that a clock set back a little reorders nothing. One that was stamped by a
    clock far ahead is not followed: the time is the true one again, and the number keeps the order.
    """
    return here if is_ahead(last, here) else max(here, last)


def is_ahead(one: str, other: str) -> bool:
    """Whether one moment is later than another by more than clocks differ."""
    a, b = moment_of(one or None), moment_of(other or None)
    return a is not None and b is not None and a - b > CLOCK_TOLERANCE


def moment_of(text: str | None) -> datetime | None:
    """A moment; None for a date, or a time whose offset is not known."""
    time = datetime.fromisoformat(text) if text else None
    return time if time and time.utcoffset() is not None else None


def seal_of(job: Job) -> str:
    """The hash of a job's newest entry: kept elsewhere, as on paper, it shows that all up to there is as it was."""
    return job.ledger.order_by("-number").values_list("hash", flat=True).first() or ""


def head() -> str:
    """The hash of the newest entry of all."""
    return Entry.objects.order_by("-number").values_list("hash", flat=True).first() or START
