"""Jobs in the database <-> cases of the core. Everything is checked by the core before anything is saved."""

import logging
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Any

from django.db import IntegrityError, transaction
from django.db.models import Count

from dianoia.case.job import job_of
from dianoia.case.ledger import Reading as CaseReading
from dianoia.case.load import case_from_plain, from_plain, to_plain
from dianoia.case.times import now, one_form
from dianoia.case.types import MOST_READINGS, Case, Sensor, Vehicle
from dianoia.diagnosis.verdict.check import check, check_newest
from dianoia.diagnosis.verdict.judging import judge_newest
from dianoia.diagnosis.verdict.told import TITLES
from dianoia.diagnosis.verdict.types import Judged
from dianoia.errors import RefusedInput, refuse
from dianoia.readings.describe import Described, describe_reading
from server.jobs.bodies import KnownVehicle, Taken
from server.jobs.models import Code, Job, Reading
from server.jobs.view import SUMMARY_FIELDS, Worked, summary_of, work_out
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
    codes = [{"code": row.text, **({"status": row.status} if row.status else {})} for row in job.codes.all()]
    readings = [{**row.body, **({"struck": row.struck} if row.struck else {})} for row in job.readings.all()]
    return case_from_plain({**job.header, "codes": codes, "readings": readings})


@dataclass(frozen=True)
class Stored:
    """A new job with what was worked out of it."""

    job: Job
    worked: Worked

    @property
    def pk(self) -> int:
        """The job's number."""
        return int(self.job.pk)


def create(case: Case, key: str | None = None) -> Stored:
    """Store a new job, once for each ``key`` of a client. Raises RefusedInput, and then nothing is stored.

    The diagnosis is worked out before the write, which then takes milliseconds.
    """
    earlier = Job.objects.filter(key=key).first() if key else None
    if earlier:
        return Stored(earlier, worked_out(earlier))
    check(case)
    case = replace(case, readings=tuple(_timed(item) for item in case.readings))
    worked = work_out(case)
    try:
        return Stored(_insert(to_plain(case), _summary(worked), key), worked)
    except IntegrityError:  # the same request, repeated, was quicker
        return create(case, key)


@transaction.atomic
def _insert(plain: dict[str, Any], summary: dict[str, Any], key: str | None) -> Job:
    codes, readings = plain.pop("codes", []), plain.pop("readings", [])
    job = Job.objects.create(header=plain, summary=summary, key=key)
    _add_codes(job, codes)
    Reading.objects.bulk_create(_row(job, place, body) for place, body in enumerate(readings))
    return job


def archive(job: Job, archived: bool) -> None:
    """Put a job away, or take it back; nothing else of it changes, not even when it was touched last."""
    Job.objects.filter(pk=job.pk).update(archived=archived)


def add_reading(job: Job, reading: CaseReading, key: str | None = None) -> Taken:
    """Append to the ledger and judge, once for each ``key`` of a client. Raises RefusedInput (fields named without their
    place), and then nothing is stored.

    The job's summary is behind from then on, until the job is worked out.
    """
    if key and (row := job.readings.filter(key=key).first()):
        return _taken_before(job, row, reading)
    reading = _timed(reading) if reading.taken else replace(reading, taken=now())
    grown = _grown(case_of(job), reading)
    noted, judged = _judged(grown)  # before the write: what cannot be judged is not stored
    try:
        place = _append(job, reading, key)
    except IntegrityError:  # the same request, repeated, was quicker
        return add_reading(job, reading, key)
    return Taken(place, reading, noted, replace(judged, reading=place))


def _judged(case: Case) -> tuple[Described, Judged]:
    """The words for a case's newest reading, and its judgement."""
    parsed = job_of(in_workshop(case))
    return describe_reading(parsed.readings[-1], parsed.pins), judge_newest(parsed)


@transaction.atomic
def _append(job: Job, reading: CaseReading, key: str | None) -> int:
    """The reading's place. What it was checked against may have changed since, so it is checked again under the lock."""
    grown = _grown(case_of(_locked(job)), reading)
    row = _row(job, len(grown.readings) - 1, to_plain(reading))
    row.key = key
    row.save()
    return row.place


def _grown(case: Case, reading: CaseReading) -> Case:
    if len(case.readings) >= MOST_READINGS:
        raise refuse("readings", f"at most {MOST_READINGS} readings", "one more")
    grown = replace(case, readings=(*case.readings, reading))
    check_newest(grown)
    return grown


def _timed(reading: CaseReading) -> CaseReading:
    """The reading with its time in one form."""
    return replace(reading, taken=one_form(reading.taken)) if reading.taken else reading


