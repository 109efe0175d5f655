"""A stored job as the core's case."""

from dianoia.case.load import case_from_plain
from dianoia.case.types import Case
from server.ledger.models import Job
from server.ledger.readings import Lines, lines_of
from server.ledger.recordings import recordings_of


class JobNotFound(Exception):
    """No job has this number."""


def find_job(number: int) -> Job:
    """The stored job. Raises JobNotFound."""
    try:
        return Job.objects.get(pk=number)
    except Job.DoesNotExist as problem:
        raise JobNotFound(f"There is no job {number}.") from problem


def case_of(job: Job) -> Case:
    """The job as the core's case."""
    return case_with(job, lines_of(job))


def case_with(job: Job, lines: Lines) -> Case:
    """The job as the core's case. lines: its readings."""
    recordings = [item.plain for item in recordings_of(job)]
    plain = {**job.header, "codes": job.codes, "readings": lines.plain}
    return case_from_plain({**plain, "recordings": recordings} if recordings else plain)
