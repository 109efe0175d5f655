"""Beyond one step: whole ways to the decision compared on a small problem.

Theory. The greedy measure (information a minute) spends a few per cent more than the best plan. It does not see
that a dear reading may save two others or leave the plug apart for the next. A *rollout* mends most of it: for each of
the few best readings the greedy way is followed to the decision, over all outcomes, and the reading with the least
expected minutes is taken. By the policy improvement theorem the result is never worse in expectation than greedy.

The problem is small: a few dozen hypotheses, a dozen readings with a few outcomes each. A decision stands when one
group of hypotheses has its chance ``decide`` and every part that its gate asks for has been spoken for under load.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from dianoia.circuit.network import Array
from dianoia.circuit.types import Choice
from dianoia.diagnosis.planning.information import by_bits

#: Bits that speaking for one more part of the likeliest group's gate is worth.
PROOF_BITS = 0.5
#: Outcomes less likely than this are not followed.
SELDOM = 0.01
#: Minutes reckoned for each bit that is still open where a way is cut off, and for each part still to be spoken for.
MINUTES_A_BIT, MINUTES_A_PART = 6.0, 3.0


@dataclass(frozen=True)
class LookaheadState:
    """A state of the search."""

    chance: Array
    """(hypotheses,)."""
    spoken: int
    """Bits of the parts spoken for."""
    last: int
    """The option taken last, -1 at the start."""
    used: int
    """Bits of the options taken."""


@dataclass(frozen=True)
class LookaheadProblem:
    """The options, what each shows, and what each costs."""

    tables: Array
    """(options, hypotheses, outcomes) chances."""
    speaks: Choice
    """(options, outcomes) bits of the parts each speaks for."""
    price: Array
    """(1 + options, options) minutes, row 0 from where the technician stands now, row 1 + i after option i."""
    group: Choice
    """(hypotheses,) what each would lead to."""
    gate: Choice
    """(groups,) bits of the parts a decision for it needs."""
    decide: Array
    """(groups,) chance from which it is decided for."""
    seldom: float = SELDOM
    """Outcomes of no more chance than this are not followed."""
    _ways: dict[tuple[bytes, int, int, int, int], float] = field(default_factory=dict)

    @cached_property
    def _members(self) -> Array:
        return (self.group[None] == np.arange(len(self.gate))[:, None]).astype(float)

    def start(self, chance: Array) -> LookaheadState:
        """Before any option is taken."""
        return LookaheadState(chance / chance.sum(), 0, -1, 0)

    def decided(self, state: LookaheadState) -> bool:
        """Whether the gate of the likeliest group is passed."""
        groups = self._members @ state.chance
        top = int(groups.argmax())
        return bool(groups[top] >= self.decide[top]) and not int(self.gate[top]) & ~state.spoken

    def scores(self, state: LookaheadState) -> Array:
        """Worth a minute of every option; 0 for one that tells nothing."""
        joint = (self._members * state.chance) @ self.tables  # options, groups, outcomes
        bits = (
            _entropy(joint.sum(axis=2), 1) + _entropy(joint.sum(axis=1), 1) - _entropy(joint.reshape(len(joint), -1), 1)
        )
        top = int(joint[0].sum(axis=1).argmax())
        missing = int(self.gate[top]) & ~state.spoken
        if missing:
            shown = joint.sum(axis=1)
            more = np.array([[int(bits_of).bit_count() for bits_of in row] for row in self.speaks & missing])
            bits = bits + PROOF_BITS * float(joint[0].sum(axis=1)[top]) * (shown * more).sum(axis=1)
        unused = np.array([not state.used >> option & 1 for option in range(len(bits))])
        worth: Array = np.where(unused & (bits > 1e-6), bits / np.maximum(self.price[1 + state.last], 0.1), 0.0)
        return worth

    def branches(self, state: LookaheadState, option: int) -> list[tuple[float, LookaheadState]]:
        """The states that an option's outcomes lead to, with their chances, summing to 1."""
        shown = state.chance @ self.tables[option]
        kept = [(int(outcome), float(shown[outcome])) for outcome in np.flatnonzero(shown > self.seldom)]
        total = sum(chance for _, chance in kept)
        found = []
        for outcome, chance in kept:
            after = state.chance * self.tables[option][:, outcome]
            spoken = state.spoken | int(self.speaks[option, outcome])
            found.append(
                (chance / total, LookaheadState(after / after.sum(), spoken, option, state.used | 1 << option))
            )
        return found

    def minutes(self, state: LookaheadState, depth: int) -> float:
        """Expected minutes of the greedy way to the decision, followed for at most ``depth`` readings."""
        if self.decided(state):
            return 0.0
        if depth == 0:
            return self._reckoned(state)
        key = (np.round(state.chance, 6).tobytes(), state.spoken, state.last, state.used, depth)
        if key not in self._ways:
            scores = self.scores(state)
            best = int(scores.argmax())
            self._ways[key] = self.through(state, best, depth) if scores[best] > 0 else 0.0
        return self._ways[key]

    def through(self, state: LookaheadState, option: int, depth: int) -> float:
        """Expected minutes when this option is taken first and the greedy way followed after it."""
        rest = sum(chance * self.minutes(after, depth - 1) for chance, after in self.branches(state, option))
        return float(self.price[1 + state.last, option]) + rest

    def _reckoned(self, state: LookaheadState) -> float:
        groups = self._members @ state.chance
        missing = int(self.gate[int(groups.argmax())]) & ~state.spoken
        return MINUTES_A_BIT * float(_entropy(groups[None], 1)[0]) + MINUTES_A_PART * missing.bit_count()


def choose(problem: LookaheadProblem, state: LookaheadState, width: int, depth: int) -> int:
    """The option with the least expected minutes among the ``width`` best by greedy measure; -1 where none tells."""
    scores = problem.scores(state)
    best = [int(option) for option in np.argsort(-scores)[:width] if scores[option] > 0]
    return min(best, key=lambda option: problem.through(state, option, depth), default=-1)


def likeliest_way(problem: LookaheadProblem, state: LookaheadState, first: int, most: int) -> Sequence[int]:
    """The options of the greedy way where each shows what is most likely, beginning with ``first``."""
    way: list[int] = []
    option = first
    while option >= 0 and len(way) < most:
        way.append(option)
        state = max(problem.branches(state, option), key=lambda branch: branch[0])[1]
        scores = problem.scores(state)
        option = int(scores.argmax()) if scores.max() > 0 and not problem.decided(state) else -1
    return way


def _entropy(weights: Array, axis: int) -> Array:
    summed: Array = -by_bits(weights).sum(axis=axis)
    return summed
