"""The next reading: most information about the decision for the minutes it costs.

Every candidate's outcomes are binned under every hypothesis with the draws' present weights. Its worth is the mutual information between outcome and component set, plus that about each part the decision still needs proven. This is divided by the minutes of the reading and of the change of set-up. The working style favours its own kind of reading; it never
changes what has to be proven. Among the best by this measure ``lookahead`` then compares whole ways to the decision.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dianoia.circuit.network import Array
from dianoia.diagnosis.catalogue.candidates import Candidate
from dianoia.diagnosis.catalogue.costs import Position, Prices, cost, hazard
from dianoia.diagnosis.decision.assessment import Assessment
from dianoia.diagnosis.decision.proof import Load, right_kind, to_prove
from dianoia.diagnosis.faults.types import Part
from dianoia.diagnosis.inference.predictions import Predictions
from dianoia.diagnosis.planning.information import information
from dianoia.scheduling import checkpoint

#: How much a style favours its own readings.
STYLE_FAVOUR = 2.5
#: Weight of proving a part the decision needs, against telling the components apart.
PROOF_WEIGHT = 0.6
#: The same of telling whether a fault is there that holds up the decision.
HOLDING_WEIGHT = 1.0
#: A part still to be proven is treated as at least this doubtful, or its proof would never be sought.
LEAST_DOUBT = 0.12
#: Bits from which a reading is said to settle a part, and how much settling a further one is worth: the look ahead
#: to the reading that it saves.
SETTLES, ALSO_SETTLES = 0.08, 2.0
#: A hypothesis of less weight than this in every question is left out of the sums.
NEGLIGIBLE = 1e-4
#: With the battery measured, or draws taken anew, so many of the best are weighed again by what is known now.
SHORTLIST = 14
#: Bits below which a reading is not worth taking.
WORTHLESS = 0.002


@dataclass(frozen=True)
class Goal:
    """What the next reading is for."""

    needed: Sequence[Part]
    """Parts still to be proven."""
    holding: Sequence[str]
    """Faults that hold up the decision."""
    reached: bool
    """Something is certain already, whatever else may be."""
    style: str
    """The working style."""
    prices: Prices
    position: Position | None
    confirming: bool = False
    """Only proofs are left, so settling several at once pays."""


@dataclass(frozen=True)
class Scored:
    """A candidate with its cost in minutes, set-up included, its worth in bits, and the needed parts it settles."""

    candidate: Candidate
    minutes: float
    bits: float
    score: float
    settles: frozenset[Part] = frozenset()


@dataclass(frozen=True)
class _Question:
    """A partition of the joint hypotheses: weight (groups, joint), rows summing over all to 1."""

    weight: Array
    importance: float
    part: Part | None = None


def rank(seen: Assessment, offered: Sequence[Candidate], goal: Goal) -> list[Scored]:
    """The candidates worth taking, best first."""
    belief = seen.belief
    groups = _groups(seen, goal)
    if not groups:
        return []
    rows = np.flatnonzero(np.max([item.weight.max(axis=0) for item in groups], axis=0) > NEGLIGIBLE)
    groups = [_Question(item.weight[:, rows], item.importance, item.part) for item in groups]
    groups = [_Question(item.weight[item.weight.any(axis=1)], item.importance, item.part) for item in groups]
    conditioned = any(model.unconditioned is not model for model in belief.models.values())
    scored = _scored(offered, Predictions(belief, rows, rough=conditioned), groups, goal, seen.load)
    if not conditioned:
        return scored
    best = [item.candidate for item in scored[:SHORTLIST]]
    seen.engine.work_out(item.probe for item in best)
    return [*_scored(best, Predictions(belief, rows), groups, goal, seen.load), *scored[SHORTLIST:]]


def _scored(
    offered: Sequence[Candidate], predictions: Predictions, groups: Sequence[_Question], goal: Goal, load: Load
) -> list[Scored]:
    scored = []
    for candidate, bits, settles in _worth(offered, predictions, groups, load):
        if bits < WORTHLESS:
            continue
        minutes = cost(candidate, goal.position, goal.prices)
        favour = STYLE_FAVOUR if goal.style in candidate.styles and not goal.confirming else 1.0
        favour *= 1.0 + (ALSO_SETTLES * max(len(settles) - 1, 0) if goal.confirming else 0.0)
        score = favour * bits / (minutes + hazard(candidate, goal.prices))
        scored.append(Scored(candidate, minutes, bits, score, settles))
    return sorted(scored, key=lambda item: -item.score)


def _worth(
    offered: Sequence[Candidate], predictions: Predictions, questions: Sequence[_Question], load: Load
) -> list[tuple[Candidate, float, frozenset[Part]]]:
    """Of every candidate that shows anything, the bits about the decision and its proofs, and the parts still to be
    proven that it settles.
    """
    by_loop: dict[str, list[tuple[Candidate, Sequence[Array]]]] = {}
    for candidate in offered:
        checkpoint()
        shown = predictions.shown(candidate.probe)
        if shown.tables:
            by_loop.setdefault(shown.loop, []).append((candidate, shown.tables))
    worth = []
    for loop, answered in by_loop.items():
        weights = [predictions.gathered(loop, item.weight) for item in questions]
        bits = information(weights, [table for _, tables in answered for table in tables])
        first = np.cumsum([0, *(len(tables) for _, tables in answered[:-1])])
        best = np.maximum.reduceat(bits, first, axis=1).T.tolist()
        worth += [
            (item[0], *_of_all(item[0], questions, gains, load)) for item, gains in zip(answered, best, strict=True)
        ]
    return worth


def _of_all(
    candidate: Candidate, questions: Sequence[_Question], gains: Sequence[float], load: Load
) -> tuple[float, frozenset[Part]]:
    """A candidate's bits about all questions, weighed, and the parts it settles, from its bits about each."""
    asked = [
        (item, gained) for item, gained in zip(questions, gains, strict=True)
        if item.part is None or right_kind(item.part, candidate.probe, load)
    ]  # fmt: skip
    settled = frozenset(item.part for item, gained in asked if item.part and gained > SETTLES)
    return sum(item.importance * gained for item, gained in asked), settled


def _groups(seen: Assessment, goal: Goal) -> list[_Question]:
    """What is to be decided for, unless a component is certain already; the faults that hold it up; the parts to be proven."""
    partition, posterior = seen.engine.partition, seen.posterior
    questions = [] if goal.reached else [_leading(seen)]
    for name in goal.holding:
        rows = partition.has_fault[name]
        questions.append(_Question(np.stack([posterior * rows, posterior * ~rows]), HOLDING_WEIGHT))
    for part in goal.needed:
        hidden = [partition.has_fault[name] for name in to_prove(part, partition.has_fault)]
        if not hidden:
            continue
        bad = np.any(hidden, axis=0)
        chance = posterior[bad].sum()
        doubt = min(max(chance, LEAST_DOUBT), 1 - LEAST_DOUBT)
        weight = np.stack([posterior * bad * (doubt / max(chance, 1e-12)),
                           posterior * ~bad * ((1 - doubt) / max(1 - chance, 1e-12))])  # fmt: skip
        questions.append(_Question(weight, PROOF_WEIGHT, part))
    return questions


def _leading(seen: Assessment) -> _Question:
    distinct, place = seen.leads
    weight = np.zeros((len(distinct), len(seen.posterior)))
    weight[place, np.arange(len(seen.posterior))] = seen.posterior
    return _Question(weight, 1.0)
