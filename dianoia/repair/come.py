"""What may come next, said before the vehicle leaves."""

from collections.abc import Iterator, Sequence

from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from dianoia.repair.acts import Mended
from dianoia.repair.types import MayCome

#: Codes that were set aside rather than worked on.
_PARKED = ("related", "unknown")


def may_come(diagnosis: Diagnosis, repairs: Sequence[Mended]) -> Iterator[MayCome]:
    """What the driver should hear of: what the fault had hidden, what is as old as what failed, what was left."""
    job = diagnosis.job
    found = [name for repair in repairs for name in repair.finding.found]
    if any(faults()[name].masks_catalyst for name in found):
        yield MayCome(
            says="A catalyst code may appear within some drives.",
            why="A slow or dead sensor keeps the catalyst from being tested; now it is tested again.",
        )
    replaced = any(faults()[name].component == "sensor" for name in found)
    engine = job.case.vehicle.engine
    if replaced and engine and engine.sensor_banks == 2 and job.bank and job.position:
        yield MayCome(
            says=f"B{3 - job.bank}S{job.position}, its twin, is as old as the sensor that was replaced.",
            why="Sensors of one age wear alike; it was not replaced.",
        )
    for code in job.codes:
        if code.kind in _PARKED:
            yield MayCome(says=f"{code.code} was not worked on.", why=code.says)
