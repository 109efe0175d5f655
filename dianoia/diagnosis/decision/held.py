"""What is held of a ledger: how likely everything is, what is certain, and what is held to be present."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from dianoia.case.observed import Observed
from dianoia.circuit.network import Array
from dianoia.diagnosis.decision.gates import gates
from dianoia.diagnosis.decision.hidden import Telling
from dianoia.diagnosis.decision.proof import PartState, Weighed
from dianoia.diagnosis.decision.seen import Ledger
from dianoia.diagnosis.faults.partition import Partition
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Component, Part

#: A fault is found from this chance on.
FOUND = 0.9


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
