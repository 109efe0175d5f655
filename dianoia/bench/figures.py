"""What worked jobs say about the engine: shares with their bounds, calibration, cost."""

import math
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from dianoia.bench.work import WorkedJob

BINS = 10


def figures(outcomes: Sequence[WorkedJob]) -> Mapping[str, Any]:
    """Shares of right, undecided and wrong ends; calibration; mean minutes and readings."""
    decided = [item for item in outcomes if item.named is not None]
    right = sum(item.right for item in outcomes)
    false_sensor = sum("sensor" in (item.named or ()) and "sensor" not in item.truth for item in decided)
    return {
        "jobs": len(outcomes),
        "right": share(right, len(outcomes)),
        "undecided": share(len(outcomes) - len(decided), len(outcomes)),
        "wrong": share(len(decided) - right, len(outcomes)),
        "sequence_right": share(
            sum(item.mended or (item.right and not item.truth) for item in outcomes), len(outcomes)
        ),
        "sensor_condemned_falsely": share(false_sensor, len(outcomes)),
        "right_of_decided": share(right, len(decided)),
        "mean_confidence_decided": round(float(np.mean([item.confidence for item in decided])), 4) if decided else None,
        "calibration": calibration([step for item in outcomes for step in item.course]),
        "calibration_at_the_end": calibration([item.course[-1] for item in outcomes]),
        **effort(outcomes),
    }


def effort(outcomes: Sequence[WorkedJob]) -> Mapping[str, float]:
    """Mean simulated minutes and readings."""
    return {
        "mean_minutes": round(float(np.mean([item.minutes for item in outcomes])), 2),
        "mean_readings": round(float(np.mean([item.readings for item in outcomes])), 2),
    }


def calibration(answers: Sequence[tuple[float, bool]]) -> Mapping[str, Any]:
    """(confidence, truth) pairs in ten bins, and the expected calibration error: the mean gap, weighted by answers."""
    given = np.array([item[0] for item in answers])
    true = np.array([item[1] for item in answers], dtype=float)
    place = np.minimum((given * BINS).astype(int), BINS - 1)
    bins = []
    error = 0.0
    for number in range(BINS):
        inside = place == number
        if not inside.any():
            continue
        mean, share_true = float(given[inside].mean()), float(true[inside].mean())
        error += abs(mean - share_true) * float(inside.mean())
        bins.append({"from": number / BINS, "answers": int(inside.sum()), "mean_confidence": round(mean, 4),
                     "true": round(share_true, 4)})  # fmt: skip
    return {"expected_error": round(error, 4), "bins": bins}


def share(count: int, of: int) -> Mapping[str, float]:
    """A share with its 95 % bounds (Wilson)."""
    if of == 0:
        return {"share": 0.0, "low": 0.0, "high": 1.0}
    z, p = 1.96, count / of
    middle = (p + z * z / (2 * of)) / (1 + z * z / of)
    half = z * math.sqrt(p * (1 - p) / of + z * z / (4 * of * of)) / (1 + z * z / of)
    return {"share": round(p, 4), "low": round(max(middle - half, 0.0), 4), "high": round(min(middle + half, 1.0), 4)}
