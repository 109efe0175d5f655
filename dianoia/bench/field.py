"""The engine put to the second car: what comes of the readings that people bring, and of its own proposals."""

from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from pathlib import Path
from typing import Any

import numpy as np

from dianoia.bench.field_work import FieldOutcome, FieldStep, is_right, worked
from dianoia.bench.figures import share
from dianoia.bench.kept import engine
from dianoia.bench.lines import worked_through

#: Confidences between these are sorted into so many bins of equal count.
BETWEEN, BINS = (0.05, 0.95), 10


def run(jobs: int, seed: int, path: Path | None) -> Mapping[str, Any]:
    """Figures over field jobs 0 to ``jobs`` of a seed; progress goes to standard error.

    path: where each worked job is written to, a line of JSON; those that are there are not worked again. Raises RefusedInput
    where the file is of another engine or seed.
    """
    return {"engine": engine(), "seed": seed, **figures(worked_through(FieldOutcome, _one, jobs, seed, path))}


def _one(order: tuple[int, int]) -> FieldOutcome:
    return worked(*order)


def figures(outcomes: Sequence[FieldOutcome]) -> Mapping[str, Any]:
    """Everything that is said of worked field jobs."""
    done = [item for item in outcomes if not item.problem]
    told = [item for item in done if item.tells is not None]
    return {
        "jobs": len(outcomes),
        "fell_over": Counter(item.problem.split(":")[0] for item in outcomes if item.problem),
        "all": ends(done),
        "readings_suffice": {"share": share(sum(bool(item.tells) for item in told), len(told)),
                             **ends([item for item in told if item.tells])},
        "readings_suffice_and_gate_shown": ends([item for item in told if item.tells and item.shown]),
        "gate_shown": ends([item for item in done if item.shown]),
        "people_themselves_right": share(sum(bool(is_right(_order(item), item.truth)) for item in done), len(done)),
        "confidence": calibration(done),
        "alarms_on_honest_readings": share(sum(item.alarms[0] for item in done), sum(item.honest for item in done)),
        "judged": judged(done),
        "planner": planner(done),
        "families": _by(done, lambda item: item.family),
        "styles": _by(done, lambda item: item.style),
        "faults": _by(done, lambda item: " and ".join(item.faults) if len(item.faults) < 2 else "two faults"),
    }  # fmt: skip


def _order(item: FieldOutcome) -> tuple[str, ...]:
    return () if item.ordered[0] == "none" else (item.ordered[0],)


def ends(items: Sequence[FieldOutcome]) -> Mapping[str, Any]:
    """Decided right, wrong, or not: at the end of the readings, and by any decision on the way."""
    last = [_right(item.steps[-1], item) for item in items]
    later = [_right(item.continued, item) for item in items if item.continued is not None]
    feeds = sum("feed" in (item.steps[-1].decision or ()) for item in items)
    wrongly = [item for item in items if "sensor" not in item.truth and "sensor" in (item.steps[-1].decision or ())]
    first = [_first(item) for item in items]
    sound = [item for item in items if "sensor" not in item.truth]
    condemned = sum(any("sensor" in (step.decision or ()) for step in item.steps) for item in sound)
    return {
        "jobs": len(items),
        "right_at_the_end": share(sum(found is True for found in last), len(items)),
        "wrong_at_the_end": share(sum(found is False for found in last), len(items)),
        "feed_at_the_end": share(feeds, len(items)),
        "right_after_own_readings": share(sum(found is True for found in later), len(later)),
        "wrong_after_own_readings": share(sum(found is False for found in later), len(later)),
        "undecided_at_the_end": share(sum(found is None for found in last), len(items)),
        "certain_but_not_shown": share(sum(bool(item.steps[-1].wanted) for item in items), len(items)),
        "first_decision_right": share(sum(found is True for found in first), len(items)),
        "first_decision_wrong": share(sum(found is False for found in first), len(items)),
        "a_good_sensor_condemned": share(condemned, len(sound)),
        "condemned_at_the_end": {
            "sensors": len(wrongly),
            "still_after_before_fitting": sum(item.refitted is True for item in wrongly),
            "expected": round(
                sum(1 - item.steps[-1].confidence for item in items if "sensor" in (item.steps[-1].decision or ())), 2
            ),
        },
    }


