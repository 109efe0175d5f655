"""The ledger: entries are appended, read back, and checked."""

import json
import logging
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from itertools import accumulate
from typing import Any

from django.db.models import Count

from dianoia.case.times import now
from server.jobs.bodies import Written
from server.jobs.chain import START, canonical, link, record
from server.jobs.models import Customer, Entry, Job, Kind

_log = logging.getLogger(__name__)
#: What is said of an entry that was stamped by a clock ahead of the time.
AHEAD = "the server's clock was ahead when this was noted"
#: A clock is taken for right within this.
CLOCKS_AGREE = timedelta(minutes=2)


@dataclass(frozen=True)
class Author:
    """Who writes. person: the account's number; name: as it is then."""

    person: int | None
    name: str


#: For what comes from the command line, or was kept before names were.
NOBODY = Author(None, "")


@dataclass(frozen=True)
class New:
    """An entry to be written. line: of a reading its place in the job."""

    kind: Kind
    body: dict[str, Any]
    line: int | None = None
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


def append(job: Job, entries: Sequence[New], by: Author) -> list[Entry]:
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
    return here if _is_ahead(last, here) else max(here, last)


def _is_ahead(one: str, other: str) -> bool:
    """Whether one moment is later than another by more than clocks differ."""
    a, b = _time(one or None), _time(other or None)
    return a is not None and b is not None and a - b > CLOCKS_AGREE


def reading_entry(
    line: int, plain: dict[str, Any], imported: bool = False, key: str | None = None, clock: str = ""
) -> New:
    """The entry of a reading, as in the case file."""
    noted = {"imported": True} if imported else {}
    return New(Kind.READING, {"reading": plain, **noted, **({"clock": clock} if clock else {})}, line, key)


@dataclass(frozen=True)
class Lines:
    """A job's readings as in the case file, what was struck out said with it, and who wrote each."""

    plain: list[dict[str, Any]] = field(default_factory=list)
    written: list[Written] = field(default_factory=list)


def lines_of(job: Job) -> Lines:
    """The readings of a job in order."""
    lines = Lines()
    rows = list(job.ledger.filter(kind__in=(Kind.READING, Kind.STRIKE)))
    earliest_after = [*accumulate((now(), *(row.at for row in reversed(rows[1:]))), min)][::-1]
    for row, after in zip(rows, earliest_after, strict=False):
        body = json.loads(row.body)
        if row.kind == Kind.READING:
            lines.plain.append(body["reading"])
            written = written_of(row, body)
            lines.written.append(replace(written, clock=AHEAD) if _is_ahead(row.at, after) else written)
        else:
            place, was = body["line"], lines.written[body["line"]]
            lines.plain[place] = {**lines.plain[place], "struck": body["reason"]}
            lines.written[place] = replace(was, struck_by=row.by, struck_at=row.at)
    return lines


def written_of(row: Entry, body: dict[str, Any]) -> Written:
    """Who wrote a reading's entry, and when. body: of the entry."""
    later = _later(body["reading"].get("taken"), row.at)
    return Written(row.by, row.at, body.get("imported", False), body.get("clock", ""), later)


def clock_of(taken: str | None, before: str | None) -> str:
    """What is to be noted of an instrument's own time. before: of the reading before it. Both ISO 8601."""
    at, last, here = _time(taken), _time(before), _time(now())
    if at is None or here is None:
        return ""
    if at - here > CLOCKS_AGREE:
        return f"its clock is {(at - here).total_seconds() / 60:.0f} min ahead of the server's"
    if last is not None and last - at > CLOCKS_AGREE:
        return "its clock was set back: the reading before it is later"
    return ""


def _later(taken: str | None, written: str) -> bool:
    one, other = _time(taken), _time(written)
    return one is not None and other is not None and other - one > CLOCKS_AGREE


def _time(text: str | None) -> datetime | None:
    """A moment; None for a date, or a time whose offset is not known."""
    time = datetime.fromisoformat(text) if text else None
    return time if time and time.utcoffset() is not None else None


def told(customer: Customer) -> dict[str, str]:
    """A customer's data as it is committed to."""
    return {"name": customer.name, "plate": customer.plate, "vin": customer.vin}


def seal_of(job: Job) -> str:
    """The hash of a job's newest entry: kept elsewhere, as on paper, it shows that all up to there is as it was."""
    return job.ledger.order_by("-number").values_list("hash", flat=True).first() or ""


def head() -> str:
    """The hash of the newest entry of all."""
    return Entry.objects.order_by("-number").values_list("hash", flat=True).first() or START
