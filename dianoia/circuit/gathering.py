"""Gathered draws: samples of 0..1 taken more densely in some places."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dianoia.circuit.network import Array


@dataclass(frozen=True)
class DrawStrategy:
    """One way to gather draws."""

    chance: float
    """Share of the gathered draws."""
    shares: Mapping[str, Array]
    """Sample -> its share of the draws in each of equal stretches, none of them nothing, summing to 1."""

    def gathered(self, plain: Mapping[str, Array]) -> dict[str, Array]:
        """The samples, from plain ones of the same names."""
        return {name: np.interp(plain[name], _edges(share), _ends(share)) for name, share in self.shares.items()}

    def times(self, taken: Mapping[str, Array]) -> Array:
        """How much more densely draws lie there than plain ones, (draws,) or (1,). taken: the samples by name."""
        times: Array = np.ones(1)
        for name, share in self.shares.items():
            place = np.minimum((taken[name] * len(share)).astype(np.int64), len(share) - 1)
            times = times * share[place] * len(share)
        return times


def _edges(share: Array) -> Array:
    """Where in 0..1 each of equal stretches begins and ends once it has its share."""
    edges: Array = np.concatenate(([0.0], np.cumsum(share) / share.sum()))
    return edges


def _ends(share: Array) -> Array:
    return np.linspace(0.0, 1.0, len(share) + 1)
