"""What is held of a ledger: how likely everything is, what is certain, and what is held to be present."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dianoia.case.observed import Observed
from dianoia.circuit.network import Array
from dianoia.diagnosis.decision.feed import Stretch
from dianoia.diagnosis.decision.gates import gates
from dianoia.diagnosis.decision.hidden import Detectability
from dianoia.diagnosis.decision.ledger import Ledger
from dianoia.diagnosis.decision.proof import PartState, PosteriorSummary
from dianoia.diagnosis.decision.seen import SEEN
from dianoia.diagnosis.faults.partition import Partition
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Component, Part

#: A fault is found from this chance on.
FOUND = 0.9
#: What a stretch of the feed that is not told apart may be.
OF_FEED: frozenset[Component] = frozenset(("supply", "wiring"))


@dataclass(frozen=True)
class DecisionContext:
    """What is held of a ledger."""

    known: PosteriorSummary
    """What exclusions are read from."""
    states: Mapping[Part, PartState]
    """Of the parts."""
    ledger: Ledger
    """The readings that count."""
    telling: Detectability
    """What could be read now."""
    parts: Callable[[str], Sequence[Part]]
    """Of a loop's circuit."""
    focus: str
    """The loop that the code names."""
    feed: Stretch | None = None
    """The stretch of the path from battery to plug that is read bad, None where none is."""

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
        """Components that reach their threshold; the feed where neither supply nor wiring does, and something between two of its points
        does.
        """
        reached = frozenset(name for name, chance in self.by_component.items() if chance >= self.threshold(name))
        return (
            reached | {"feed"} if self.feed_chance >= gates().thresholds["feed"] and not reached & OF_FEED else reached
        )

    def threshold(self, component: Component) -> float:
        """The chance from which a component is named."""
        table = gates()
        seen = component == "exhaust" and bool(SEEN["leak-seen"](self.ledger))
        return table.leak_seen if seen else table.thresholds[component]

    @cached_property
    def feed_chance(self) -> float:
        """Chance that something is at fault in the stretch of the feed that is read bad; 0 where none is."""
        listed = (
            [self.partition.has_fault[name] for name in self.feed.faults if name in self.chances] if self.feed else []
        )
        return float(self.posterior[np.any(listed, axis=0)].sum()) if listed else 0.0

    def chance_of(self, component: Component) -> float:
        """The chance of a component, or that something in the stretch of the feed is at fault."""
        return self.feed_chance if component == "feed" else self.by_component[component]

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
        found = self.partition.sets[self.partition.set_of[row]]
        return self.certain - {"feed"} <= found and ("feed" not in self.certain or bool(found & OF_FEED))

    def _is_certain(self, name: str) -> bool:
        if not self.certain or faults()[name].component in self.certain:
            return True
        return "feed" in self.certain and self.feed is not None and name in self.feed.faults

    def likeliest(self, component: Component) -> str | None:
        """Its likeliest fault."""
        own = [name for name in self.chances if faults()[name].component == component]
        if component == "feed" and self.feed:
            own = [name for name in self.feed.faults if name in self.chances]
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
