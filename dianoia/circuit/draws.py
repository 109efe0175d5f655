"""Tolerance draws: stratified samples of everything about a healthy vehicle that is not known exactly.

Every hypothesis is predicted with the same draws, so that what two hypotheses have in common cancels.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.network import Array

#: How many draws the engine works with.
DRAWS = 120


class Draws:
    """Named stratified samples, reproducible from a seed. Each method returns an array of shape (count,)."""

    def __init__(self, seed: int = 7, count: int = DRAWS) -> None:
        self.count = count
        self._seed = seed
        self._kept: dict[str, Array] = {}

    def unit(self, name: str) -> Array:
        """Uniform in 0..1, one value in each of ``count`` equal strata, shuffled; the same for the same name."""
        if name not in self._kept:
            rng = np.random.default_rng([self._seed, *name.encode()])
            strata = (rng.permutation(self.count) + rng.random(self.count)) / self.count
            self._kept[name] = strata
        return self._kept[name]

    def uniform(self, name: str, low: float, high: float) -> Array:
        """Evenly between low and high."""
        return low + (high - low) * self.unit(name)

    def log_uniform(self, name: str, low: float, high: float) -> Array:
        """Evenly in ratio between low and high, both above 0."""
        drawn: Array = np.exp(self.uniform(name, float(np.log(low)), float(np.log(high))))
        return drawn

    def choice(self, name: str, weights: Sequence[float]) -> NDArray[np.int64]:
        """Index of one of the options, as often as its weight says."""
        edges = np.cumsum(np.asarray(weights, dtype=float) / np.sum(weights))
        picked: NDArray[np.int64] = np.minimum(np.searchsorted(edges, self.unit(name)), len(weights) - 1)
        return picked


class WideDraws(Draws):
    """Draws that leave the ranges by ``BEYOND`` of their width on either side, and lie thicker in the middle.

    For simulated vehicles, which must not be drawn from what the engine assumes. Positive ranges stay positive.
    """

    def uniform(self, name: str, low: float, high: float) -> Array:
        """Bell-shaped, between somewhat below low and somewhat above high."""
        bell = (self.unit(name) + self.unit(name + " again")) / 2.0
        value: Array = low + (high - low) * ((1.0 + 2.0 * BEYOND) * bell - BEYOND)
        return np.maximum(value, 0.5 * low) if low >= 0 else value


#: Share of a range's width by which simulated vehicles leave it on either side.
BEYOND = 0.2
