"""The next reading: most information about the decision for the minutes it costs.

Every candidate's outcomes are binned under every hypothesis with the draws' present weights; its worth is the mutual
information between outcome and component set, plus that about each part the decision still needs proven, over the
minutes of the reading and of the change of set-up. The working style favours its own kind of reading; it never
changes what has to be proven. Among the best by this measure ``lookahead`` then compares whole ways to the decision.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from dianoia.circuit.network import Array
from dianoia.circuit.types import Choice
from dianoia.diagnosis.belief import Belief
from dianoia.diagnosis.candidates import Candidate
from dianoia.diagnosis.components import Meaning
from dianoia.diagnosis.costs import Prices, Stance, cost, hazard
from dianoia.diagnosis.information import information
from dianoia.diagnosis.observations import chances
from dianoia.diagnosis.others import met_by
from dianoia.diagnosis.proof import LOADED_PARTS, hidden_faults, under_load
from dianoia.readings.display import Display

#: How much a style favours its own readings.
STYLE_FAVOUR = 2.5
#: Weight of proving a part the decision needs, against telling the components apart.
PROOF_WEIGHT = 0.6
#: A part still to be proven is treated as at least this doubtful, or its proof would never be sought.
LEAST_DOUBT = 0.12
#: Bits from which a reading is said to settle a part, and how much settling a further one is worth: the look ahead
#: to the reading that it saves.
SETTLES, ALSO_SETTLES = 0.08, 2.0
#: A hypothesis of less weight than this in every question is left out of the sums.
NEGLIGIBLE = 2e-5
#: With the battery measured, so many of the best are weighed again by what it showed.
SHORTLIST = 14
#: Bits below which a reading is not worth taking.
WORTHLESS = 0.002


@dataclass(frozen=True)
class Aim:
    """What the next reading is for. needed: parts still to be proven; style: the working style; confirming: only
    proofs are left, so settling several at once pays.
    """

    needed: Sequence[str]
    style: str
    prices: Prices
    stance: Stance | None
    confirming: bool = False


@dataclass(frozen=True)
class Scored:
    """A candidate with its cost in minutes, set-up included, its worth in bits, and the needed parts it settles."""

    candidate: Candidate
    minutes: float
    bits: float
    score: float
    settles: frozenset[str] = frozenset()


@dataclass(frozen=True)
class _Question:
    """A partition of the joint hypotheses: weight (groups, joint), rows summing over all to 1."""

    weight: Array
    importance: float
    part: str = ""


@dataclass(frozen=True)
class Outlook:
    """What readings would show under the joint hypotheses ``rows``, with the belief as it is.

    rough: as if the battery's voltage had not been measured, which is worked out once for all jobs alike.
    """

    belief: Belief
    rows: Choice
    rough: bool = False

    @cached_property
    def _loops(self) -> dict[str, tuple[Choice, Choice, Array]]:
        """Loop -> its own hypotheses that matter, where each of ``rows`` finds its own, and their draws' chances."""
        found = {}
        for name in self.belief.models:
            own, back = np.unique(self.belief.space.rows[name][self.rows], return_inverse=True)
            found[name] = own, back, self.belief.foreseen(name, own)
        return found

    def tables(self, probe: Any) -> list[Array]:
        """For each figure of a probe the chance of every outcome, (rows, outcomes); empty where nothing answers."""
        if probe.measure in ("inspect", "act"):
            table = chances(probe.measure, getattr(probe, "target", None) or probe.action, self.belief.space)
            return [] if table is None else [table[self.rows]]
        for name, model in self.belief.models.items():
            outcomes = model.unanchored.outcomes(probe) if self.rough else model.outcomes(probe)
            if outcomes:
                own, back, draws = self._loops[name]
                shown = own if probe.of is None else met_by(self.belief.space, name, model.hypotheses, probe)[own]
                return [item.chances(draws, shown)[back] for item in outcomes]
        return []


