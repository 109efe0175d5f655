"""What the readings prove about each part of the circuit.

A part is proven when readings under load leave it less than ``DOUBT`` chance of being bad. A meter alone on an
unloaded feed never proves it: at least one reading under load must itself speak for the part.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from dianoia.case.lamps import lamps
from dianoia.case.ledger import CurrentProbe, LampProbe, Probe, ScanProbe, ScopeProbe, VoltageProbe
from dianoia.case.live import OF_UNIT
from dianoia.case.terms import Pid
from dianoia.circuit.network import Array
from dianoia.diagnosis.faults.partition import Partition
from dianoia.diagnosis.faults.space import JointSpace
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Part
from dianoia.diagnosis.inference.belief import Belief
from dianoia.diagnosis.inference.evidence import Evidence

#: A part whose chance of being bad is below this may be called proven.
DOUBT = 0.02
#: A reading speaks for a part when it alone makes one of its faults this much less likely (log).
SPEAKS = float(np.log(1.25))
#: Every fault of a proven part has been made less likely than this factor by readings (log).
EXCLUDED = float(np.log(0.7))
#: Parts that only a reading under load can prove.
LOADED_PARTS: frozenset[Part] = frozenset(("supply", "control", "driver", "ground"))


@dataclass(frozen=True)
class PartState:
    """chance_bad: of the part; by: places of the readings that prove it, empty where it is not proven."""

    chance_bad: float
    by: tuple[int, ...]

    @property
    def proven(self) -> bool:
        """Sound beyond doubt."""
        return bool(self.by)

    @property
    def failed(self) -> bool:
        """Bad beyond doubt."""
        return self.chance_bad > 1.0 - DOUBT


def part_states(
    parts: Sequence[Part], belief: Belief, partition: Partition, posterior: Array, taken: Sequence[Evidence]
) -> dict[Part, PartState]:
    """The state of every part of the coded circuit."""
    weighed = _Weighed(belief.space, partition, posterior, belief.measured(), _contexts(belief.space, posterior))
    return {part: _part_state(part, weighed, taken) for part in parts}


@dataclass(frozen=True)
class _Weighed:
    """measured: (joint,) log-likelihood of all that was measured; contexts: what is held to be present."""

    space: JointSpace
    partition: Partition
    posterior: Array
    measured: Array
    contexts: Sequence[frozenset[str]]

    def more(self, pair: tuple[int, int]) -> float:
        """How much better (log) the first row explains what was measured than the second."""
        return float(self.measured[pair[0]] - self.measured[pair[1]])


def _contexts(space: JointSpace, posterior: Array) -> list[frozenset[str]]:
    """What is held to be present, against which a further fault would have to show; of two faults each by itself."""
    best = space.faults[int(posterior.argmax())]
    return [frozenset((name,)) for name in best] or [frozenset()]


def _part_state(part: Part, weighed: _Weighed, taken: Sequence[Evidence]) -> PartState:
    bad = weighed.partition.has_part[part]
    chance = float(weighed.posterior[bad].sum())
    if chance >= DOUBT:
        return PartState(chance, ())
    against = _evidence_against_each(part, weighed)
    if not against or any(min(map(weighed.more, pairs)) > EXCLUDED for pairs in against):
        return PartState(chance, ())
    telling = _telling(part, weighed.space, [pair for pairs in against for pair in pairs])
    current = _since_part_repair(bad, weighed.partition, taken)
    loaded = [item for item in current if part not in LOADED_PARTS or under_load(item.reading.probe)]
    speaking = [
        item
        for item in loaded
        if any(item.odds[with_it] - item.odds[without] < -SPEAKS for with_it, without in telling)
    ]
    return PartState(chance, tuple(item.place for item in speaking))


def _evidence_against_each(part: Part, weighed: _Weighed) -> list[list[tuple[int, int]]]:
    """For each fault of a part that hides from an unloaded meter: the joint rows with and without it, in each context."""
    hidden = [name for name in weighed.partition.has_fault if name in hidden_faults(part)]
    return [[_pair(name, context, weighed.space.row_of) for context in weighed.contexts] for name in hidden]


def _pair(name: str, context: frozenset[str], row_of: Mapping[frozenset[str], int]) -> tuple[int, int]:
    rest = context - {name}
    if rest | {name} not in row_of:  # not listed together: the fault is weighed alone
        rest = frozenset()
    return row_of[rest | {name}], row_of[rest]


def _telling(part: Part, space: JointSpace, against: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Of a part under load, the resistances only: a reading that excludes no resistance did not load it."""
    if part not in LOADED_PARTS:
        return against
    table = faults()
    resistive = [pair for pair in against if any(table[name].resistive for name in space.faults[pair[0]])]
    return resistive or against


@cache
def hidden_faults(part: Part) -> frozenset[str]:
    """The faults of a part that its proof has to exclude one by one. Not those that show without a load, as shorts do, nor
    the plug's pins, which are not on the way while a lamp stands in for the sensor: their chance still counts against it.
    """
    own = (row for row in faults().values() if row.part == part)
    return frozenset(row.id for row in own if not row.unloaded)


def _since_part_repair(bad: NDArray[np.bool_], partition: Partition, taken: Sequence[Evidence]) -> list[Evidence]:
    """The evidence since the part's own faults were last repaired away."""
    if not any(item.repaired for item in taken):
        return list(taken)
    own = {name for name, rows in partition.has_fault.items() if bool((rows & bad).any()) and bool((rows <= bad).all())}
    start = 0
    for index, item in enumerate(taken):
        if item.repaired & own:
            start = index + 1
    return list(taken[start:])


def under_load(probe: Probe) -> bool:
    """Whether the heater's own current, or a lamp, flowed while the reading was taken."""
    if isinstance(probe, LampProbe):
        return probe.kind != "led" and probe.watts >= lamps().load_watts
    if isinstance(probe, VoltageProbe) and probe.load:
        return (probe.watts or lamps().usual_watts) >= lamps().load_watts
    awake = probe.key in ("running", "on")
    if isinstance(probe, ScanProbe):
        return awake and (probe.pid in _OF_CURRENT or probe.pid in OF_UNIT)
    if isinstance(probe, VoltageProbe | ScopeProbe | CurrentProbe):
        return awake and probe.setting.connector == "mated"
    return False


#: Scan values that follow from the heater's current.
_OF_CURRENT: frozenset[Pid] = frozenset(("heater_current", "heater_resistance"))


def unproven(states: Mapping[Part, PartState]) -> tuple[Part, ...]:
    """Parts that are neither proven nor known to be bad."""
    return tuple(part for part, state in states.items() if not state.proven and not state.failed)
