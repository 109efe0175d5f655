"""The belief and the best readings of a job as the small problem that ``lookahead`` works on."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dianoia.circuit.network import Array
from dianoia.diagnosis.catalogue.costs import after, cost
from dianoia.diagnosis.decision.assessment import Assessment
from dianoia.diagnosis.decision.decide import DECIDE, gate_of
from dianoia.diagnosis.faults.partition import Partition
from dianoia.diagnosis.faults.types import Component
from dianoia.diagnosis.inference.predictions import Predictions
from dianoia.diagnosis.planning.lookahead import Problem, State, likeliest_way
from dianoia.diagnosis.planning.plan import Goal, Scored

#: Readings and hypotheses that are followed, and outcomes of a reading kept apart.
OPTIONS, HYPOTHESES, OUTCOMES = 8, 28, 3
#: Readings compared to their end, and how many readings deep.
WIDTH, DEPTH = 3, 2
#: How many minutes a reading of the working style is preferred by.
STYLE_MINUTES = 3.0
#: Readings of the remaining plan that are shown.
SHOWN = 6


@dataclass(frozen=True)
class ReducedProblem:
    """The small problem of a job now. options: the readings in it, in the order of the greedy measure."""

    options: Sequence[Scored]
    problem: Problem
    state: State

    def ordered(self, style: str) -> list[Scored]:
        """The options, the one with the least expected minutes to the decision first; others as they were."""
        ways = {
            number: self.problem.through(self.state, number, DEPTH)
            - (STYLE_MINUTES if style in self.options[number].candidate.styles else 0.0)
            for number in range(min(WIDTH, len(self.options)))
        }
        best = sorted(ways, key=lambda number: ways[number])
        return [self.options[number] for number in (*best, *range(len(best), len(self.options)))]

    def expected_minutes(self, first: int, depth: int) -> float:
        """Expected minutes to the decision when option ``first`` is taken next."""
        return self.problem.through(self.state, first, depth)

    def way(self, first: int) -> list[tuple[Scored, float]]:
        """The likeliest readings to the decision, each with its minutes from where the one before leaves off."""
        numbers = likeliest_way(self.problem, self.state, first, SHOWN)
        before = (-1, *numbers)
        return [
            (self.options[number], float(self.problem.price[1 + last, number]))
            for last, number in zip(before, numbers, strict=False)
        ]


def reduced_problem(seen: Assessment, scored: Sequence[Scored], goal: Goal) -> ReducedProblem:
    """The small problem of the best ``scored`` readings."""
    partition, posterior, loop = seen.engine.partition, seen.posterior, seen.loop_at_fault()
    options = list(scored[:OPTIONS])
    rows = np.sort(np.argsort(-posterior)[:HYPOTHESES])
    predictions = Predictions(seen.belief, rows)
    group, sets = _grouped(partition, rows)
    parts = {part: 1 << place for place, part in enumerate(goal.needed)}
    tables = np.stack([_few(predictions.tables(item.candidate.probe), posterior[rows], group) for item in options])
    speaks = np.array([[sum(parts[part] for part in item.settles)] * OUTCOMES for item in options], dtype=np.int64)
    gate = np.array([sum(parts.get(part, 0) for part in gate_of(names, loop)) for names in sets], dtype=np.int64)
    problem = Problem(tables, speaks, _prices(options, goal), group, gate, DECIDE)
    return ReducedProblem(options, problem, problem.start(posterior[rows]))


def _grouped(partition: Partition, rows: Array) -> tuple[Array, list[frozenset[Component]]]:
    own, group = np.unique(partition.set_of[rows], return_inverse=True)
    return group, [partition.sets[number] for number in own]


def _few(tables: Sequence[Array], chance: Array, group: Array) -> Array:
    """The figure that tells the groups apart best, its outcomes merged to ``OUTCOMES`` by which group they speak for."""
    members = (group[None] == np.arange(group.max() + 1)[:, None]) * chance
    best = max(tables, key=lambda table: float(((members @ table).max(axis=0)).sum()))
    joint = members @ best
    shares = joint / np.maximum(joint.sum(axis=0), 1e-12)
    base = joint.sum(axis=1) / max(float(joint.sum()), 1e-12)
    speaks_for = np.argmax(shares / np.maximum(base[:, None], 1e-9) * (shares > 0.02), axis=0)
    weight = np.bincount(speaks_for, weights=joint.sum(axis=0), minlength=len(base))
    kept = np.argsort(-weight)[: OUTCOMES - 1]
    place = np.full(len(base), OUTCOMES - 1)
    place[kept] = np.arange(len(kept))
    merged = np.zeros((len(chance), OUTCOMES))
    np.add.at(merged.T, place[speaks_for], best.T)
    total: Array = merged / np.maximum(merged.sum(axis=1, keepdims=True), 1e-12)
    return total


def _prices(options: Sequence[Scored], goal: Goal) -> Array:
    positions = [goal.position, *(after(item.candidate, goal.position) for item in options)]
    return np.array([[cost(item.candidate, position, goal.prices) for item in options] for position in positions])
