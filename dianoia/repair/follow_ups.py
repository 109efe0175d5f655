"""What may come next, said before the vehicle leaves."""

from collections.abc import Iterator, Sequence

from dianoia.case.job import Job
from dianoia.case.observed import Observed
from dianoia.codes.types import Decoded
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from dianoia.diagnosis.verdict.types import Judged
from dianoia.diagnosis.verdict.vocabulary import RESULTS
from dianoia.readings.describe import describe_reading
from dianoia.repair.acts import Mended
from dianoia.repair.types import MayCome

#: Codes that were set aside rather than worked on.
_PARKED = ("related", "unknown")
#: So many of the twin's readings are told, the newest.
TWIN_READINGS = 4


def may_come(diagnosis: Diagnosis, repairs: Sequence[Mended], judged: Sequence[Judged]) -> Iterator[MayCome]:
    """What the driver should hear of: what the fault had hidden, what is as old as what failed, what was left. judged: the readings, by place."""
    job = diagnosis.job
    found = [name for repair in repairs for name in repair.finding.found]
    if any(faults()[name].masks_catalyst for name in found):
        yield MayCome(
            says="A catalyst code may appear within some drives.",
            why="A slow or dead sensor keeps the catalyst from being tested; now it is tested again.",
        )
    told = {job.address}
    replaced = any(faults()[name].component == "sensor" for name in found)
    engine = job.case.vehicle.engine
    if replaced and engine and engine.sensor_banks == 2 and job.bank and job.position:
        yield _twin(job, f"B{3 - job.bank}S{job.position}", judged)
        told.add(f"B{3 - job.bank}S{job.position}")
    for other in read_bad(job, judged):
        if other not in told:
            yield _other(job, other, judged)
    for code in job.codes:
        if code.kind in _PARKED and not _worked_on(code, job, found):
            yield MayCome(says=f"{code.code} was not worked on.", why=code.says)


def _worked_on(code: Decoded, job: Job, found: Sequence[str]) -> bool:
    """Whether the job was about a code though it names no sensor, or what it names was mended."""
    own = job.primary is None and code == job.codes[0]
    return own or (code.relation is not None and code.relation in {faults()[name].component for name in found})


def read_bad(job: Job, judged: Sequence[Judged]) -> list[str]:
    """Addresses of other sensors of the vehicle that read as they should not, each once."""
    bad = [
        item.probe.of
        for place, item in enumerate(job.readings)
        if item.counts and item.probe.of and item.probe.of.startswith("B") and judged[place].result == "fail"
    ]
    return list(dict.fromkeys(bad))


def _other(job: Job, other: str, judged: Sequence[Judged]) -> MayCome:
    """Another sensor that read bad and was not worked on."""
    return MayCome(
        says=f"Sensor {other} does not read as it should, either. It was not replaced.",
        why=measured_of(job, other, judged),
    )


def _twin(job: Job, twin: str, judged: Sequence[Judged]) -> MayCome:
    """The sensor of the same age on the other bank, with what was read of it."""
    ageing = " and does not read as it should" if twin in read_bad(job, judged) else ""
    return MayCome(
        says=f"{twin}, its twin, is as old as the sensor that was replaced{ageing}.",
        why=f"Sensors of one age wear alike; it was not replaced. {measured_of(job, twin, judged)}",
    )


def measured_of(job: Job, other: str, judged: Sequence[Judged]) -> str:
    """What was read of another sensor, the newest readings, in a sentence."""
    places = [place for place, item in enumerate(job.readings) if item.counts and item.probe.of == other]
    told = [
        f"{_said(job.readings[place], job)}, {RESULTS[judged[place].result].word}" for place in places[-TWIN_READINGS:]
    ]
    return f"Read on it: {'; '.join(told)}." if told else "Nothing was read on it."


def _said(reading: Observed, job: Job) -> str:
    words = describe_reading(reading, job.pins)
    return f"{words.short_step} {words.value}"
