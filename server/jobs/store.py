"""Jobs in the database <-> cases of the core. Everything is checked by the core before anything is saved."""

import json
import logging
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any

from django.db import IntegrityError, transaction
from django.db.models import Max

from dianoia.case.load import case_from_plain, from_plain, to_plain
from dianoia.case.measures import Reading as CaseReading
from dianoia.case.sensor import Sensor
from dianoia.case.times import now, one_form
from dianoia.case.types import MOST_READINGS, Case, Vehicle
from dianoia.diagnosis.planning.types import Forecast
from dianoia.diagnosis.verdict.check import check, check_newest
from dianoia.diagnosis.verdict.told import TITLES
from dianoia.diagnosis.verdict.types import Judged
from dianoia.errors import RefusedInput, refuse
from dianoia.papers.paper import Paper
from dianoia.readings.describe import Described
from server.jobs import thinking
from server.jobs.bodies import KnownVehicle, Taken, WhatIf, Written
from server.jobs.chain import canonical
from server.jobs.ledger import (
    NOBODY,
    Author,
    Lines,
    New,
    append,
    clock_of,
    lines_of,
    locked,
    reading_entry,
    seal_of,
    written_of,
)
from server.jobs.listing import columns, count_anew
from server.jobs.models import Entry, Job, Kind
from server.jobs.steps import ticks_of
from server.jobs.thinking import concluded, judged
from server.jobs.times import time_of
from server.jobs.view import SUMMARY_FIELDS, Worked
from server.jobs.workers import pool
from server.jobs.workshop import in_workshop

_log = logging.getLogger(__name__)
#: In a summary: how many ledger lines it speaks of.
LINES = "lines"


class JobNotFound(Exception):
    """No job has this number."""


def find(number: int) -> Job:
    """The stored job. Raises JobNotFound."""
    try:
        return Job.objects.get(pk=number)
    except Job.DoesNotExist as problem:
        raise JobNotFound(f"There is no job {number}.") from problem


def case_of(job: Job) -> Case:
    """The job as the core's case."""
    return _case(job, lines_of(job))


def _case(job: Job, lines: Lines) -> Case:
    return case_from_plain({**job.header, "codes": job.codes, "readings": lines.plain})


@dataclass(frozen=True)
class Stored:
    """A new job with what was worked out of it."""

    job: Job
    worked: Worked

    @property
    def pk(self) -> int:
        """The job's number."""
        return int(self.job.pk)


def create(case: Case, key: str | None = None, by: Author = NOBODY) -> Stored:
    """Store a new job, once for each ``key`` of a client; the readings it brings are marked as imported. Raises RefusedInput,
    and then nothing is stored.

    The diagnosis is worked out before the write, which then takes milliseconds.
    """
    case = replace(case, readings=tuple(_timed(item) for item in case.readings))
    if earlier := _opened_before(key, case):
        return Stored(earlier, worked_out(earlier))
    check(case)
    worked = work_out(case)  # the diagnosis comes before the write
    try:
        job = _insert(to_plain(case), _summary(worked), key, by)
    except IntegrityError:
        # the same request, repeated, was quicker; else it is no repeat, and no second try would help
        earlier = _opened_before(key, case)
        if earlier is None:
            raise
        return Stored(earlier, worked_out(earlier))
    return Stored(job, _stands(worked, job, lines_of(job)))


def with_key(key: str | None) -> Job | None:
    """The job that a request with this key has made."""
    return Job.objects.filter(key=key).first() if key else None


def _opened_before(key: str | None, case: Case) -> Job | None:
    """The job that was made of this case under this key. Raises RefusedInput where the key made a job of another case."""
    job = with_key(key)
    if job is None:
        return None
    known = to_plain(case)
    readings = known.pop("readings", [])
    opened = [New(Kind.OPENED, {"known": known}), *_imported(readings)]
    kept = job.ledger.order_by("place").values_list("kind", "body")[: len(opened) + 1]
    more = len(kept) > len(opened) and json.loads(kept[len(opened)][1]).get("imported")
    if more or [*kept[: len(opened)]] != [(str(entry.kind), canonical(entry.body)) for entry in opened]:
        raise refuse("Idempotency-Key", "another key for another job", str(key))
    return job


def _imported(readings: Sequence[dict[str, Any]]) -> list[New]:
    return [reading_entry(line, plain, imported=True) for line, plain in enumerate(readings)]


@transaction.atomic
def _insert(known: dict[str, Any], summary: dict[str, Any], key: str | None, by: Author) -> Job:
    readings = known.pop("readings", [])
    header = {name: value for name, value in known.items() if name != "codes"}
    job = Job.objects.create(header=header, codes=known.get("codes", []), key=key, **columns(summary))
    append(job, [New(Kind.OPENED, {"known": known}), *_imported(readings)], by)
    job.save(update_fields=["entries", "lines"])
    return job


