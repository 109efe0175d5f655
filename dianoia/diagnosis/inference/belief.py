"""Belief over hypotheses after any readings in any order.

Theory. A hypothesis h is a set of faults (none, one or two). What is not known about the healthy parts (tolerances,
wiring, whether the module has latched the heater off) is a draw d. A reading r multiplies the weight w(h, d) by
p(r | h, d); belief in h is the sum over d. The draws are shared by all readings, so that readings which depend on the
same unknown (a battery voltage, a duty) are not counted as independent news. Assumptions: readings are independent
given (h, d); a gross error is independent of everything. Where several loops are in play, each keeps its own
weights and they are joined by listing which hypothesis of each loop a joint hypothesis consists of.

An act that replaces or repairs moves belief on in time. The faults of what was replaced are taken out of each hypothesis. A small chance is put back that the new part is bad, and everything else keeps its weight.
"""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.network import Array
from dianoia.diagnosis.faults.space import JointSpace
from dianoia.readings.model import Hypothesis, LoopModel

#: So many draws say what is to come, or their weights are evened out until they do.
FORESEEING = 12.0
#: Chance that what was replaced or repaired is faulty again.
FAULTY_AFTER_REPAIR = 0.03


class Belief:
    """Weights over joint hypotheses and, within each loop, over draws."""

    def __init__(self, space: JointSpace, models: Sequence[LoopModel]) -> None:
        self.space = space
        self.models = {model.name: model for model in models}
        self._log_prior = np.log(np.maximum(space.prior, 1e-300))
        self._draws: dict[str, Array] = {}
        self._weights = {model.name: np.log(np.maximum(model.draws_before, 1e-12)) for model in models}
        self._said_before: Array = np.zeros(len(space.faults))

    def copy(self) -> "Belief":
        """An independent copy."""
        twin = object.__new__(Belief)
        twin.space, twin.models, twin._log_prior = self.space, self.models, self._log_prior
        twin._draws, twin._said_before = {}, self._said_before
        twin._weights = {name: weights.copy() for name, weights in self._weights.items()}
        return twin

    def update(self, loop: str, fit: Array) -> None:
        """Take in a reading: its log-likelihood (hypotheses, draws) for one loop."""
        self._weights[loop] = self._weights[loop] + fit
        self._draws.pop(loop, None)

    def favour(self, log_factor: Array) -> None:
        """Take in something seen or done: a log-factor for each joint hypothesis."""
        self._log_prior = self._log_prior + log_factor

    def evidence(self, loop: str) -> Array:
        """Log-likelihood of all readings for each of a loop's hypotheses."""
        return _log_sum(self._weights[loop])

    def measured(self) -> Array:
        """Log-likelihood (joint,) of all that was measured, looking and base rates left out.

        Past a repair, what was repaired starts anew and everything else keeps what was measured of it.
        """
        return self._said_before + self._since_repair()

    def _since_repair(self) -> Array:
        return sum(
            (self.evidence(name)[rows] for name, rows in self.space.rows.items()), np.zeros(len(self._log_prior))
        )

    def log_weight(self) -> Array:
        """(joint,) logarithm of what each joint hypothesis weighs: prior, looking and all that was measured; sums to no 1."""
        weight: Array = self._log_prior + self._since_repair()
        return weight

    def posterior(self) -> Array:
        """Chance of each joint hypothesis, summing to 1."""
        total = self.log_weight()
        chance: Array = np.exp(total - total.max())
        return chance / chance.sum()

    def draws(self, loop: str) -> Array:
        """Chance of each draw given each of the loop's hypotheses; (hypotheses, draws), rows summing to 1."""
        if loop not in self._draws:
            weights = self._weights[loop]
            chance: Array = np.exp(weights - weights.max(axis=1, keepdims=True))
            self._draws[loop] = chance / chance.sum(axis=1, keepdims=True)
        return self._draws[loop]

    def correct(self, chances: Array, told: NDArray[np.int64], measured: Array) -> None:
        """Take over what was found with more draws. chances: (joint,), summing to 1; told: joint hypotheses; measured: (told,) see
        ``measured``.
        """
        before = self.posterior()
        self._log_prior = self._log_prior + np.log(np.maximum(chances, 1e-300)) - np.log(np.maximum(before, 1e-300))
        said = self._said_before.copy()
        said[told] += measured - self.measured()[told]
        self._said_before = said

    def foreseen(self, loop: str, rows: NDArray[np.int64]) -> Array:
        """The draws' chances for what is to come, (rows, draws); like ``draws``, but not staked on the few that fit all so far.

        A precise reading leaves few of some hundred draws standing, and with them one magnitude of every other fault.
        """
        return evened(self.draws(loop)[rows], self.models[loop].draws_before[rows], FORESEEING)

    def repair(self, repaired: frozenset[str]) -> None:
        """Move on past a repair: ``repaired`` are the faults that it takes away."""
        posterior = self.posterior()
        self._said_before = self._carried_over(repaired)
        healthy, *faulty = self.space.after_repair(repaired)
        again = FAULTY_AFTER_REPAIR if faulty else 0.0
        after = (1.0 - again) * np.bincount(healthy, weights=posterior, minlength=posterior.size)
        for rows in faulty:
            after += again / len(faulty) * np.bincount(rows, weights=posterior, minlength=posterior.size)
        self._weights = {loop: self._carried(loop, repaired, posterior) for loop in self.models}
        self._draws = {}
        self._log_prior = np.log(np.maximum(after, 1e-300))

    def _carried_over(self, repaired: frozenset[str]) -> Array:
        """``measured`` after a repair: for each hypothesis that of all it can have come from, by their base rates."""
        came_to = self.space.after_repair(repaired)[0]
        said = self.measured()
        top = said.max()
        weight = np.bincount(came_to, weights=self.space.prior * np.exp(said - top), minlength=said.size)
        share = np.bincount(came_to, weights=self.space.prior, minlength=said.size)
        pooled = top + np.log(np.maximum(weight, 1e-300)) - np.log(np.maximum(share, 1e-300))
        carried: Array = pooled[came_to]
        return carried

    def _carried(self, loop: str, repaired: frozenset[str], posterior: Array) -> Array:
        """Draw weights of each hypothesis after a repair, taken over from those it can have come from."""
        hypotheses = self.models[loop].hypotheses
        came_to = _without(tuple(hypotheses), repaired)
        own = np.zeros(len(hypotheses))
        np.add.at(own, self.space.rows[loop], posterior)
        draws = self.draws(loop)
        pooled = np.full(draws.shape, 1e-12)
        np.add.at(pooled, came_to, own[:, None] * draws)
        carried = pooled[came_to]
        return np.log(carried / carried.sum(axis=1, keepdims=True))


