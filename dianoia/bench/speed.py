"""How long the engine takes: a circuit's first predictions, each reading after that, and what is made ready in between."""

from collections.abc import Mapping
from statistics import median, quantiles
from time import perf_counter

from dianoia.bench.jobs import GROUPS, prepared, simulated
from dianoia.bench.vehicle import ModelVehicle
from dianoia.case.job import Job, read_as
from dianoia.case.observed import Observed
from dianoia.diagnosis.catalogue.offered import engines
from dianoia.diagnosis.verdict.diagnose import Diagnosis

#: Readings a measured job goes through, and jobs taken of each group.
_READINGS, _JOBS = 12, 1


def measure() -> Mapping[str, float]:
    """Milliseconds over every group of jobs: first predictions, update with verdict and next reading, and decisions,
    which are weighed again where few draws stand.
    """
    Diagnosis(prepared(0, False)).verdict()  # tables read, code warmed
    first = [_first(prepared(row, False)) for row in range(len(GROUPS))]
    worked = [_updates(item.job, item.hidden, item.seed) for item in simulated(len(GROUPS) * _JOBS, 5)]
    updates = [time for spent, _ in worked for time, decided in spent if not decided]
    decisions = [time for spent, _ in worked for time, decided in spent if decided]
    return {
        "first_predictions_median_ms": round(median(first), 1),
        "first_predictions_worst_ms": round(max(first), 1),
        "update_median_ms": round(median(updates), 1),
        "update_p95_ms": round(quantiles(updates, n=20)[-1], 1),
        "updates": float(len(updates)),
        "decision_median_ms": round(median(decisions), 1),
        "decision_worst_ms": round(max(decisions), 1),
        "between_readings_worst_ms": round(max(time for _, between in worked for time in between), 1),
    }


def _updates(job: Job, hidden: tuple[str, ...], seed: int) -> tuple[list[tuple[float, bool]], list[float]]:
    """A vehicle worked by the planner: the time of each update and whether it was decided with it, and the time of what a
    server works out after each.
    """
    vehicle = ModelVehicle(job, hidden, seed)
    spent: list[tuple[float, bool]] = []
    between: list[float] = []
    readings: list[Observed] = []
    diagnosis = Diagnosis(job)
    engines.make_ready(job)
    while len(readings) < _READINGS and diagnosis.ranked():
        taken = vehicle.take(diagnosis.ranked()[0].candidate.probe)
        if taken is None:
            break
        readings.append(read_as(job, taken))
        grown = job.with_readings(readings)
        start = perf_counter()
        diagnosis = Diagnosis(grown)
        diagnosis.verdict()
        spent.append((1000 * (perf_counter() - start), diagnosis.standing.decided))
        start = perf_counter()
        engines.make_ready(grown)
        between.append(1000 * (perf_counter() - start))
    return spent, between


def _first(job: Job) -> float:
    engines.forget()
    start = perf_counter()
    engines.engine(job)
    return 1000 * (perf_counter() - start)
