"""When the evidence is enough, in three steps: a component's own threshold, its gate, and what else could be read now.

All numbers and gates are rows of gates.json.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from dianoia.diagnosis.decision.checklist import GateResult, checklist, gate
from dianoia.diagnosis.decision.context import FOUND, OF_FEED, DecisionContext
from dianoia.diagnosis.decision.gates import gates
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Component, Part

DecisionName = Literal[
    "replace-sensor", "repair-wiring", "restore-supply", "suspect-module", "fix-exhaust-leak", "fix-mixture",
    "check-catalyst", "check-dosing", "repair-feed", "repair-several", "no-fault-now", "keep-testing",
]  # fmt: skip
_NAMES: Mapping[frozenset[Component], DecisionName] = {
    frozenset(("sensor",)): "replace-sensor", frozenset(("wiring",)): "repair-wiring",
    frozenset(("supply",)): "restore-supply", frozenset(("module",)): "suspect-module",
    frozenset(("exhaust",)): "fix-exhaust-leak", frozenset(("mixture",)): "fix-mixture",
    frozenset(("catalyst",)): "check-catalyst", frozenset(("dosing",)): "check-dosing",
    frozenset(("feed",)): "repair-feed",
    frozenset(): "no-fault-now",
}  # fmt: skip


@dataclass(frozen=True)
class Standing:
    """What the readings say now, and what still stands before a decision."""

    components: frozenset[Component]
    """The components named; while nothing is, the likeliest set."""
    confidence: float
    """Chance that all of them are at fault; while nothing is named, that this set is exactly right."""
    decided: bool
    reached: bool
    checklist: tuple[GateResult, ...]
    """The gate's rows."""
    holding: tuple[str, ...] = ()
    """Faults that would destroy the repair, and hold it up."""
    besides: tuple[str, ...] = ()
    """Other faults that are worth a reading."""
    between: tuple[str, str] | None = None
    """The two points that a fault of the feed lies between."""
    found: tuple[str, ...] = ()
    found_one_of: tuple[str, ...] = ()
    nothing_else: float | None = None

    @property
    def wanted(self) -> tuple[GateResult, ...]:
        """Rows of the gate that are still wanted."""
        return tuple(item for item in self.checklist if item.status == "wanted")

    @property
    def missing(self) -> tuple[Part, ...]:
        """Parts still to be proven."""
        return tuple(dict.fromkeys(part for item in self.wanted for part in item.parts))

    @property
    def decision(self) -> DecisionName:
        """The decision's name, ``keep-testing`` before it can be made."""
        if not self.decided:
            return "keep-testing"
        return _NAMES.get(self.components, "repair-several")


def standing(held: DecisionContext) -> Standing:
    """Where the job stands."""
    if held.certain:
        return _of_certain(held)
    chances = held.partition.of_sets(held.posterior)
    top = held.partition.sets[int(chances.argmax())]
    confidence = float(chances.max())
    reached = not top and confidence >= gates().no_fault
    rows = checklist(held, top)
    open_rows = any(item.status == "wanted" for item in rows)
    decided = reached and not open_rows
    return Standing(
        top, confidence, decided, reached, rows, found=_found(held), nothing_else=confidence if decided else None,
    )  # fmt: skip


def _of_certain(held: DecisionContext) -> Standing:
    checklists = {name: gate(held, name) for name in sorted(held.certain)}
    ready = _ready(checklists)
    named = ready or held.certain
    holding = _destroying(held, named) if ready else ()
    decided = bool(ready) and not holding
    listed = tuple(item for name in sorted(named) for item in checklists[name])
    one_of = tuple(name for component in sorted(named) for name in _one_of(held, component)) if decided else ()
    exactly = float(held.partition.of_sets(held.posterior).max())
    feed = held.feed if decided and "feed" in named else None
    return Standing(
        named, _confidence(held, named) if decided else exactly, decided, True, listed, holding, _besides_named(held, named),
        (feed.last_good, feed.first_bad) if feed else None, _found(held), one_of, _nothing_else(held, named, one_of) if decided else None,
    )  # fmt: skip


