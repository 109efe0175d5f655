"""Adds a reading to a job: the core checks and judges it before it is stored."""

from dataclasses import replace

from django.db import IntegrityError, transaction

from dianoia.case.load import to_plain
from dianoia.case.measures import Reading as CaseReading
from dianoia.case.times import now, one_form
from dianoia.case.types import MOST_READINGS, Case
from dianoia.diagnosis.verdict.check import check_newest
from dianoia.errors import refuse
from server.jobs.bodies import TakenReading
from server.jobs.results import judge
from server.jobs.stored import case_with
from server.ledger.entries import NOBODY, Author, append, locked
from server.ledger.models import Entry, Job
from server.ledger.origin import EntryOrigin
from server.ledger.readings import Lines, clock_of, lines_of, reading_entry, written_of


def add_reading(job: Job, reading: CaseReading, key: str | None = None, by: Author = NOBODY) -> TakenReading:
    """Append to the ledger and judge, once for each ``key`` of a client. Raises RefusedInput (fields named without their
    place), and then nothing is stored.

    The job's summary is behind from then on, until the job is worked out.
    """
    if key and (row := job.ledger.filter(key=key).first()):
        return _taken_before(job, row, reading)
    if reading.struck is not None:
        raise refuse("struck", "a reading that counts: strike it out once it is in the ledger", reading.struck)
    reading = with_uniform_time(reading) if reading.taken else replace(reading, taken=now())
    lines = lines_of(job)
    grown = _grown(case_with(job, lines), reading)
    noted, judgement = judge(grown, job.pk)  # before the write: what cannot be judged is not stored
    try:
        place, written = _append(job, lines, reading, key, by)
    except IntegrityError:
        # the same request, repeated, was quicker; else it is no repeat, and no second try would help
        row = job.ledger.filter(key=key).first() if key else None
        if row is None:
            raise
        return _taken_before(job, row, reading)
    return TakenReading(place, reading, noted, replace(judgement, reading=place), written)


@transaction.atomic
def _append(job: Job, lines: Lines, reading: CaseReading, key: str | None, by: Author) -> tuple[int, EntryOrigin]:
    """The reading's place, and how it was written. Where the job has changed since ``lines`` were read, the reading is checked again
    under the lock.
    """
    checked_at, job = job.entries, locked(job)
    if job.entries != checked_at:
        lines = lines_of(job)
        _grown(case_with(job, lines), reading)
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


def with_uniform_time(reading: CaseReading) -> CaseReading:
    """The reading with its time in one form."""
    return replace(reading, taken=one_form(reading.taken)) if reading.taken else reading


def _taken_before(job: Job, row: Entry, reading: CaseReading) -> TakenReading:
    """The answer to a request that was answered before, and the answer lost."""
    lines = lines_of(job)
    case, line = case_with(job, lines), row.line
    kept = case.readings[line] if line is not None else None
    if line is None or kept is None or replace(reading, taken=kept.taken, struck=kept.struck) != kept:
        raise refuse("Idempotency-Key", "another key for another reading", str(row.key))
    until = replace(case, readings=case.readings[: line + 1])
    return TakenReading(line, kept, *judge(until, job.pk), lines.written[line])
