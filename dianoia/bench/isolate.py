"""How well and how cheaply the engine isolates simulated faults."""

import os
import sys
from collections.abc import Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from typing import Any, get_args

from dianoia.bench.figures import effort, figures, share
from dianoia.bench.jobs import simulated
from dianoia.bench.work import Outcome, Worker
from dianoia.case.terms import Style

#: Jobs given to a process at once.
_PORTION = 10
#: One job in so many is also worked in the fixed order of each style.
STYLED = 10
Order = tuple[int, int, int, int, str | None]


def run(jobs: int, seed: int = 1) -> Mapping[str, Any]:
    """Figures over ``jobs`` simulated jobs, spread evenly over the groups; progress goes to standard error."""
    outcomes = _worked(jobs, seed, None, jobs)
    styled = max(jobs // STYLED, 1)
    styles: dict[str, Any] = {}
    for style in get_args(Style):
        found = _worked(styled, seed + 1, style, styled)
        styles[style] = {
            "jobs": len(found),
            "right": share(sum(item.right for item in found), len(found)),
            **effort(found),
        }
    same = _worked(styled, seed + 1, None, styled)
    best = min(item["mean_minutes"] for item in styles.values())
    return {
        "all": figures(outcomes),
        "groups": _grouped(outcomes, "group"),
        "families": _grouped(outcomes, "family"),
        "styles": {**styles, "planner_on_the_same_jobs": effort(same),
                   "planner_over_best_style": round(effort(same)["mean_minutes"] / best, 3)},
    }  # fmt: skip


def _grouped(outcomes: Sequence[Outcome], attribute: str) -> Mapping[str, Any]:
    names = dict.fromkeys(getattr(item, attribute) for item in outcomes)
    return {name: figures([item for item in outcomes if getattr(item, attribute) == name]) for name in names}


def _worked(jobs: int, seed: int, style: str | None, total: int) -> list[Outcome]:
    orders = [(start, min(start + _PORTION, jobs), jobs, seed, style) for start in range(0, jobs, _PORTION)]
    outcomes: list[Outcome] = []
    with ProcessPoolExecutor(max_workers=os.cpu_count()) as pool:
        for found in pool.map(_portion, orders):
            outcomes += found
            print(f"\r{style or 'planner'}: {len(outcomes)} of {total} jobs ", end="", file=sys.stderr, flush=True)
    print(file=sys.stderr)
    return outcomes


def _portion(order: Order) -> list[Outcome]:
    start, stop, jobs, seed, style = order
    return [Worker(item, style).finish() for item in simulated(jobs, seed, range(start, stop))]
