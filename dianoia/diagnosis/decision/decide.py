"""When the evidence is enough, in three steps: a component's own threshold, its gate, and what else could be read now.

All numbers and gates are rows of gates.json.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from dianoia.case.observed import Observed
from dianoia.circuit.network import Array
from dianoia.diagnosis.decision.gates import (
    NAMED,
    NOTHING,
    WITHOUT,
    GateRow,
    gate_of,
    gates,
    seen_rows,
)
from dianoia.diagnosis.decision.hidden import Telling
from dianoia.diagnosis.decision.proof import DOUBT, PartState, Weighed
from dianoia.diagnosis.decision.seen import SEEN, Ledger, plainly_bad
from dianoia.diagnosis.faults.partition import Partition
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
#: A fault is found from this chance on.
FOUND = 0.9
#: Components whose mending is at the plug or before it: the module's connector is not taken apart for their gates.
_AT_THE_PLUG: frozenset[Component] = frozenset(("sensor", "supply"))
#: A reading that tells of a fault by less than this shows the same with it and without.
SAME = 0.2
Met = Literal["met", "waived", "wanted"]


@dataclass(frozen=True)
class Shown:
    """A row of a gate as it stands. by: places of the readings that show it; because: why it is waived, or what is still
    wanted; candidates: readings that would show it; settled_by: the component that is named with it.
    """

    row: GateRow
    status: Met
    by: tuple[int, ...] = ()
    because: str = ""
    candidates: tuple[str, ...] = ()
    settled_by: Component | None = None

    @property
    def parts(self) -> tuple[Part, ...]:
        """The parts that it asks for."""
        return tuple(name for name in self.row.shown if name in _PARTS)


_PARTS = frozenset(row.part for row in faults().values())


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


@dataclass(frozen=True)
class Held:
    """What is held of a ledger. known: what exclusions are read from; states: of the parts; ledger: the readings that count;
    telling: what could be read now; parts: of a loop's circuit; focus: the loop that the code names.
    """

    known: Weighed
    states: Mapping[Part, PartState]
    ledger: Ledger
    telling: Telling
    parts: Callable[[str], Sequence[Part]]
    focus: str

    @property
    def partition(self) -> Partition:
        """What each hypothesis contains."""
        return self.known.partition

    @property
    def posterior(self) -> Array:
        """Chance of each joint hypothesis."""
        return self.known.posterior

    @cached_property
    def chances(self) -> dict[str, float]:
        """Chance of each fault."""
        return {name: float(self.posterior[rows].sum()) for name, rows in self.partition.has_fault.items()}

    @cached_property
    def by_component(self) -> dict[Component, float]:
        """Chance of each component."""
        return {name: float(self.posterior[rows].sum()) for name, rows in self.partition.has_component.items()}

    @cached_property
    def certain(self) -> frozenset[Component]:
        """Components that reach their threshold."""
        least = gates().thresholds
        return frozenset(name for name, chance in self.by_component.items() if chance >= least[name])

    @cached_property
    def present(self) -> frozenset[str]:
        """The likeliest faults of the certain components, as a set that is weighed."""
        best = max(
            (row for row in range(len(self.posterior)) if self._of_certain(row)),
            key=lambda row: self.posterior[row],
            default=int(self.posterior.argmax()),
        )
        return frozenset(name for name in self.known.space.faults[best] if self._is_certain(name))

    def _of_certain(self, row: int) -> bool:
        return self.certain <= self.partition.sets[self.partition.set_of[row]]

    def _is_certain(self, name: str) -> bool:
        return not self.certain or faults()[name].component in self.certain

    def likeliest(self, component: Component) -> str | None:
        """Its likeliest fault."""
        own = [name for name in self.chances if faults()[name].component == component]
        return max(own, key=lambda name: self.chances[name], default=None)

    def loop_of(self, component: Component) -> str:
        """The loop that its likeliest fault lies in."""
        fault = self.likeliest(component)
        loops = faults()[fault].loop.split() if fault else []
        return self.focus if self.focus in loops or not loops else loops[0]

    @cached_property
    def readings(self) -> Sequence[Observed]:
        """Those that count."""
        return [item for _, item in self.ledger.readings]


def standing(held: Held) -> Standing:
    """Where the job stands."""
    if held.certain:
        return _of_certain(held)
    chances = held.partition.of_sets(held.posterior)
    top = held.partition.sets[int(chances.argmax())]
    confidence = float(chances.max())
    reached = not top and confidence >= gates().no_fault
    checklist = _checklist(held, top)
    open_rows = any(item.status == "wanted" for item in checklist)
    holding = _holding(held, frozenset()) if reached and not open_rows else ()
    decided = reached and not open_rows and not holding
    return Standing(
        top, confidence, decided, reached, checklist, holding, _found(held),
        nothing_else=confidence if decided else None,
    )  # fmt: skip


def near(held: Held, within: float) -> bool:
    """Whether some component, or nothing at fault, comes this near to its threshold with its gate met: other draws might decide."""
    table = gates()
    close = [name for name, chance in held.by_component.items() if chance >= table.thresholds[name] - within]
    if any(all(item.status != "wanted" for item in _gate(held, name)) for name in close):
        return True
    sound = float(held.partition.of_sets(held.posterior)[held.partition.sets.index(frozenset())])
    nothing: frozenset[Component] = frozenset()
    return sound >= table.no_fault - within and all(item.status != "wanted" for item in _checklist(held, nothing))


def _of_certain(held: Held) -> Standing:
    checklists = {name: _gate(held, name) for name in sorted(held.certain)}
    ready = _ready(checklists)
    named = ready or held.certain
    holding = _holding(held, named) if ready else ()
    decided = bool(ready) and not holding
    checklist = tuple(item for name in sorted(named) for item in checklists[name])
    one_of = tuple(name for component in sorted(held.certain) for name in _one_of(held, component)) if decided else ()
    rows = np.all([held.partition.has_component[name] for name in named], axis=0)
    exactly = float(held.partition.of_sets(held.posterior).max())
    return Standing(
        named, float(held.posterior[rows].sum()) if decided else exactly, decided, True, checklist, holding, _found(held),
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


def _checklist(held: Held, components: frozenset[Component]) -> tuple[Shown, ...]:
    if not components:
        return tuple(_shown(held, row, None) for row in gate_of(NOTHING, held.focus, None, held.parts(held.focus)))
    return tuple(item for name in sorted(components) for item in _gate(held, name))


def _gate(held: Held, component: Component) -> tuple[Shown, ...]:
    fault, loop = held.likeliest(component), held.loop_of(component)
    rows = gate_of(component, loop, fault, held.parts(loop))
    bad = plainly_bad(held.ledger) if component == "sensor" else ()
    if bad:
        return tuple(Shown(row, "waived", bad, "the sensor was seen to be bad") for row in rows)
    return tuple(_shown(held, row, component) for row in rows)


def _shown(held: Held, row: GateRow, component: Component | None) -> Shown:
    """The row as it stands: the first of its alternatives that is met, or waived, else what is wanted."""
    tried = [_one(held, row, name, component) for name in row.shown]
    for status in ("met", "waived"):
        for item in tried:
            if item.status == status:
                return item
    candidates = tuple(dict.fromkeys(name for item in tried for name in item.candidates))
    return Shown(
        row, "wanted", because=" or ".join(item.because for item in tried if item.because), candidates=candidates
    )


def _one(held: Held, row: GateRow, shown: str, component: Component | None) -> Shown:
    if shown.startswith(NAMED):
        named = held.chances.get(shown.removeprefix(NAMED), 0.0) >= FOUND
        return Shown(row, "met" if named else "wanted")
    if shown.startswith(WITHOUT):
        return _without(held, row, shown.removeprefix(WITHOUT))
    if shown in SEEN:
        places = SEEN[shown](held.ledger)
        seen = seen_rows()[shown]
        return Shown(row, "met" if places else "wanted", places, "" if places else seen.says, seen.candidates)
    return _part(held, row, shown, component)


def _without(held: Held, row: GateRow, fault: str) -> Shown:
    if fault not in held.chances:
        return Shown(row, "met")
    out = held.chances[fault] < DOUBT and held.known.excluded(fault)
    wanted = tuple(item.id for item in held.telling.readings(fault, held.present, SAME)[:3]) if not out else ()
    return Shown(
        row,
        "met" if out else "wanted",
        (),
        "" if out else f"a reading that rules out that {faults()[fault].says}",
        wanted,
    )


def _part(held: Held, row: GateRow, part: str, component: Component | None) -> Shown:
    state = next((state for name, state in held.states.items() if name == part), None)
    if state is None or state.proven:
        return Shown(row, "met", state.by if state else ())
    bad = _bad_by(held, part) if state.failed else None
    if bad in held.certain:
        return Shown(row, "met", (), "it is itself found bad", settled_by=bad)
    hidden = _hidden(held, state, component)
    if hidden:
        return Shown(row, "waived", (), hidden)
    return Shown(row, "wanted")


def _bad_by(held: Held, part: str) -> Component:
    """The component that is at fault where a part is bad."""
    own = [name for name in held.chances if faults()[name].part == part]
    return faults()[max(own, key=lambda name: held.chances[name])].component


def _hidden(held: Held, state: PartState, component: Component | None) -> str:
    """Why a part's proof is waived: no reading would show its open faults beside what is certain; empty where one would."""
    if component is None or not state.open or not held.certain:
        return ""
    shut = bool(held.certain & _AT_THE_PLUG) or any(name.startswith("pin-") for name in held.present)
    beside = held.present
    listed = [name for name in state.open if beside | {name} in held.known.space.row_of]
    if not listed or any(held.telling.best(name, beside, shut=shut) >= SAME for name in listed):
        return ""
    if any(held.telling.best(name, beside) >= SAME for name in listed):
        return "it would take the module's connector apart while the mending is at the plug"
    return "it is hidden until what was found is mended"


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
