"""Names, percentages and costs as they are told, once for every door: the screens and the paper hold none of their own."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, get_args

from dianoia.diagnosis.decision.assessment import Assessment
from dianoia.diagnosis.decision.decide import DecisionName
from dianoia.diagnosis.faults.types import Component, Part
from dianoia.diagnosis.verdict.speaking import ChanceReasons, why
from dianoia.diagnosis.verdict.stands import JobStep, steps
from dianoia.diagnosis.verdict.types import Suspect, Verdict
from dianoia.diagnosis.verdict.vocabulary import PARTS
from dianoia.quantities.show import percent

TITLES: Mapping[DecisionName, str] = {
    "replace-sensor": "Replace the sensor", "repair-wiring": "Repair the wiring", "restore-supply": "Restore the supply",
    "suspect-module": "Suspect the module", "fix-exhaust-leak": "Fix the exhaust leak", "fix-mixture": "Fix the mixture",
    "check-catalyst": "Check the catalyst", "check-dosing": "Check the dosing", "repair-feed": "Repair the feed", "repair-several": "More than one fault",
    "no-fault-now": "No fault now", "keep-testing": "Keep testing",
}  # fmt: skip
_COSTS_TIME = "Being wrong here costs time, not a part."
COSTS: Mapping[DecisionName, str] = {
    "replace-sensor": "Being wrong costs a sensor, a second visit and the customer's trust.",
    "suspect-module": "Being wrong costs a module, the dearest part of the circuit. Prove its feeds once more.",
    "repair-wiring": "Being wrong costs the time to open a loom that was whole.",
    "restore-supply": "Being wrong costs little; a fuse replaced over a short blows again.",
}
#: A fault is listed under its component from this chance on, and so many are.
LISTED, MOST_LISTED = 0.05, 2


Stage = Literal["new", "testing", "decided"]


@dataclass(frozen=True)
class FaultLine:
    """A fault of a component, likely enough to be listed."""

    says: str
    share: str
    why: ChanceReasons


@dataclass(frozen=True)
class ComponentLine:
    """A component that could be at fault."""

    component: Component
    share: float
    """0 to 1."""
    percent: str
    """The share as text."""
    moved: int
    """Percentage points by which the newest reading moved it, 0 for none."""
    why: ChanceReasons
    """Why it has this chance."""
    faults: tuple[FaultLine, ...]


@dataclass(frozen=True)
class PartLine:
    """A part of the coded circuit."""

    part: Part
    label: str
    by: tuple[int, ...]
    """Places of the readings that prove it, empty where it is not proven."""


@dataclass(frozen=True)
class VerdictSummary:
    """Names, percentages and costs of a verdict."""

    title: str
    """The decision."""
    cost: str
    """What the decision costs where it is wrong."""
    components: tuple[ComponentLine, ...]
    parts: tuple[PartLine, ...]
    steps: tuple[JobStep, ...]
    """Where the job stands."""


def stage(verdict: Verdict, counted: int) -> Stage:
    """Where a job stands. counted: its readings that count."""
    if verdict.decision != "keep-testing":
        return "decided"
    return "testing" if counted else "new"


def summarise(verdict: Verdict, seen: Assessment, before: Mapping[Component, float] | None) -> VerdictSummary:
    """What is told of a verdict. seen: the assessment it comes from; before: chances before the newest reading, None before the first."""
    listed = [name for name in get_args(Component) if name in verdict.by_component]
    listed.sort(key=lambda name: -verdict.by_component[name])
    parts = [*((item.part, item.by) for item in verdict.proven), *((part, ()) for part in verdict.unproven)]
    return VerdictSummary(
        title=TITLES[verdict.decision],
        cost=COSTS.get(verdict.decision, _COSTS_TIME),
        components=tuple(_component(name, verdict, before, seen) for name in listed),
        parts=tuple(PartLine(part, PARTS[part].label, by) for part, by in parts),
        steps=steps(verdict, seen.job.counted),
    )


def _component(
    name: Component, verdict: Verdict, before: Mapping[Component, float] | None, seen: Assessment
) -> ComponentLine:
    share, partition, prior = verdict.by_component[name], seen.engine.partition, seen.engine.space.prior
    moved = round(100 * (share - before[name])) if before and name in before else 0
    own: list[Suspect] = [item for item in verdict.suspects if item.component == name and item.probability >= LISTED]
    return ComponentLine(
        name,
        share,
        percent(share),
        moved,
        why(seen.taken, partition.has_component[name], prior),
        tuple(
            FaultLine(item.says, percent(item.probability), why(seen.taken, partition.has_fault[item.fault], prior))
            for item in own[:MOST_LISTED]
        ),
    )
