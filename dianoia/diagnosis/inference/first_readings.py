"""The first readings of a job: what an engine's draws are taken by, and what it is kept by."""

from dataclasses import dataclass
from functools import cached_property

from dianoia.case.job import Job
from dianoia.case.observed import Observed
from dianoia.diagnosis.faults.subject import Subject, subject_of

Readings = tuple[Observed, ...]
#: A ledger's first readings, and what their circuit is for.
Key = tuple[Subject, tuple[object, ...]]


@dataclass(frozen=True)
class FirstReadings:
    """A job with the first ``count`` of its readings that count."""

    whole: Job
    count: int

    @cached_property
    def readings(self) -> Readings:
        """Those."""
        return self.whole.counted[: self.count]

    @cached_property
    def job(self) -> Job:
        """The job with no others."""
        return self.whole.with_readings(self.readings)

    @cached_property
    def key(self) -> Key:
        """What it is kept by."""
        return lasting(self.whole), self.readings

    def of(self, count: int) -> "FirstReadings":
        """With fewer readings."""
        return FirstReadings(self.whole, count)


def lasting(job: Job) -> Subject:
    """What a job's circuit is for whatever is read."""
    return subject_of(job.with_readings(()))


def whole(job: Job) -> FirstReadings:
    """A job with all of its readings that count."""
    return FirstReadings(job, len(job.counted))
