"""The belief and the best readings of a job as the small problem that ``lookahead`` works on."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dianoia.circuit.network import Array
from dianoia.diagnosis.catalogue.costs import after, cost
from dianoia.diagnosis.decision.assessment import Assessment
from dianoia.diagnosis.decision.gates import NOTHING, gates, parts_asked
from dianoia.diagnosis.faults.types import Component, Part
from dianoia.diagnosis.inference.predictions import Predictions
from dianoia.diagnosis.planning.lookahead import LookaheadProblem, LookaheadState, likeliest_way
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
    """The small problem of a job now."""

    options: Sequence[Scored]
    """The readings in it, in the order of the greedy measure."""
    problem: LookaheadProblem
    state: LookaheadState

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
    posterior = seen.posterior
    options = list(scored[:OPTIONS])
    rows = np.sort(np.argsort(-posterior)[:HYPOTHESES])
    predictions = Predictions(seen.belief, rows)
    group, named = _grouped(seen, rows)
    parts = {part: 1 << place for place, part in enumerate(goal.needed)}
    tables = np.stack([_few(predictions.tables(item.candidate.probe), posterior[rows], group) for item in options])
    speaks = np.array([[sum(parts[part] for part in item.settles)] * OUTCOMES for item in options], dtype=np.int64)
    gate = np.array([sum(parts.get(part, 0) for part in _asked(seen, name)) for name in named], dtype=np.int64)
    least = np.array([gates().thresholds[name] if name else gates().no_fault for name in named])
    problem = LookaheadProblem(tables, speaks, _prices(options, goal), group, gate, least)
    return ReducedProblem(options, problem, problem.start(posterior[rows]))


def _grouped(seen: Assessment, rows: Array) -> tuple[Array, list[Component | None]]:
    distinct, place = seen.leads
    own, group = np.unique(place[rows], return_inverse=True)
    return group, [distinct[number] for number in own]


def _asked(seen: Assessment, component: Component | None) -> Sequence[Part]:
    """The parts that the gate before a component asks for, None for nothing at fault."""
    if component is None:
        return parts_asked(NOTHING, seen.engine.focus, seen.parts(seen.engine.focus))
    loop = seen.held.loop_of(component)
    return parts_asked(component, loop, seen.parts(loop))


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