def _right(step: FieldStep, item: FieldOutcome) -> bool | None:
    return is_right(step.decision, item.truth, item.faults, step.one_of)


def _first(item: FieldOutcome) -> bool | None:
    found = (_right(step, item) for step in item.steps if step.decision is not None)
    return next(found, None)


def calibration(items: Sequence[FieldOutcome]) -> Mapping[str, Any]:
    """``confidence`` after every reading against what is true, in bins of equal count, and the mean log score."""
    steps = [step for item in items for step in item.steps[1:]]
    true = np.array([step.right for step in steps], dtype=float)
    said = np.array([step.confidence for step in steps])
    clipped = np.clip(said, 1e-4, 1 - 1e-4)
    score = float(np.mean(np.where(true > 0, np.log(clipped), np.log(1 - clipped)))) if steps else 0.0
    inside = np.flatnonzero((said > BETWEEN[0]) & (said < BETWEEN[1]))
    order = inside[np.argsort(said[inside], kind="stable")]
    bins = [part for part in np.array_split(order, BINS) if part.size]
    rows = [
        {
            "said": round(float(said[part].mean()), 3),
            "true": round(float(true[part].mean()), 3),
            "answers": int(part.size),
        }
        for part in bins
    ]
    error = sum(abs(row["said"] - row["true"]) * row["answers"] for row in rows) / max(len(order), 1)
    sure = said >= BETWEEN[1]
    return {
        "expected_error": round(error, 4), "log_score": round(score, 4), "bins": rows,
        "above": {"said": round(float(said[sure].mean()), 4) if sure.any() else None, "true": share(int(true[sure].sum()), int(sure.sum()))},
    }  # fmt: skip


def judged(items: Iterable[FieldOutcome]) -> Mapping[str, Any]:
    """How honest readings were judged, by whether the sound car shows the same."""
    count: Counter[str] = Counter()
    for item in items:
        count.update(item.judged)
    healthy, failed = (
        sum(count[f"{kind}, judged {result}"] for result in ("pass", "fail", "unclear"))
        for kind in ("healthy", "failed")
    )
    return {
        "healthy_judged_failed": share(count["healthy, judged fail"], healthy),
        "failed_judged_healthy": share(count["failed, judged pass"], failed),
    }


def planner(items: Iterable[FieldOutcome]) -> Mapping[str, Any]:
    """The engine's own proposals on the same cars."""
    found = [item.planned for item in items if item.planned is not None]
    if not found:
        return {"jobs": 0}

    def mean(values: Iterable[float]) -> float:
        return round(float(np.mean(list(values))), 2)

    return {
        "jobs": len(found),
        "first_decision_right": share(sum(item.right is True for item in found), len(found)),
        "first_decision_wrong": share(sum(item.right is False for item in found), len(found)),
        "undecided": share(sum(item.right is None for item in found), len(found)),
        "minutes_to_it": mean(item.minutes for item in found), "readings_to_it": mean(item.readings for item in found),
        "car_right_at_the_end": share(sum(item.car_right for item in found), len(found)),
        "visits": mean(item.visits for item in found), "parts_in_vain": mean(item.parts_in_vain for item in found),
    }  # fmt: skip


def _by(items: Sequence[FieldOutcome], of: Callable[[FieldOutcome], str]) -> Mapping[str, Any]:
    groups: dict[str, list[FieldOutcome]] = {}
    for item in items:
        groups.setdefault(of(item) or "none", []).append(item)
    return {
        name: {
            key: value
            for key, value in ends(group).items()
            if key in ("jobs", "right_at_the_end", "wrong_at_the_end", "a_good_sensor_condemned")
        }
        for name, group in sorted(groups.items(), key=lambda pair: -len(pair[1]))
    }
