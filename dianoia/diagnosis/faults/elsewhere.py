"""Readings of another part or another sensor: which of a hypothesis' faults would show there as well.

A known-good or new part is free of the sensor's own faults, and plugged in it works in the rest of this circuit; so is one
that was swapped in. The sensor in question, swapped away, takes its own faults along and leaves the others. A
sensor of another place shares the feed, the mixture and the module's ground. Both come off the same shelf as the
sensor in question: the draws are shared, so a known-good element's resistance tells what this one's should be.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from dianoia.case.measures import Probe
from dianoia.case.measures.state import BROUGHT, TAKEN_AWAY
from dianoia.circuit.signal import HEATER_MARKS
from dianoia.diagnosis.faults.space import JointSpace
from dianoia.diagnosis.faults.tables import faults
from dianoia.readings.model import Hypothesis

#: Parts without the sensor's own faults.
GOOD_PARTS = ("known-good", "new", BROUGHT)


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
        return tuple(name for name in hypothesis if name in HEATER_MARKS or faults()[name].component != "sensor")
    if probe.of == TAKEN_AWAY:
        return tuple(name for name in hypothesis if name in faults() and faults()[name].component == "sensor")
    return _felt(hypothesis, behind=probe.of.endswith(("S2", "S3")))


def of_another_bank(probe: Probe, position: int) -> bool:
    """Whether a reading is of the sensor at the same place of the pipe, which can only be of another bank. position: of this one."""
    return probe.of is not None and probe.of.startswith("B") and int(probe.of[-1]) == position


def without_one_bank(hypothesis: Hypothesis) -> Hypothesis:
    """The faults of a hypothesis that another bank may feel, where those that may be of one bank are."""
    return tuple(name for name in hypothesis if name not in faults() or not faults()[name].one_bank)


def felt_elsewhere(hypothesis: Hypothesis) -> set[Hypothesis]:
    """What other sensors may feel of a hypothesis, wherever on the vehicle they sit."""
    return {_felt(hypothesis, behind) for behind in (False, True)}


def _felt(hypothesis: Hypothesis, behind: bool) -> Hypothesis:
    """behind: over a leak the front sensor reads air, and the module makes the engine rich against it: felt behind it only."""
    rows = [faults()[name] for name in hypothesis if name in faults()]
    felt = ((row.felt_behind if behind and row.felt_behind else row.felt_elsewhere) for row in rows)
    return tuple(name for name in felt if name is not None)


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
