"""What the readings prove about each part of the circuit.

A part is proven when it has less than ``DOUBT`` chance of being bad enough to matter, and readings of the right kind say so:

- of a supply, a control, a driver or a ground one under load, which has excluded its open; its small resistances may rest on base rates
- of the element its own current, or its resistance at a known temperature
- of all others readings that would have shown each of their opens and shorts
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from dianoia.case.lamps import lamps
from dianoia.case.measures import Probe
from dianoia.case.measures.scan import OF_UNIT
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
#: A reading in which a current flowed makes some resistance at least this much less likely (log).
FLOWED = float(np.log(1.5))
#: A fault is excluded where readings have made it less likely than this factor (log).
EXCLUDED = float(np.log(0.5))
#: Parts that only a reading under load can prove.
LOADED_PARTS: frozenset[Part] = frozenset(("supply", "control", "driver", "ground"))
#: Scan values that follow from the heater's current.
_OF_CURRENT: frozenset[Pid] = frozenset(("heater_current", "heater_resistance"))


@dataclass(frozen=True)
class PartState:
    """How a part of the circuit stands."""

    chance_bad: float
    """Of the part."""
    by: tuple[int, ...]
    """Places of the readings that prove it, empty where it is not proven."""
    open: tuple[str, ...] = ()
    """Faults that no reading has excluded yet."""

    @property
    def proven(self) -> bool:
        """Sound beyond doubt."""
        return bool(self.by)

    @property
    def failed(self) -> bool:
        """Bad beyond doubt."""
        return self.chance_bad > 1.0 - DOUBT


@dataclass(frozen=True)
class Load:
    """What counts as a load in this circuit."""

    lamp_watts: float
    """From which a lamp's light alone speaks for it, infinite where it never does."""

    def on(self, probe: Probe) -> bool:
        """Whether the heater's own current flowed while the reading was taken, or a lamp that is enough."""
        if probe.is_lamp:
            return not probe.led and probe.load_watts >= self.lamp_watts
        if probe.loaded:
            return (probe.load_watts or lamps().usual_watts) >= lamps().load_watts
        awake = probe.key in ("running", "on")
        if probe.live_value is not None:
            return awake and (probe.live_value in _OF_CURRENT or probe.live_value in OF_UNIT)
        if probe.at_work:
            return awake and probe.setting.connector == "mated"
        return False


def load_of(hot_ohms: float | None) -> Load:
    """What loads a circuit whose element is so many ohms when hot; None for a unit that regulates its heater itself."""
    if hot_ohms is None:
        return Load(float("inf"))
    table = lamps()
    return Load(table.load_watts if hot_ohms >= table.small_element_ohms else table.small_element_watts)


@dataclass(frozen=True)
class PosteriorSummary:
    """Belief after a ledger, as the gates read it."""

    space: JointSpace
    partition: Partition
    posterior: Array
    measured: Array
    """(joint,) log-likelihood of all that was measured."""
    contexts: Sequence[frozenset[str]]
    """What is held to be present."""

    def excluded(self, name: str) -> bool:
        """Whether readings have made a fault less likely, in each context."""
        return all(self._more(pair) <= EXCLUDED for pair in self.pairs(name))

    def pairs(self, name: str) -> list[tuple[int, int]]:
        """The joint rows with and without a fault, in each context."""
        rows, both = self.space.row_of, frozenset().union(*self.contexts)
        site = faults()[name].site
        there = frozenset(item for item in both if faults()[item].site == site)
        if there:  # it can only be there instead
            return [(rows[(both - there) | {name}], rows[both])]
        return [_pair(name, context, rows) for context in self.contexts]

    def _more(self, pair: tuple[int, int]) -> float:
        """How much better (log) the first row explains what was measured than the second."""
        return float(self.measured[pair[0]] - self.measured[pair[1]])


def weighed(belief: Belief, partition: Partition, posterior: Array) -> PosteriorSummary:
    """What a fault's exclusion is read from."""
    return PosteriorSummary(belief.space, partition, posterior, belief.measured(), _contexts(belief.space, posterior))


