"""The gate before a decision, row by row: met by readings, waived, or still wanted."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from dianoia.diagnosis.decision.context import FOUND, DecisionContext
from dianoia.diagnosis.decision.gates import INSTEAD, NAMED, NOTHING, WITHOUT, GateRow, gate_of, gates, seen_rows
from dianoia.diagnosis.decision.proof import DOUBT, PartState
from dianoia.diagnosis.decision.seen import SEEN
from dianoia.diagnosis.decision.shown.trial import plainly_bad
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Component, Part

#: Components whose mending is at the plug or before it: the module's connector is not taken apart for their gates.
_AT_THE_PLUG: frozenset[Component] = frozenset(("sensor", "supply"))
#: A reading that tells of a fault by less than this shows the same with it and without.
SAME = 0.2
Met = Literal["met", "waived", "wanted"]


@dataclass(frozen=True)
class GateResult:
    """A row of a gate as it stands."""

    row: GateRow
    status: Met
    by: tuple[int, ...] = ()
    """Places of the readings that show it."""
    because: str = ""
    """Why it is waived, or what is still wanted."""
    candidates: tuple[str, ...] = ()
    """Readings that would show it."""
    settled_by: Component | None = None
    """The component that is named with it."""

    @property
    def parts(self) -> tuple[Part, ...]:
        """The parts that it asks for."""
        return tuple(name for name in self.row.shown if name in _PARTS)


_PARTS = frozenset(row.part for row in faults().values())


def checklist(held: DecisionContext, components: frozenset[Component]) -> tuple[GateResult, ...]:
    """The gate before these components are named, or before nothing is."""
    if not components:
        return tuple(_shown(held, row, None) for row in gate_of(NOTHING, held.focus, None, held.parts(held.focus)))
    return tuple(item for name in sorted(components) for item in gate(held, name))


def gate(held: DecisionContext, component: Component) -> tuple[GateResult, ...]:
    """The gate before a component, with its likeliest fault."""
    fault, loop = held.likeliest(component), held.loop_of(component)
    rows = gate_of(component, loop, fault, held.parts(loop))
    bad = plainly_bad(held.ledger) if component == "sensor" else ()
    if bad:
        return tuple(GateResult(row, "waived", bad, "the sensor was seen to be bad") for row in rows)
    if component == "feed":
        return ()
    return tuple(_shown(held, row, component) for row in rows)


def _shown(held: DecisionContext, row: GateRow, component: Component | None) -> GateResult:
    """The row as it stands: the first of its alternatives that is met, or waived, else what is wanted."""
    tried = [_one(held, row, name, component) for name in row.shown]
    for status in ("met", "waived"):
        for item in tried:
            if item.status == status:
                return item
    candidates = tuple(dict.fromkeys(name for item in tried for name in item.candidates))
    return GateResult(
        row, "wanted", because=" or ".join(item.because for item in tried if item.because), candidates=candidates
    )


def _one(held: DecisionContext, row: GateRow, shown: str, component: Component | None) -> GateResult:
    if shown.startswith(NAMED):
        named = held.chances.get(shown.removeprefix(NAMED), 0.0) >= FOUND
        return GateResult(row, "met" if named else "wanted")
    if shown.startswith(WITHOUT):
        return _without(held, row, shown.removeprefix(WITHOUT))
    if shown.startswith(INSTEAD):
        return _instead(held, row, shown.removeprefix(INSTEAD), component)
    if shown in SEEN:
        places = SEEN[shown](held.ledger)
        seen = seen_rows()[shown]
        return GateResult(row, "met" if places else "wanted", places, "" if places else seen.says, seen.candidates)
    return _part(held, row, shown, component)


def _without(held: DecisionContext, row: GateRow, fault: str) -> GateResult:
    if fault not in held.chances:
        return GateResult(row, "met")
    out = held.chances[fault] < DOUBT and held.known.excluded(fault)
    wanted = tuple(item.id for item in held.telling.readings(fault, held.present, SAME)[:3]) if not out else ()
    return GateResult(
        row,
        "met" if out else "wanted",
        (),
        "" if out else f"a reading that rules out that {faults()[fault].says}",
        wanted,
    )


def _instead(held: DecisionContext, row: GateRow, beginning: str, component: Component | None) -> GateResult:
    """Out where the rival is unlikely instead of what is named, and the readings disfavour it."""
    names = [name for name in held.chances if name.startswith(beginning)]
    if not names or component is None or component not in held.partition.has_component:
        return GateResult(row, "met")
    rival, rule = np.any([held.partition.has_fault[name] for name in names], axis=0), gates().rival
    named = held.partition.has_component[component]
    chance, own = float(held.posterior[rival & ~named].sum()), float(held.posterior[named & ~rival].sum())
    prior = held.known.space.prior
    before = float(prior[rival & ~named].sum()) / max(float(prior[named & ~rival].sum()), 1e-12)
    disfavoured = before / max(chance / max(own, 1e-12), 1e-12)
    if chance < rule.below and disfavoured >= rule.disfavoured_by:
        return GateResult(row, "met")
    likeliest = max(names, key=lambda name: held.chances[name])
    mine = held.likeliest(component)
    telling = held.telling.between(
        frozenset((likeliest,)), frozenset((mine,)) if mine else frozenset(), gates().besides.tells
    )
    return GateResult(
        row,
        "wanted",
        (),
        f"a reading that rules out that {faults()[likeliest].says} instead",
        tuple(item.id for item in telling[:3]),
    )


def _part(held: DecisionContext, row: GateRow, part: str, component: Component | None) -> GateResult:
    state = next((state for name, state in held.states.items() if name == part), None)
    if state is None or state.proven:
        return GateResult(row, "met", state.by if state else ())
    bad = _bad_by(held, part) if state.failed else None
    if bad in held.certain:
        return GateResult(row, "met", (), "it is itself found bad", settled_by=bad)
    hidden = _hidden(held, state, component)
    if hidden:
        return GateResult(row, "waived", (), hidden)
    return GateResult(row, "wanted")


def _bad_by(held: DecisionContext, part: str) -> Component:
    """The component that is at fault where a part is bad."""
    own = [name for name in held.chances if faults()[name].part == part]
    return faults()[max(own, key=lambda name: held.chances[name])].component


def _hidden(held: DecisionContext, state: PartState, component: Component | None) -> str:
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
