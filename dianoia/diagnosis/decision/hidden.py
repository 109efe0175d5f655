"""What could be read now: whether a fault would show at all beside what is held to be present.

What a finding hides (a driver behind an open control wire, a bias behind an open signal wire) cannot be read before that is
mended, and holds up nothing till then.
"""

from collections.abc import Callable, Collection, Mapping, Sequence
from functools import cached_property

import numpy as np

from dianoia.case.observed import Observed
from dianoia.diagnosis.catalogue.candidates import Candidate, same_measurement
from dianoia.diagnosis.inference.belief import Belief
from dianoia.diagnosis.inference.predictions import Predictions


class Detectability:
    """How far readings tell whether a fault is there beside others. It adds up the chances of what each shows with and without it (0 for alike, 1 for never alike). belief, offered: worked out when first asked for."""

    def __init__(self, belief: Callable[[], Belief], offered: Callable[[], Sequence[Candidate]]) -> None:
        self._believed, self._offered = belief, offered
        self._found: dict[tuple[str, frozenset[str]], Mapping[str, float]] = {}

    @cached_property
    def _belief(self) -> Belief:
        return self._believed()

    def of(self, name: str, beside: frozenset[str]) -> Mapping[str, float]:
        """Candidate id -> how far it tells of a fault beside others; empty where the two are not listed together."""
        key = (name, beside - {name})
        if key not in self._found:
            self._found[key] = self._told(*key)
        return self._found[key]

    def best(self, name: str, beside: frozenset[str], taken: Collection[Observed] = (), shut: bool = False) -> float:
        """The best of any reading. taken: those that were taken already are left out; shut: those that take the module's
        connector apart are, too.
        """
        told = self.of(name, beside)
        return max(
            (told[item.id] for item in self._offered() if item.id in told and _left(item, taken, shut)), default=0.0
        )

    def readings(self, name: str, beside: frozenset[str], least: float) -> list[Candidate]:
        """The readings that tell of it by so much, the quickest first."""
        told = self.of(name, beside)
        return sorted(
            (item for item in self._offered() if told.get(item.id, 0.0) >= least), key=lambda item: item.minutes
        )

    def between(self, one: frozenset[str], other: frozenset[str], least: float) -> list[Candidate]:
        """The readings that tell two hypotheses apart by so much, the quickest first; none where one is not listed."""
        rows = self._belief.space.row_of
        if one not in rows or other not in rows:
            return []
        told = self._apart(rows[one], rows[other])
        return sorted(
            (item for item in self._offered() if told.get(item.id, 0.0) >= least), key=lambda item: item.minutes
        )

    def _told(self, name: str, beside: frozenset[str]) -> Mapping[str, float]:
        rows = self._belief.space.row_of
        if beside not in rows or beside | {name} not in rows:
            return {}
        return self._apart(rows[beside], rows[beside | {name}])

    def _apart(self, one: int, other: int) -> Mapping[str, float]:
        pair = np.array([one, other])
        predictions = Predictions(self._belief, pair, rough=True)
        told = {}
        for item in self._offered():
            apart = [float(np.abs(table[0] - table[1]).sum() / 2.0) for table in predictions.tables(item.probe)]
            told[item.id] = max(apart, default=0.0)
        return told


def _left(item: Candidate, taken: Collection[Observed], shut: bool) -> bool:
    apart = item.probe.setting.module_connector == "unplugged"
    return not (shut and apart) and not any(same_measurement(item, old) for old in taken)
