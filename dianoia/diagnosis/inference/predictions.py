"""What readings would show under the joint hypotheses, with the belief as it is."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dianoia.case.measures import Probe
from dianoia.circuit.network import Array
from dianoia.circuit.types import Choice
from dianoia.diagnosis.faults.elsewhere import met_by
from dianoia.diagnosis.faults.observations import chances
from dianoia.diagnosis.faults.space import JointSpace
from dianoia.diagnosis.inference.belief import Belief
from dianoia.readings.model import LoopModel


@dataclass(frozen=True)
class PredictedDisplays:
    """What a reading would show."""

    loop: str
    """The one that answers, whose hypotheses the rows of the tables are; empty where something is looked at or done,
    and the rows are the joint hypotheses.
    """
    tables: Sequence[Array]
    """For each figure the chance of every outcome, (rows, outcomes); none where nothing answers."""


@dataclass(frozen=True)
class Predictions:
    """What readings would show under the joint hypotheses ``rows``."""

    belief: Belief
    rows: Choice
    rough: bool = False
    """As if the battery's voltage had not been measured, which is worked out once for all jobs alike."""

    def shown(self, probe: Probe) -> PredictedDisplays:
        """What a probe would show, for each hypothesis of the loop that answers it."""
        space = self.belief.space
        if probe.by_hand:
            table = chances(probe, space)
            return PredictedDisplays("", [] if table is None else [table[self.rows]])
        for name, model in self.belief.models.items():
            outcomes = model.unconditioned.outcomes(probe) if self.rough else model.outcomes(probe)
            if outcomes:
                own, _, draws = self._loops[name]
                met = own if probe.of is None else met_by(space, name, model.hypotheses, probe)[own]
                return PredictedDisplays(name, [item.chances(draws, met) for item in outcomes])
        return PredictedDisplays("", [])

    def tables(self, probe: Probe) -> list[Array]:
        """The tables of ``shown`` for each of ``rows``."""
        shown = self.shown(probe)
        if not shown.loop:
            return list(shown.tables)
        back = self._loops[shown.loop][1]
        return [table[back] for table in shown.tables]

    def gathered(self, loop: str, weight: Array) -> Array:
        """Weights of ``rows``, (groups, rows), summed over those with the same hypothesis of a loop: what multiplies the
        tables of ``shown``.
        """
        if not loop:
            return weight
        own, back, _ = self._loops[loop]
        summed: Array = weight @ (back[:, None] == np.arange(own.size))
        return summed

    @cached_property
    def _loops(self) -> dict[str, tuple[Choice, Choice, Array]]:
        """Loop -> its own hypotheses that matter, where each of ``rows`` finds its own, and their draws' chances."""
        found = {}
        for name in self.belief.models:
            own, back = np.unique(self.belief.space.rows[name][self.rows], return_inverse=True)
            found[name] = own, back, self.belief.foreseen(name, own)
        return found


def get_ready(space: JointSpace, models: Sequence[LoopModel], probe: Probe, rough: bool = True) -> None:
    """Work out all that no reading changes of what a probe would show. rough: as if the battery had not been measured, too."""
    if probe.by_hand:
        chances(probe, space)
        return
    for model in models:
        model.outcomes(probe)
        if rough:
            model.unconditioned.outcomes(probe)
        if probe.of is not None:
            met_by(space, model.name, model.hypotheses, probe)