def rank(belief: Belief, meaning: Meaning, posterior: Array, offered: Sequence[Candidate], aim: Aim) -> list[Scored]:
    """The candidates worth taking, best first."""
    groups = _groups(meaning, posterior, aim.needed)
    rows = np.flatnonzero(np.max([item.weight.max(axis=0) for item in groups], axis=0) > NEGLIGIBLE)
    groups = [_Question(item.weight[:, rows], item.importance, item.part) for item in groups]
    groups = [_Question(item.weight[item.weight.any(axis=1)], item.importance, item.part) for item in groups]
    anchored = any(model.unanchored is not model for model in belief.models.values())
    scored = _scored(offered, Outlook(belief, rows, rough=anchored), groups, aim)
    if not anchored:
        return scored
    best = [item.candidate for item in scored[:SHORTLIST]]
    return [*_scored(best, Outlook(belief, rows), groups, aim), *scored[SHORTLIST:]]


def _scored(offered: Sequence[Candidate], outlook: Outlook, groups: Sequence[_Question], aim: Aim) -> list[Scored]:
    scored = []
    for candidate, bits, settles in _worth(offered, outlook, groups):
        if bits < WORTHLESS:
            continue
        minutes = cost(candidate, aim.stance, aim.prices)
        favour = STYLE_FAVOUR if aim.style in candidate.styles and not aim.confirming else 1.0
        favour *= 1.0 + (ALSO_SETTLES * max(len(settles) - 1, 0) if aim.confirming else 0.0)
        score = favour * bits / (minutes + hazard(candidate, aim.prices))
        scored.append(Scored(candidate, minutes, bits, score, settles))
    return sorted(scored, key=lambda item: -item.score)


def _worth(
    offered: Sequence[Candidate], outlook: Outlook, questions: Sequence[_Question]
) -> list[tuple[Candidate, float, frozenset[str]]]:
    """Of every candidate that shows anything, the bits about the decision and its proofs, and the parts still to be
    proven that it settles.
    """
    shown = [(candidate, outlook.tables(candidate.probe)) for candidate in offered]
    shown = [(candidate, tables) for candidate, tables in shown if tables]
    if not shown:
        return []
    bits = information([item.weight for item in questions], [table for _, tables in shown for table in tables])
    worth, first = [], 0
    for candidate, tables in shown:
        best = bits[:, first : first + len(tables)].max(axis=1).tolist()
        first += len(tables)
        loaded = under_load(candidate.probe)
        asked = [pair for pair in zip(questions, best, strict=True) if loaded or pair[0].part not in LOADED_PARTS]
        settled = frozenset(item.part for item, gained in asked if item.part and gained > SETTLES)
        worth.append((candidate, sum(item.importance * gained for item, gained in asked), settled))
    return worth


def _groups(meaning: Meaning, posterior: Array, needed: Sequence[str]) -> list[_Question]:
    sets = np.zeros((len(meaning.sets), len(posterior)))
    sets[meaning.set_of, np.arange(len(posterior))] = posterior
    questions = [_Question(sets, 1.0)]
    for part in needed:
        hidden = [meaning.has_fault[name] for name in hidden_faults(part) if name in meaning.has_fault]
        if not hidden:
            continue
        bad = np.any(hidden, axis=0)
        chance = posterior[bad].sum()
        doubt = min(max(chance, LEAST_DOUBT), 1 - LEAST_DOUBT)
        weight = np.stack([posterior * bad * (doubt / max(chance, 1e-12)),
                           posterior * ~bad * ((1 - doubt) / max(1 - chance, 1e-12))])  # fmt: skip
        questions.append(_Question(weight, PROOF_WEIGHT, part))
    return questions


def typical(candidate: Candidate, belief: Belief) -> Mapping[str, Display] | None:
    """The display of a candidate in the loop that answers it."""
    for model in belief.models.values():
        displays = model.displays(candidate.probe)
        if displays:
            return displays
    return None