def archive(job: Job, archived: bool) -> None:
    """Put a job away, or take it back; nothing else of it changes, not even when it was touched last."""
    Job.objects.filter(pk=job.pk).update(archived=archived)
    count_anew()


def add_reading(job: Job, reading: CaseReading, key: str | None = None, by: Author = NOBODY) -> Taken:
    """Append to the ledger and judge, once for each ``key`` of a client. Raises RefusedInput (fields named without their
    place), and then nothing is stored.

    The job's summary is behind from then on, until the job is worked out.
    """
    if key and (row := job.ledger.filter(key=key).first()):
        return _taken_before(job, row, reading)
    if reading.struck is not None:
        raise refuse("struck", "a reading that counts: strike it out once it is in the ledger", reading.struck)
    reading = _timed(reading) if reading.taken else replace(reading, taken=now())
    lines = lines_of(job)
    grown = _grown(_case(job, lines), reading)
    noted, judgement = _judged(grown, job.pk)  # before the write: what cannot be judged is not stored
    try:
        place, written = _append(job, lines, reading, key, by)
    except IntegrityError:
        # the same request, repeated, was quicker; else it is no repeat, and no second try would help
        row = job.ledger.filter(key=key).first() if key else None
        if row is None:
            raise
        return _taken_before(job, row, reading)
    return Taken(place, reading, noted, replace(judgement, reading=place), written)


def work_out(case: Case, number: int | None = None) -> Worked:
    """All that follows from a case, in this workshop. number: of its job, by which a process is kept to it; a new one's is
    guessed. Raises RefusedInput.
    """
    slot = number if number is not None else 1 + (Job.objects.aggregate(last=Max("pk"))["last"] or 0)
    return pool.ask(slot, "slow", concluded, slot, in_workshop(case), case)


def _judged(case: Case, number: int) -> tuple[Described, Judged]:
    return pool.ask(number, "quick", judged, in_workshop(case))


@transaction.atomic
def _append(job: Job, lines: Lines, reading: CaseReading, key: str | None, by: Author) -> tuple[int, Written]:
    """The reading's place, and how it was written. Where the job has changed since ``lines`` were read, the reading is checked again
    under the lock.
    """
    checked_at, job = job.entries, locked(job)
    if job.entries != checked_at:
        lines = lines_of(job)
        _grown(_case(job, lines), reading)
    place = len(lines.plain)
    clock = clock_of(reading.taken, lines.plain[-1].get("taken") if lines.plain else None)
    entry = reading_entry(place, to_plain(reading), key=key, clock=clock)
    (row,) = append(job, [entry], by)
    job.save(update_fields=["entries", "lines"])
    return place, written_of(row, entry.body)


def _grown(case: Case, reading: CaseReading) -> Case:
    if len(case.readings) >= MOST_READINGS:
        raise refuse("readings", f"at most {MOST_READINGS} readings", "one more")
    grown = replace(case, readings=(*case.readings, reading))
    check_newest(grown)
    return grown


def _timed(reading: CaseReading) -> CaseReading:
    """The reading with its time in one form."""
    return replace(reading, taken=one_form(reading.taken)) if reading.taken else reading


def _taken_before(job: Job, row: Entry, reading: CaseReading) -> Taken:
    """The answer to a request that was answered before, and the answer lost."""
    lines = lines_of(job)
    case, line = _case(job, lines), row.line
    kept = case.readings[line] if line is not None else None
    if line is None or kept is None or replace(reading, taken=kept.taken, struck=kept.struck) != kept:
        raise refuse("Idempotency-Key", "another key for another reading", str(row.key))
    until = replace(case, readings=case.readings[: line + 1])
    return Taken(line, kept, *_judged(until, job.pk), lines.written[line])


def worked_out(job: Job) -> Worked:
    """The job's diagnosis; its summary is brought up to the ledger."""
    worked = _worked(job)
    if _behind(job, len(worked.case.readings)):
        _keep_summary(job, worked)
    return worked


def _worked(job: Job) -> Worked:
    lines = lines_of(job)
    return _stands(work_out(_case(job, lines), job.pk), job, lines)


def _stands(worked: Worked, job: Job, lines: Lines) -> Worked:
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
    )
    return replace(worked, view=stored)


def _keep_summary(job: Job, worked: Worked) -> None:
    """Store a summary, unless the job has changed since it was read: then a newer one stands, or is to come."""
    Job.objects.filter(pk=job.pk, updated=job.updated).update(**columns(_summary(worked)))


def summarised(jobs: Iterable[Job]) -> Iterator[Job]:
    """Jobs, each with a summary of its whole ledger."""
    for job in jobs:
        if _behind(job, job.lines):
            job.summary = _summary_or_why_not(job)
        yield job


def _summary_or_why_not(job: Job) -> dict[str, Any]:
    """One job that cannot be read or worked out does not take the others off the start page."""
    try:
        return _summary(worked_out(job))
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
    return job.summary.get(LINES) != lines or not job.summary.keys() >= SUMMARY_FIELDS


