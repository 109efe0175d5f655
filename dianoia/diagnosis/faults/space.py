"""The joint space: every hypothesis that is weighed, over all loops in play."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.network import Array
from dianoia.readings.model import Hypothesis


@dataclass(frozen=True)
class JointSpace:
    """All joint hypotheses."""

    faults: Sequence[Hypothesis]
    rows: dict[str, NDArray[np.int64]]
    """Loop -> index into that loop's hypotheses, each (joint,)."""
    prior: Array
    position: int = 1
    """Of the sensor on the pipe."""
    kept: dict[object, Array | None] = field(default_factory=dict)
    """What has been worked out for all hypotheses once, by what it is."""

    @cached_property
    def row_of(self) -> dict[frozenset[str], int]:
        """Set of faults -> its row."""
        return {frozenset(faults): row for row, faults in enumerate(self.faults)}

    def after_repair(self, repaired: frozenset[str]) -> NDArray[np.int64]:
        """(1 + repaired that the space knows, joint) The row that each hypothesis becomes. First with the repaired faults taken away, then
        with one of them there again, alone where the space does not have it beside the others.
        """
        key = ("after repair", repaired)
        known = self.kept.get(key)
        if known is None:
            row_of = self.row_of
            left = [frozenset(faults) - repaired for faults in self.faults]
            again = [name for name in sorted(repaired) if frozenset((name,)) in row_of]
            rows = [[row_of[names] for names in left]]
            rows += [[row_of.get(names | {name}, row_of[frozenset((name,))]) for names in left] for name in again]
            known = self.kept[key] = np.array(rows)
        return known

    def restricted(
        self, rows: NDArray[np.int64], kept: Mapping[str, NDArray[np.int64]]
    ) -> tuple["JointSpace", dict[str, NDArray[np.int64]]]:
        """The space of some of the hypotheses, and loop -> which of the loop's own hypotheses it has, no fault first.

        rows: increasing, with that of no fault; kept: of some loops their own hypotheses, where there may be more than are needed.
        The prior is shared out anew.
        """
        own = {loop: kept.get(loop, np.unique(places[rows])) for loop, places in self.rows.items()}
        places = {loop: np.searchsorted(own[loop], self.rows[loop][rows]) for loop in own}
        prior = self.prior[rows]
        return JointSpace([self.faults[row] for row in rows], places, prior / prior.sum(), self.position), own

    @cached_property
    def incidence(self) -> tuple[tuple[str, ...], NDArray[np.bool_]]:
        """Every fault, and (joint, faults) True where a hypothesis has it."""
        names = tuple(dict.fromkeys(name for faults in self.faults for name in faults))
        return names, np.array([[name in faults for name in names] for faults in self.faults], dtype=bool)