def _taken_before(job: Job, row: Reading, reading: CaseReading) -> Taken:
    """The answer to a request that was answered before, and the answer lost."""
    case = case_of(job)
    kept = case.readings[row.place]
    if replace(reading, taken=kept.taken, struck=kept.struck) != kept:
        raise refuse("Idempotency-Key", "another key for another reading", str(row.key))
    until = replace(case, readings=case.readings[: row.place + 1])
    return Taken(row.place, kept, *_judged(until))


def worked_out(job: Job) -> Worked:
    """The job's diagnosis; its summary is brought up to the ledger."""
    worked = work_out(case_of(job))
    if _behind(job, len(worked.case.readings)):
        _keep_summary(job, worked)
    return worked


def _keep_summary(job: Job, worked: Worked) -> None:
    """Store a summary, unless the job has changed since it was read: then a newer one stands, or is to come."""
    Job.objects.filter(pk=job.pk, updated=job.updated).update(summary=_summary(worked))


def summarised() -> Iterator[Job]:
    """All jobs, the one touched last first, each with a summary of its whole ledger."""
    for job in Job.objects.annotate(in_ledger=Count("readings")):
        if _behind(job, job.in_ledger):
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
            "codes": [row.text for row in job.codes.all()], "stage": "testing", "decision": "keep-testing",
            "decided": TITLES["keep-testing"], "says": why, "waits_for": why, "confidence": 0.0, "readings": job.readings.count(),
        }  # fmt: skip


def _behind(job: Job, lines: int) -> bool:
    return job.summary.get(LINES) != lines or not job.summary.keys() >= SUMMARY_FIELDS


def _summary(worked: Worked) -> dict[str, Any]:
    return {**summary_of(worked), LINES: len(worked.case.readings)}


def strike(job: Job, place: int, reason: str) -> Worked:
    """Strike out a reading; its line stays. The same strike sent again changes nothing. Raises RefusedInput."""
    job = _struck(job, place, reason.strip()[:300])
    return _worked_after(job)


@transaction.atomic
def _struck(job: Job, place: int, reason: str) -> Job:
    job = _locked(job)
    row = job.readings.filter(place=place).first()
    if row is None:
        raise refuse("place", "the place of a reading of this job", str(place))
    if not reason:
        raise refuse("reason", "why the reading does not count", "nothing")
    if row.struck and row.struck != reason:
        raise refuse("place", "a reading that is not struck out yet", str(place))
    row.struck = reason
    row.save(update_fields=["struck"])
    return job


def change(job: Job, changes: dict[str, Any]) -> Worked:
    """Change what is known besides the ledger. Objects are merged field by field, null takes a field away (RFC 7396), so
    that two changes of different fields never undo each other; lists are replaced. Raises RefusedInput.
    """
    return _worked_after(_changed(job, changes))


@transaction.atomic
def _changed(job: Job, changes: dict[str, Any]) -> Job:
    job = _locked(job)
    plain = merged(to_plain(case_of(job)), changes)
    changed = case_from_plain(plain)
    check(changed)
    plain = to_plain(changed)
    if "codes" in changes:
        job.codes.all().delete()
        _add_codes(job, plain.get("codes", []))
    job.header = {name: value for name, value in plain.items() if name not in ("codes", "readings")}
    job.save(update_fields=["header"])
    return job


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


def _worked_after(job: Job) -> Worked:
    """The diagnosis after a change that is stored."""
    worked = work_out(case_of(job))
    _keep_summary(job, worked)
    return worked


def known_vehicles() -> list[KnownVehicle]:
    """The distinct vehicles of the stored jobs, newest first."""
    found: dict[str, KnownVehicle] = {}
    for job in Job.objects.prefetch_related("codes")[:200]:
        try:
            vehicle = from_plain(Vehicle, job.header["vehicle"])
            sensor = from_plain(Sensor, job.header["sensor"]) if "sensor" in job.header else None
        except RefusedInput:  # stored under older rules: its own page says what is wrong with it
            continue
        codes = tuple(code.text for code in job.codes.all())
        found.setdefault(vehicle.label, KnownVehicle(vehicle, sensor, codes, job.pk))
    return list(found.values())


def _add_codes(job: Job, codes: list[dict[str, str]]) -> None:
    Code.objects.bulk_create(Code(job=job, text=item["code"], status=item.get("status", "")) for item in codes)


def _row(job: Job, place: int, body: dict[str, Any]) -> Reading:
    struck = body.pop("struck", "")
    return Reading(job=job, place=place, body=body, struck=struck)


def _locked(job: Job) -> Job:
    """The job touched, which takes its write lock, so that two readings never get one place; as it stands now."""
    Job.objects.filter(pk=job.pk).update(updated=datetime.now(UTC))
    return Job.objects.get(pk=job.pk)
