"""Readings of another part or another sensor: which of a hypothesis' faults would show there as well.

A known-good or new part is free of the sensor's own faults, and plugged in it works in the rest of this circuit. A
sensor of another place shares the feed, the mixture and the module's ground. Both come off the same shelf as the
sensor in question: the draws are shared, so a known-good element's resistance tells what this one's should be.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from dianoia.case.ledger import Probe
from dianoia.circuit.signal import COLD_HEATER
from dianoia.diagnosis.faults.space import JointSpace
from dianoia.diagnosis.faults.tables import faults
from dianoia.readings.model import Hypothesis

GOOD_PARTS = ("known-good", "new")
#: Faults that every sensor on the same feed, module and engine shows.
_SHARED = (
    "fuse-blown", "relay-open", "supply-open", "supply-high", "module-ground-high", "engine-lean", "engine-rich",
    "terminator-lost", "can-lines-shorted",
)  # fmt: skip
#: Faults on this sensor's own wires that others on the feed or the bus feel as another fault.
_FELT_AS = {
    "wire-short-ground:heater_supply": "fuse-blown",
    "wire-short-ground:supply": "fuse-blown",
}
#: The same for a sensor further down the pipe: over a leak the front sensor reads air, and the module makes the engine
#: rich against it.
_FELT_BEHIND = {"exhaust-leak": "engine-rich"}


def speaks(of: str | None) -> bool:
    """Whether a reading of this part can say anything about the sensor in question; the old part cannot any more."""
    return of != "old"


def counterpart(hypothesis: Hypothesis, probe: Probe) -> Hypothesis:
    """The faults of a hypothesis that a reading ``of`` another part or sensor would meet."""
    if probe.of is None:
        return hypothesis
    if probe.of in GOOD_PARTS:
        if probe.on_the_part:
            return ()
        return tuple(name for name in hypothesis if name == COLD_HEATER or faults()[name].component != "sensor")
    felt_as = _FELT_AS | (_FELT_BEHIND if probe.of.endswith(("S2", "S3")) else {})
    felt = (felt_as.get(name, name) for name in hypothesis)
    return tuple(name for name in felt if name in _SHARED)


def felt_elsewhere(hypothesis: Hypothesis) -> set[Hypothesis]:
    """What other sensors may feel of a hypothesis, wherever on the vehicle they sit."""
    tables = (_FELT_AS, _FELT_AS | _FELT_BEHIND)
    return {
        tuple(name for name in (table.get(name, name) for name in hypothesis) if name in _SHARED) for table in tables
    }


def rows_met(hypotheses: Sequence[Hypothesis], probe: Probe) -> NDArray[np.int64]:
    """For each of a loop's hypotheses the row whose predictions the reading meets, (hypotheses,)."""
    index = {frozenset(names): row for row, names in enumerate(hypotheses)}
    return np.array([_row(index, counterpart(names, probe)) for names in hypotheses])


def met_by(space: JointSpace, loop: str, hypotheses: Sequence[Hypothesis], probe: Probe) -> NDArray[np.int64]:
    """``rows_met``, kept with the space: it depends on the other part only, not on what is measured there."""
    key = ("met", loop, probe.of, probe.on_the_part)
    if key not in space.kept:
        space.kept[key] = rows_met(hypotheses, probe)
    return np.asarray(space.kept[key])


def rows_met_jointly(space: JointSpace, probe: Probe) -> NDArray[np.int64]:
    """The same for the joint hypotheses, (joint,)."""
    return np.array([_row(space.row_of, counterpart(names, probe)) for names in space.faults])


def _row(index: dict[frozenset[str], int], met: Hypothesis) -> int:
    """A listed row; where two faults are not listed together, the first of them alone."""
    return index.get(frozenset(met), index.get(frozenset(met[:1]), index[frozenset()]))