def _confidence(held: DecisionContext, named: frozenset[Component]) -> float:
    """The chance that all that is named is at fault."""
    rows = [held.partition.has_component[name] for name in named if name != "feed"]
    if "feed" in named and held.feed:
        rows.append(
            np.any([held.partition.has_fault[name] for name in held.feed.faults if name in held.chances], axis=0)
        )
    return float(held.posterior[np.all(rows, axis=0)].sum())


def _ready(checklists: Mapping[Component, Sequence[GateResult]]) -> frozenset[Component]:
    """The components whose gate is met; what is settled by another's being named waits until that one is."""
    ready = frozenset(checklists)
    while True:
        still = frozenset(name for name in ready if all(_stands(item, ready) for item in checklists[name]))
        if still == ready:
            return ready
        ready = still


def _stands(item: GateResult, ready: frozenset[Component]) -> bool:
    return item.status != "wanted" and (item.settled_by is None or item.settled_by in ready)


#: Faults that destroy the repair of another: a short behind a fuse that is replaced.
_DESTROYS: Mapping[str, tuple[str, ...]] = {
    "fuse-blown": ("wire-short-ground:heater_supply", "wire-short-ground:supply", "heater-short"),
}


def _destroying(held: DecisionContext, named: frozenset[Component]) -> tuple[str, ...]:
    """Faults not yet named that would destroy the repair of one that is."""
    rule = gates().besides
    spared = held.feed.faults if held.feed and "feed" in named else ()
    found = [fault for fault in held.present for fault in _DESTROYS.get(fault, ())]
    return tuple(
        name for name in dict.fromkeys(found)
        if rule.least <= held.chances.get(name, 0.0) < FOUND and name not in (*held.present, *spared)
        and held.telling.best(name, held.present, held.readings) >= rule.tells
    )  # fmt: skip


def _besides_named(held: DecisionContext, named: frozenset[Component]) -> tuple[str, ...]:
    """Other faults that are likely enough to be worth a reading, and can be read now; a new sensor takes its own away."""
    rule = gates().besides
    return tuple(
        name for name, chance in held.chances.items()
        if rule.least <= chance < FOUND and name not in held.present and faults()[name].component not in named
        and held.telling.best(name, held.present, held.readings) >= rule.tells
    )  # fmt: skip


def _found(held: DecisionContext) -> tuple[str, ...]:
    certain = [name for name, chance in held.chances.items() if chance >= FOUND]
    return tuple(sorted(certain, key=lambda name: -held.chances[name]))


def _one_of(held: DecisionContext, component: Component) -> list[str]:
    """Where a component is certain and which of its faults is not: the fewest that together reach its threshold."""
    own = [name for name in held.chances if faults()[name].component == component]
    if component == "feed":
        own = [name for name in held.feed.faults if name in held.chances] if held.feed else []
    if any(held.chances[name] >= FOUND for name in own):
        return []
    listed: list[str] = []
    rows = np.zeros(len(held.posterior), dtype=bool)
    for name in sorted(own, key=lambda name: -held.chances[name]):
        listed.append(name)
        rows |= held.partition.has_fault[name]
        if float(held.posterior[rows].sum()) >= held.threshold(component):
            break
    return listed


def _nothing_else(held: DecisionContext, named: frozenset[Component], one_of: Sequence[str]) -> float:
    """Chance that nothing is left once what was found is mended: a new sensor takes all of the old one's faults away."""
    mended = named | OF_FEED if "feed" in named else named
    gone = {name for name in (*_found(held), *one_of) if faults()[name].component in mended}
    if "sensor" in named:
        gone |= {name for name in held.chances if faults()[name].component == "sensor"}
    clear = np.array([gone.issuperset(listed) for listed in held.known.space.faults])
    return float(held.posterior[clear].sum())