def _summary(worked: Worked) -> dict[str, Any]:
    return {**worked.summary, LINES: len(worked.case.readings)}


def strike(job: Job, place: int, reason: str, by: Author = NOBODY) -> Worked:
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
        append(job, [New(Kind.STRIKE, {"line": place, "reason": reason})], by)
        job.save(update_fields=["entries"])
    return job


@dataclass(frozen=True)
class Clash(Exception):
    """A change of what someone else has changed meanwhile. fields: both have changed; by: who else."""

    fields: tuple[str, ...]
    by: str


def change(job: Job, changes: dict[str, Any], by: Author = NOBODY, seen: int | None = None) -> Worked:
    """Change what is known besides the ledger. Objects are merged field by field, null takes a field away (RFC 7396), so
    that two changes of different fields never undo each other; lists are replaced.

    seen: how many entries the job had when the change was made, None for a change that is to stand whatever came between.
    Raises RefusedInput, and Clash where a field was changed since.
    """
    return worked_after(_changed(job, changes, by, seen))


@transaction.atomic
def _changed(job: Job, changes: dict[str, Any], by: Author, seen: int | None) -> Job:
    job = locked(job)
    if seen is not None:
        _refuse_clash(job, changes, seen)
    plain = merged(to_plain(case_of(job)), changes)
    changed = case_from_plain(plain)
    check(changed)
    known = {name: value for name, value in to_plain(changed).items() if name != "readings"}
    job.codes = known.get("codes", [])
    job.header = {name: value for name, value in known.items() if name != "codes"}
    append(job, [New(Kind.CHANGE, {"changes": changes, "known": known})], by)
    job.save(update_fields=["header", "codes", "entries"])
    return job


def _refuse_clash(job: Job, changes: dict[str, Any], seen: int) -> None:
    mine = set(_leaves(changes))
    for row in job.ledger.filter(kind=Kind.CHANGE, place__gte=seen):
        theirs = set(_leaves(json.loads(row.body)["changes"]))
        both = sorted(one for one in mine for other in theirs if _within(one, other) or _within(other, one))
        if both:
            raise Clash(tuple(dict.fromkeys(both)), row.by)


def _leaves(changes: Any, at: str = "") -> Iterator[str]:
    """Paths of the fields that a merge patch touches."""
    if not isinstance(changes, dict):
        yield at
        return
    for name, value in changes.items():
        yield from _leaves(value, f"{at}.{name}" if at else name)


def _within(one: str, other: str) -> bool:
    return one == other or one.startswith(f"{other}.")


def merged(target: Any, changes: Any) -> Any:
    """A JSON merge patch (RFC 7396) applied.

    >>> merged({"a": {"b": 1, "c": 2}}, {"a": {"b": None}, "d": [3]})
    {'a': {'c': 2}, 'd': [3]}
    """
    if not isinstance(changes, dict):
        return changes
    known = target if isinstance(target, dict) else {}
    both = {**known, **{name: merged(known.get(name), value) for name, value in changes.items()}}
    return {name: value for name, value in both.items() if name not in changes or changes[name] is not None}


def worked_after(job: Job) -> Worked:
    """The diagnosis after a change that is stored."""
    worked = _worked(job)
    _keep_summary(job, worked)
    return worked


def without(job: Job, place: int) -> WhatIf:
    """What the decision would be without one reading. Raises RefusedInput for a place that is none."""
    if not 0 <= place < job.lines:
        raise refuse("place", "the place of a reading of this job", str(place))
    return pool.ask(job.pk, "slow", thinking.without, in_workshop(case_of(job)), place)


def papered(job: Job) -> tuple[Paper, Worked]:
    """What the papers say of a job, and all that is shown of it."""
    lines = lines_of(job)
    case = _case(job, lines)
    paper, worked = pool.ask(job.pk, "slow", thinking.papered, in_workshop(case), case)
    return paper, _stands(worked, job, lines)


def forecast_of(job: Job) -> Forecast:
    """What lies ahead of a job."""
    return pool.ask(job.pk, "slow", thinking.forecast, in_workshop(case_of(job)))


def known_vehicles() -> list[KnownVehicle]:
    """The distinct vehicles of the stored jobs, newest first."""
    found: dict[str, KnownVehicle] = {}
    for job in Job.objects.all()[:200]:
        try:
            vehicle = from_plain(Vehicle, job.header["vehicle"])
            sensor = from_plain(Sensor, job.header["sensor"]) if "sensor" in job.header else None
        except RefusedInput:  # stored under older rules: its own page says what is wrong with it
            continue
        codes = tuple(item["code"] for item in job.codes)
        found.setdefault(vehicle.label, KnownVehicle(vehicle, sensor, codes, job.pk))
    return list(found.values())
