"""Jobs in the database <-> cases of the core. Everything is checked by the core before anything is saved."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

from django.db import transaction
from django.db.models import Count

from dianoia.case.job import job_of
from dianoia.case.ledger import Reading as CaseReading
from dianoia.case.load import case_from_plain, from_plain, to_plain
from dianoia.case.types import MOST_READINGS, Case, Sensor, Vehicle
from dianoia.diagnosis.check import check, check_newest
from dianoia.diagnosis.judging import judge_newest
from dianoia.errors import refuse
from dianoia.readings.describe import describe
from server.jobs.bodies import KnownVehicle, Taken
from server.jobs.models import Code, Job, Reading
from server.jobs.view import Worked, summary_of, work_out
from server.jobs.workshop import in_workshop

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


@transaction.atomic
def create(case: Case) -> Job:
    """Store a new job. Raises RefusedInput, and then nothing is stored."""
    check(case)
    plain = to_plain(case)
    codes, readings = plain.pop("codes", []), plain.pop("readings", [])
    job = Job.objects.create(header=plain)
    _add_codes(job, codes)
    Reading.objects.bulk_create(_row(job, place, body) for place, body in enumerate(readings))
    _summarised(job, case)
    return job


@transaction.atomic
def add_reading(job: Job, reading: CaseReading) -> Taken:
    """Append to the ledger and judge. Raises RefusedInput (fields named without their place), and then nothing is stored.

    The job's summary is behind from then on, until the job is worked out.
    """
    case = case_of(_locked(job))
    if len(case.readings) >= MOST_READINGS:
        raise refuse("readings", f"at most {MOST_READINGS} readings", "one more")
    if reading.taken is None:
        reading = replace(reading, taken=datetime.now(UTC).isoformat(timespec="seconds"))
    grown = replace(case, readings=(*case.readings, reading))
    check_newest(grown)
    place = len(case.readings)
    _row(job, place, to_plain(reading)).save()
    judged = judge_newest(job_of(in_workshop(grown)))
    return Taken(place, reading, describe(reading), judged)


def worked_out(job: Job) -> Worked:
    """The job's diagnosis; its summary is brought up to the ledger."""
    worked = work_out(case_of(job))
    if _behind(job, len(worked.case.readings)):
        unchanged = Job.objects.filter(pk=job.pk, updated=job.updated)  # else a newer summary stands, or is to come
        unchanged.update(summary=_summary(worked))
    return worked


def summarised() -> Iterator[Job]:
    """All jobs, the one touched last first, each with a summary of its whole ledger."""
    for job in Job.objects.annotate(in_ledger=Count("readings")):
        if _behind(job, job.in_ledger):
            job.summary = _summary(worked_out(job))
        yield job


def _behind(job: Job, lines: int) -> bool:
    return bool(job.summary.get(LINES) != lines)


def _summary(worked: Worked) -> dict[str, Any]:
    return {**summary_of(worked), LINES: len(worked.case.readings)}


@transaction.atomic
def strike(job: Job, place: int, reason: str) -> Worked:
    """Strike out a reading; its line stays. Raises RefusedInput."""
    _locked(job)
    row = job.readings.filter(place=place).first()
    if row is None:
        raise refuse("place", "the place of a reading of this job", str(place))
    if row.struck:
        raise refuse("place", "a reading that is not struck out yet", str(place))
    if not reason.strip():
        raise refuse("reason", "why the reading does not count", "nothing")
    row.struck = reason.strip()[:300]
    row.save(update_fields=["struck"])
    return _summarised(job, case_of(job))


@transaction.atomic
def change(job: Job, changes: dict[str, Any]) -> Worked:
    """Replace fields of the case other than its ledger (style, vehicle, sensor, specs, codes, symptoms, history, title)."""
    case = case_of(_locked(job))
    plain = {**to_plain(case), **changes}
    changed = case_from_plain(plain)
    check(changed)
    if "codes" in changes:
        job.codes.all().delete()
        _add_codes(job, plain.get("codes", []))
    job.header = {name: value for name, value in plain.items() if name not in ("codes", "readings")}
    return _summarised(job, changed)


def known_vehicles() -> list[KnownVehicle]:
    """The distinct vehicles of the stored jobs, newest first."""
    found: dict[str, KnownVehicle] = {}
    for job in Job.objects.prefetch_related("codes")[:200]:
        vehicle = from_plain(Vehicle, job.header["vehicle"])
        sensor = from_plain(Sensor, job.header["sensor"]) if "sensor" in job.header else None
        codes = tuple(code.text for code in job.codes.all())
        found.setdefault(vehicle.label, KnownVehicle(vehicle, sensor, codes, job.pk))
    return list(found.values())


def _add_codes(job: Job, codes: list[dict[str, str]]) -> None:
    Code.objects.bulk_create(Code(job=job, text=item["code"], status=item.get("status", "")) for item in codes)


def _row(job: Job, place: int, body: dict[str, Any]) -> Reading:
    struck = body.pop("struck", "")
    return Reading(job=job, place=place, body=body, struck=struck)


def _summarised(job: Job, case: Case) -> Worked:
    worked = work_out(case)
    job.summary = _summary(worked)
    job.save()
    return worked


def _locked(job: Job) -> Job:
    """The job touched, which takes its write lock, so that two readings never get one place."""
    Job.objects.filter(pk=job.pk).update(updated=datetime.now(UTC))
    return job