def part_states(
    parts: Sequence[Part], known: PosteriorSummary, taken: Sequence[Evidence], load: Load
) -> dict[Part, PartState]:
    """The state of every part of the coded circuit."""
    return {part: _part_state(part, known, taken, load) for part in parts}


def _contexts(space: JointSpace, posterior: Array) -> list[frozenset[str]]:
    """What is held to be present, against which a further fault would have to show; of two faults each by itself, as no three
    are weighed.
    """
    best = space.faults[int(posterior.argmax())]
    return [frozenset((name,)) for name in best] or [frozenset()]


def _part_state(part: Part, known: PosteriorSummary, taken: Sequence[Evidence], load: Load) -> PartState:
    bad = known.partition.has_part[part]
    chance = float(known.posterior[bad].sum())
    own = to_prove(part, known.partition.has_fault)
    still_open = tuple(name for name in own if not known.excluded(name))
    if chance >= DOUBT or not own or still_open:
        return PartState(chance, (), still_open)
    pairs = [pair for name in own for pair in known.pairs(name)]
    resistances = [known.pairs(name) for name in _resistances(part, known)]
    current = _since_part_repair(bad, known.partition, taken)
    speaking = tuple(
        item.place
        for item in current
        if right_kind(part, item.reading.probe, load) and _speaks(item, pairs, SPEAKS) and _flowed(item, resistances)
    )
    return PartState(chance, speaking, () if speaking else tuple(own))


def _speaks(item: Evidence, pairs: Sequence[tuple[int, int]], least: float) -> bool:
    return any(item.odds[with_it] - item.odds[without] < -least for with_it, without in pairs)


def _flowed(item: Evidence, resistances: Sequence[Sequence[tuple[int, int]]]) -> bool:
    """Whether a current flowed that each resistance would have shown in: behind an open element nothing loads the feed."""
    return all(_speaks(item, pairs, FLOWED) for pairs in resistances)


def _resistances(part: Part, known: PosteriorSummary) -> list[str]:
    """A loaded part's own resistances."""
    if part not in LOADED_PARTS:
        return []
    return [name for name in known.partition.has_fault if faults()[name].part == part and faults()[name].resistive]


def right_kind(part: Part, probe: Probe, load: Load) -> bool:
    """Whether a reading is of the kind that can prove a part."""
    if part in LOADED_PARTS:
        return load.on(probe)
    if part != "heater" or (probe.live_value in OF_UNIT):
        return True
    if probe.across_element:
        return isinstance(probe.sensor_c, int | float)
    return probe.reads_amps or probe.scanned in _OF_CURRENT


def _pair(name: str, context: frozenset[str], row_of: Mapping[frozenset[str], int]) -> tuple[int, int]:
    rest = context - {name}
    if rest | {name} not in row_of:  # not listed together: the fault is weighed alone
        rest = frozenset()
    return row_of[rest | {name}], row_of[rest]


@cache
def to_exclude(part: Part) -> frozenset[str]:
    """The faults of a part that its proof has to exclude one by one: its opens, and where no load proves it its shorts as well.
    Not the plug's pins, which are wiring besides it: their chance still counts against the component.
    """
    own = [row for row in faults().values() if row.part == part and row.definite and row.of_circuit]
    return frozenset(row.id for row in own if not (row.unloaded and part in (*LOADED_PARTS, "heater")))


def to_prove(part: Part, listed: Iterable[str]) -> list[str]:
    """The faults, of those listed, that a part's proof has to exclude."""
    names = list(listed)
    return [name for name in names if name in to_exclude(part)] or [name for name in names if name in of_degree(part)]


@cache
def of_degree(part: Part) -> frozenset[str]:
    """What a part is proven against where its circuit has no open and no short of it, as a return through the shell."""
    return frozenset(row.id for row in faults().values() if row.part == part and row.of_circuit and not row.definite)


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


def unproven(states: Mapping[Part, PartState]) -> tuple[Part, ...]:
    """Parts that are neither proven nor known to be bad."""
    return tuple(part for part, state in states.items() if not state.proven and not state.failed)
