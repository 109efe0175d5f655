"""Joint hypotheses seen as what they mean: components, parts, faults."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.network import Array
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Component, Part
from dianoia.readings.model import Hypothesis

Key = TypeVar("Key", bound=str)


@dataclass(frozen=True)
class Partition:
    """Which joint hypotheses contain a fault, part or component."""

    sets: tuple[frozenset[Component], ...]
    """The distinct sets of components, in order of first use."""
    set_of: NDArray[np.int64]
    """Joint row -> its place in sets."""
    has_fault: Mapping[str, NDArray[np.bool_]]
    """Name -> (joint,) True where the hypothesis contains it."""
    has_part: Mapping[Part, NDArray[np.bool_]]
    """Name -> (joint,) True where the hypothesis contains it."""
    has_component: Mapping[Component, NDArray[np.bool_]]
    """Name -> (joint,) True where the hypothesis contains it."""
    several: NDArray[np.bool_]

    def of_sets(self, posterior: Array) -> Array:
        """Chance of each component set being exactly right."""
        return np.bincount(self.set_of, weights=posterior, minlength=len(self.sets))


def partition_of(listed: Sequence[Hypothesis]) -> Partition:
    """What each joint hypothesis contains."""
    table = faults()
    sets: dict[frozenset[Component], int] = {}
    set_of = np.array([sets.setdefault(frozenset(table[f].component for f in h), len(sets)) for h in listed])
    names = list(dict.fromkeys(name for h in listed for name in h))
    has = {name: np.zeros(len(listed), dtype=bool) for name in names}
    for row, hypothesis in enumerate(listed):
        for name in hypothesis:
            has[name][row] = True

    def containing(key: Mapping[str, Key]) -> dict[Key, NDArray[np.bool_]]:
        members = {value: [has[name] for name in key if key[name] == value] for value in key.values()}
        return {value: np.any(rows, axis=0) for value, rows in members.items()}

    return Partition(
        sets=tuple(sets),
        set_of=set_of,
        has_fault=has,
        has_part=containing({name: table[name].part for name in names if table[name].of_circuit}),
        has_component=containing({name: table[name].component for name in names}),
        several=np.array([len(h) > 1 for h in listed]),
    )
