"""How long the engine takes: a circuit's first predictions, and each reading after that."""

from collections.abc import Mapping
from dataclasses import replace
from statistics import median, quantiles
from time import perf_counter

from dianoia.bench.vehicle import SimulatedVehicle
from dianoia.case.job import job_of
from dianoia.case.load import case_from_plain
from dianoia.diagnosis.diagnose import Diagnosis
from dianoia.diagnosis.session import circuit_of, forget_circuits

_CASE = {
    "format": "dianoia-case/1", "vehicle": {"label": "benchmark", "system_voltage": 12}, "codes": [{"code": "P0057"}],
}  # fmt: skip
_ROUNDS = 5


def measure() -> Mapping[str, float]:
    """Milliseconds: first predictions (median), and update with verdict and next reading (median, 95th percentile)."""
    case = case_from_plain(_CASE)
    job = job_of(case)
    first = [_first(job) for _ in range(_ROUNDS)]
    updates: list[float] = []
    for seed, hidden in enumerate((("heater-open",), ("wire-high:heater_control",), ("fuse-blown",))):
        vehicle = SimulatedVehicle(job, hidden, seed)
        readings = [item for candidate in circuit_of(job).offered(job) if (item := vehicle.take(candidate.probe))]
        for count in range(1, len(readings) + 1):
            grown = replace(job, case=replace(job.case, readings=tuple(readings[:count])))
            circuit_of(grown)
            start = perf_counter()
            Diagnosis(grown).verdict()
            updates.append(1000 * (perf_counter() - start))
    return {
        "first_predictions_ms": round(median(first), 1),
        "update_median_ms": round(median(updates), 1),
        "update_p95_ms": round(quantiles(updates, n=20)[-1], 1),
        "updates": float(len(updates)),
    }


def _first(job: object) -> float:
    forget_circuits()
    start = perf_counter()
    circuit_of(job)  # type: ignore[arg-type]
    return 1000 * (perf_counter() - start)
