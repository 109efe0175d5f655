"""How well and how cheaply the engine isolates simulated faults."""

import os
import sys
from collections.abc import Container, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from typing import Any, get_args

from dianoia.bench.figures import effort, figures, share
from dianoia.bench.jobs import GROUPS, simulated
from dianoia.bench.kept import BenchRun, KeptOutcomes
from dianoia.bench.work import BenchTechnician, WorkedJob
from dianoia.case.terms import Style

#: Jobs given to a process at once.
_PORTION = 10
#: One job in so many is also worked in the fixed order of each style.
STYLED = 10
Order = tuple[BenchRun, range]


def run(jobs: int, seed: int, kept: KeptOutcomes) -> Mapping[str, Any]:
    """Figures over ``jobs`` simulated jobs, spread evenly over the groups; progress goes to standard error.

    kept: where every worked job is written to; those that are there already are not worked again.
    """
    outcomes = _worked(BenchRun(jobs, seed, None), kept)
    styled = max(jobs // STYLED, 1)
    styles: dict[str, Any] = {}
    for style in get_args(Style):
        found = _worked(BenchRun(styled, seed + 1, style), kept)
        styles[style] = {
            "jobs": len(found),
            "right": share(sum(item.right for item in found), len(found)),
            **effort(found),
        }
    same = _worked(BenchRun(styled, seed + 1, None), kept)
    best = min(item["mean_minutes"] for item in styles.values())
    return {
        "all": figures(outcomes),
        "groups": _grouped(outcomes, "group"),
        "families": _grouped(outcomes, "family"),
        "styles": {**styles, "planner_on_the_same_jobs": effort(same),
                   "planner_over_best_style": round(effort(same)["mean_minutes"] / best, 3)},
    }  # fmt: skip


def _grouped(outcomes: Sequence[WorkedJob], attribute: str) -> Mapping[str, Any]:
    names = dict.fromkeys(getattr(item, attribute) for item in outcomes)
    return {name: figures([item for item in outcomes if getattr(item, attribute) == name]) for name in names}


def _worked(run: BenchRun, kept: KeptOutcomes) -> list[WorkedJob]:
    outcomes = kept.of(run)
    with ProcessPoolExecutor(max_workers=os.cpu_count()) as pool:
        for found in pool.map(_portion, [(run, indices) for indices in portions(run.jobs, outcomes)]):
            kept.add(run, found)
            outcomes |= found
            _show(run, len(outcomes))
    print(file=sys.stderr)
    return [outcomes[index] for index in range(run.jobs)]


def portions(jobs: int, done: Container[int]) -> list[range]:
    """The jobs still to be worked, those of one group together; in turns, so that all groups come forward alike."""
    per_group = max(jobs // len(GROUPS), 1)
    whole = [range(start, min(start + _PORTION, jobs)) for start in range(0, jobs, _PORTION)]
    open_ones = [portion for portion in whole if any(index not in done for index in portion)]
    return sorted(open_ones, key=lambda portion: (portion.start % per_group, portion.start))


def _show(run: BenchRun, done: int) -> None:
    print(f"\r{run.style or 'planner'}: {done} of {run.jobs} jobs ", end="", file=sys.stderr, flush=True)


def _portion(order: Order) -> dict[int, WorkedJob]:
    run, indices = order
    worked = simulated(run.jobs, run.seed, indices)
    return {index: BenchTechnician(item, run.style).finish() for index, item in zip(indices, worked, strict=True)}