@lru_cache(maxsize=64)
def _without(hypotheses: tuple[Hypothesis, ...], repaired: frozenset[str]) -> NDArray[np.int64]:
    """(hypotheses,) what becomes of each of a loop's own hypotheses where some faults are taken away."""
    index = {frozenset(faults): row for row, faults in enumerate(hypotheses)}
    return np.array([index[frozenset(faults) - repaired] for faults in hypotheses])


def _log_sum(weights: Array) -> Array:
    top = weights.max(axis=1)
    total: Array = top + np.log(np.exp(weights - top[:, None]).sum(axis=1))
    return total


def evened(weight: Array, before: Array, enough: float) -> Array:
    """Draws' chances, taken back towards those before any reading until enough of them speak; (rows, draws), each row summing to 1.

    enough: see ``speaking``.
    """
    said = np.log(np.maximum(weight, 1e-30)) - np.log(np.maximum(before, 1e-30))
    said -= said.max(axis=1, keepdims=True)
    low, high = np.zeros((len(weight), 1)), np.ones((len(weight), 1))
    found = _tempered(said, before, high)
    if (speaking(found) >= enough).all():
        return found
    power = high
    for _ in range(10):
        there = speaking(_tempered(said, before, power)) >= enough
        low, high = np.where(there, power, low), np.where(there, high, power)
        power = np.where(high == low, power, (low + high) / 2.0)
    return _tempered(said, before, low)


def _tempered(said: Array, before: Array, power: Array) -> Array:
    weight: Array = before * np.exp(power * said)
    return weight / weight.sum(axis=1, keepdims=True)


def speaking(weight: Array) -> Array:
    """(rows, 1), or (1,) of one row: how many draws of equal chance would have the same sum of squares. weight: summing to 1 in each row."""
    found: Array = 1.0 / (weight * weight).sum(axis=-1, keepdims=True)
    return found
