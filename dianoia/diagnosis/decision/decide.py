"""When the evidence is enough, in three steps: a component's own threshold, its gate, and what else could be read now.

All numbers and gates are rows of gates.json.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from dianoia.diagnosis.decision.checklist import Shown, checklist, gate
from dianoia.diagnosis.decision.gates import gates
from dianoia.diagnosis.decision.held import FOUND, Held
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Component, Part

DecisionName = Literal[
    "replace-sensor", "repair-wiring", "restore-supply", "suspect-module", "fix-exhaust-leak", "fix-mixture",
    "check-catalyst", "check-dosing", "repair-several", "no-fault-now", "keep-testing",
]  # fmt: skip
_NAMES: Mapping[frozenset[Component], DecisionName] = {
    frozenset(("sensor",)): "replace-sensor", frozenset(("wiring",)): "repair-wiring",
    frozenset(("supply",)): "restore-supply", frozenset(("module",)): "suspect-module",
    frozenset(("exhaust",)): "fix-exhaust-leak", frozenset(("mixture",)): "fix-mixture",
    frozenset(("catalyst",)): "check-catalyst", frozenset(("dosing",)): "check-dosing",
    frozenset(): "no-fault-now",
}  # fmt: skip


@dataclass(frozen=True)
class Standing:
    """What the readings say now, and what still stands before a decision.

    components: those named, or while nothing is the likeliest set; confidence: that they are all at fault, while nothing is
    named that this set is exactly right; checklist: the gate's rows; holding: other faults that hold the decision up.
    """

    components: frozenset[Component]
    confidence: float
    decided: bool
    reached: bool
    checklist: tuple[Shown, ...]
    holding: tuple[str, ...] = ()
    found: tuple[str, ...] = ()
    found_one_of: tuple[str, ...] = ()
    nothing_else: float | None = None

    @property
    def wanted(self) -> tuple[Shown, ...]:
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


def standing(held: Held) -> Standing:
    """Where the job stands."""
    if held.certain:
        return _of_certain(held)
    chances = held.partition.of_sets(held.posterior)
    top = held.partition.sets[int(chances.argmax())]
    confidence = float(chances.max())
    reached = not top and confidence >= gates().no_fault
    rows = checklist(held, top)
    open_rows = any(item.status == "wanted" for item in rows)
    holding = _holding(held, frozenset()) if reached and not open_rows else ()
    decided = reached and not open_rows and not holding
    return Standing(
        top, confidence, decided, reached, rows, holding, _found(held),
        nothing_else=confidence if decided else None,
    )  # fmt: skip


def near(held: Held, within: float) -> bool:
    """Whether some component, or nothing at fault, comes this near to its threshold with its gate met: other draws might decide."""
    table = gates()
    close = [name for name, chance in held.by_component.items() if chance >= table.thresholds[name] - within]
    if any(all(item.status != "wanted" for item in gate(held, name)) for name in close):
        return True
    sound = float(held.partition.of_sets(held.posterior)[held.partition.sets.index(frozenset())])
    nothing: frozenset[Component] = frozenset()
    return sound >= table.no_fault - within and all(item.status != "wanted" for item in checklist(held, nothing))


def _of_certain(held: Held) -> Standing:
    checklists = {name: gate(held, name) for name in sorted(held.certain)}
    ready = _ready(checklists)
    named = ready or held.certain
    holding = _holding(held, named) if ready else ()
    decided = bool(ready) and not holding
    listed = tuple(item for name in sorted(named) for item in checklists[name])
    one_of = tuple(name for component in sorted(named) for name in _one_of(held, component)) if decided else ()
    rows = np.all([held.partition.has_component[name] for name in named], axis=0)
    exactly = float(held.partition.of_sets(held.posterior).max())
    return Standing(
        named, float(held.posterior[rows].sum()) if decided else exactly, decided, True, listed, holding, _found(held),
        one_of, _nothing_else(held, named, one_of) if decided else None,
    )  # fmt: skip


def _ready(checklists: Mapping[Component, Sequence[Shown]]) -> frozenset[Component]:
    """The components whose gate is met; what is settled by another's being named waits until that one is."""
    ready = frozenset(checklists)
    while True:
        still = frozenset(name for name in ready if all(_stands(item, ready) for item in checklists[name]))
        if still == ready:
            return ready
        ready = still


def _stands(item: Shown, ready: frozenset[Component]) -> bool:
    return item.status != "wanted" and (item.settled_by is None or item.settled_by in ready)


def _holding(held: Held, named: frozenset[Component]) -> tuple[str, ...]:
    """Faults besides what is named that are likely enough, and could be read now."""
    table, rule = faults(), gates().holds_up
    spared = named | held.certain
    found = []
    for name, chance in held.chances.items():
        if chance < rule.favoured or name in held.present:
            continue
        besides = _besides(held, name, spared)
        stands = besides[0] >= rule.stands or (besides[0] >= rule.favoured and besides[1] >= rule.favoured_by)
        own_sensor = table[name].component == "sensor" and "sensor" in spared
        if not stands or own_sensor or (table[name].component in spared and table[name].component not in named):
            continue
        if held.telling.best(name, held.present, held.readings) >= rule.tells:
            found.append(name)
    return tuple(found)


def _besides(held: Held, name: str, named: frozenset[Component]) -> tuple[float, float]:
    """Chance of a fault besides others of what is named, and how far the readings favour it being there (Bayes factor)."""
    space, own = held.known.space, held.partition.has_fault[name]
    if named:
        others = np.array(
            [any(item != name and faults()[item].component in named for item in listed) for listed in space.faults]
        )
    else:
        others = np.ones(len(space.faults), dtype=bool)
    with_it, without = own & others, ~own & others
    chance = float(held.posterior[with_it].sum())
    odds = chance / max(float(held.posterior[without].sum()), 1e-12)
    before = float(space.prior[with_it].sum()) / max(float(space.prior[without].sum()), 1e-12)
    return chance, odds / max(before, 1e-12)


def _found(held: Held) -> tuple[str, ...]:
    certain = [name for name, chance in held.chances.items() if chance >= FOUND]
    return tuple(sorted(certain, key=lambda name: -held.chances[name]))


def _one_of(held: Held, component: Component) -> list[str]:
    """Where a component is certain and which of its faults is not: the fewest that together reach its threshold."""
    own = [name for name in held.chances if faults()[name].component == component]
    if any(held.chances[name] >= FOUND for name in own):
        return []
    listed: list[str] = []
    rows = np.zeros(len(held.posterior), dtype=bool)
    for name in sorted(own, key=lambda name: -held.chances[name]):
        listed.append(name)
        rows |= held.partition.has_fault[name]
        if float(held.posterior[rows].sum()) >= gates().thresholds[component]:
            break
    return listed


def _nothing_else(held: Held, named: frozenset[Component], one_of: Sequence[str]) -> float:
    """Chance that nothing is left once what was found is mended: a new sensor takes all of the old one's faults away."""
    gone = {name for name in (*_found(held), *one_of) if faults()[name].component in named}
    if "sensor" in named:
        gone |= {name for name in held.chances if faults()[name].component == "sensor"}
    clear = np.array([gone.issuperset(listed) for listed in held.known.space.faults])
    return float(held.posterior[clear].sum())
