"""How well and how cheaply the engine isolates simulated faults.

Each job is a vehicle with a hidden fault (or two), drawn from other tolerances than the engine's, with slips. It is
worked as a technician would: the proposed reading is taken, until a decision is made or nothing is left to measure.
"""

import math
import sys
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from dianoia.bench.vehicle import SimulatedVehicle
from dianoia.case.job import Job, job_of
from dianoia.case.load import case_from_plain
from dianoia.diagnosis.diagnose import Diagnosis
from dianoia.diagnosis.plan import Candidate, cost
from dianoia.diagnosis.session import circuit_of
from dianoia.diagnosis.tables import faults

#: Share of readings misread by a factor, and share of jobs with two faults and with none.
SLIPS, TWO, NONE = 0.03, 0.06, 0.06
#: A technician gives up after this many readings.
MOST_READINGS = 30
#: (code, family, position) of each group of jobs.
GROUPS = (
    ("P0057", "switching-4w", 2), ("P0031", "airfuel-4w", 1), ("P0036", "switching-3w", 2), ("P0134", "switching-4w", 1),
    ("P0131", "switching-4w", 1), ("P0138", "switching-4w", 2), ("P0130", "switching-1w", 1), ("P2237", "airfuel-4w", 1),
    ("P2243", "wideband-6w", 1), ("P0130", "titania-4w", 1), ("P229E", "nox-can-4w", 2), ("U029D", "nox-can-4w", 1),
)  # fmt: skip


@dataclass(frozen=True)
class Outcome:
    """One job worked to its end. course: (belief in the likeliest set, whether it was the truth) after each reading."""

    group: str
    truth: frozenset[str]
    named: frozenset[str] | None
    confidence: float
    minutes: float
    readings: int

    @property
    def right(self) -> bool:
        """Decided, and exactly the right components."""
        return self.named == self.truth


def run(jobs: int, seed: int = 1) -> Mapping[str, Any]:
    """Figures over ``jobs`` simulated jobs, spread evenly over the groups; progress goes to standard error."""
    outcomes = []
    for done, outcome in enumerate(_outcomes(jobs, seed), start=1):
        outcomes.append(outcome)
        if done % 20 == 0 or done == jobs:
            print(f"\r{done} of {jobs} jobs", end="", file=sys.stderr, flush=True)
    print(file=sys.stderr)
    groups = sorted({item.group for item in outcomes})
    return {
        "jobs": len(outcomes),
        "all": _figures(outcomes),
        "groups": {name: _figures([item for item in outcomes if item.group == name]) for name in groups},
    }


def _outcomes(jobs: int, seed: int) -> Iterator[Outcome]:
    for index in range(jobs):
        code, family, position = GROUPS[index % len(GROUPS)]
        sensor = {"family": family, "bank": 1, "position": position}
        case = case_from_plain({
            "format": "dianoia-case/1", "vehicle": {"label": "simulated", "system_voltage": 12}, "sensor": sensor,
            "codes": [{"code": code}],
        })  # fmt: skip
        yield work(job_of(case), f"{code} {family}", seed * 100_003 + index)


def work(job: Job, group: str, seed: int) -> Outcome:
    """One simulated job, proposed reading after proposed reading."""
    circuit = circuit_of(job)
    hidden = _hidden(circuit.space.faults, circuit.space.prior, np.random.default_rng(seed))
    vehicle = SimulatedVehicle(job, hidden, seed, SLIPS)
    truth = frozenset(faults()[name].component for name in hidden)
    readings: list[Any] = []
    refused: set[str] = set()
    minutes = 0.0
    while True:
        diagnosis = Diagnosis(replace(job, case=replace(job.case, readings=tuple(readings))))
        chosen = next((item.candidate for item in diagnosis.ranked() if item.candidate.id not in refused), None)
        if chosen is None or len(readings) >= MOST_READINGS:
            standing = diagnosis.standing
            named = standing.components if standing.decided else None
            return Outcome(group, truth, named, standing.confidence, minutes, len(readings))
        minutes += _take(vehicle, chosen, readings, refused)


def _take(vehicle: SimulatedVehicle, chosen: Candidate, readings: list[Any], refused: set[str]) -> float:
    """Take a reading; returns its minutes, 0 where the probe finds no place on this vehicle."""
    refused.add(chosen.id)
    taken = vehicle.take(chosen.probe)
    if taken is None:
        return 0.0
    spent = cost(chosen, readings[-1] if readings else None)
    readings.append(taken)
    return spent


def _hidden(listed: Sequence[tuple[str, ...]], prior: Any, random: np.random.Generator) -> tuple[str, ...]:
    """A truth drawn by the base rates, with more pairs and sound circuits than by chance."""
    kind = random.random()
    wanted = 2 if kind < TWO else 0 if kind < TWO + NONE else 1
    rows = [row for row, names in enumerate(listed) if len(names) == wanted]
    weight = np.asarray(prior)[rows]
    return listed[rows[int(random.choice(len(rows), p=weight / weight.sum()))]]


def _figures(outcomes: Sequence[Outcome]) -> Mapping[str, Any]:
    right = sum(item.right for item in outcomes)
    decided = [item for item in outcomes if item.named is not None]
    false_sensor = sum("sensor" in (item.named or ()) and "sensor" not in item.truth for item in decided)
    return {
        "jobs": len(outcomes),
        "right": _share(right, len(outcomes)),
        "undecided": _share(len(outcomes) - len(decided), len(outcomes)),
        "wrong": _share(len(decided) - right, len(outcomes)),
        "sensor_condemned_falsely": _share(false_sensor, len(outcomes)),
        "mean_confidence_decided": round(float(np.mean([item.confidence for item in decided])), 4) if decided else None,
        "right_of_decided": _share(right, len(decided)),
        "mean_minutes": round(float(np.mean([item.minutes for item in outcomes])), 2),
        "mean_readings": round(float(np.mean([item.readings for item in outcomes])), 2),
    }


def _share(count: int, of: int) -> Mapping[str, float]:
    """A share with its 95 % bounds (Wilson)."""
    if of == 0:
        return {"share": 0.0, "low": 0.0, "high": 1.0}
    z, p = 1.96, count / of
    middle = (p + z * z / (2 * of)) / (1 + z * z / of)
    half = z * math.sqrt(p * (1 - p) / of + z * z / (4 * of * of)) / (1 + z * z / of)
    return {"share": round(p, 4), "low": round(middle - half, 4), "high": round(middle + half, 4)}
