"""A job's ledger weighed with one engine: what is believed after it, and how near that is to a decision."""

from collections.abc import Mapping, Sequence
from functools import cached_property

from dianoia.case.job import Job
from dianoia.case.observed import Observed
from dianoia.circuit.network import Array
from dianoia.diagnosis.catalogue.offered import tools_missing
from dianoia.diagnosis.decision.decide import (
    ELEMENT_APART,
    SEEN_COMMANDED,
    SHOWN_BY,
    DecisionName,
    Held,
    Standing,
    standing,
)
from dianoia.diagnosis.decision.proof import PartState, part_states
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Component, Part
from dianoia.diagnosis.inference.belief import Belief
from dianoia.diagnosis.inference.engine import Engine
from dianoia.diagnosis.inference.evidence import Evidence, apply, gross_errors, take_in


class Assessment:
    """Belief over the hypotheses after a job's readings, by one engine."""

    def __init__(self, job: Job, engine: Engine) -> None:
        self.job, self.engine = job, engine
        self.models = engine.models_for(job.readings)
        self.belief: Belief = engine.belief(self.models)
        self.taken: list[Evidence] = take_in(self.belief, job.readings)
        self.posterior: Array = self.belief.posterior()
        self.states = self._states(self.belief, self.posterior, self.taken)
        self.standing: Standing = self._standing(self.posterior, self.states, job.readings)

    def components(self, posterior: Array | None = None) -> dict[Component, float]:
        """Chance of each component to be at fault."""
        chance = self.posterior if posterior is None else posterior
        return {name: round(float(chance[rows].sum()), 4) for name, rows in self.engine.partition.has_component.items()}

    @cached_property
    def fault_chances(self) -> dict[str, float]:
        """Chance of each fault."""
        return {name: float(self.posterior[rows].sum()) for name, rows in self.engine.partition.has_fault.items()}

    @cached_property
    def gross_errors(self) -> Mapping[int, float]:
        """Chance, by place, that a reading is a gross error."""
        return gross_errors(self.belief, self.taken, self.posterior)

    @cached_property
    def out_of_reach(self) -> frozenset[str]:
        """Names of the readings that cannot be taken on this vehicle."""
        return frozenset(item.reading for item in self.job.case.cannot)

    def loop_chances(self) -> dict[str, float]:
        """Chance of a fault in each loop."""
        table = faults()
        chances = dict.fromkeys(self.engine.loops, 0.0)
        for name, chance in self.fault_chances.items():
            for loop in table[name].loop.split():
                if loop in chances:
                    chances[loop] += chance
        return chances

    def loop_at_fault(self, posterior: Array | None = None) -> str:
        """The loop the likeliest fault lies in; the code's own where there is none."""
        best = self._likeliest(self.posterior if posterior is None else posterior)
        loops = faults()[best[0]].loop.split() if best else [self.engine.focus]
        return self.engine.focus if self.engine.focus in loops else loops[0]

    def before(self) -> dict[Component, float] | None:
        """Chance of each component before the newest reading that counts; None before the first."""
        if not self.taken:
            return None
        newest = self.taken[-1]
        return self.components(self._belief_without(newest.place, self.taken[:-1]).posterior())

    def without(self, place: int) -> DecisionName:
        """The decision if the reading at ``place`` had not been taken."""
        kept = [item for item in self.taken if item.place != place]
        belief = self._belief_without(place, kept)
        posterior = belief.posterior()
        readings = [item for index, item in enumerate(self.job.readings) if index != place]
        return self._standing(posterior, self._states(belief, posterior, kept), readings).decision

    def _belief_without(self, place: int, kept: Sequence[Evidence]) -> Belief:
        left_out = next((item for item in self.taken if item.place == place), None)
        if left_out and left_out.fit is not None and not any(item.repaired for item in self.taken):
            belief = self.belief.copy()
            belief.update(left_out.loop, -left_out.fit)
            return belief
        belief = self.engine.belief(self.models)
        for item in kept:
            apply(belief, item)
        return belief

    def _states(self, belief: Belief, posterior: Array, taken: Sequence[Evidence]) -> dict[Part, PartState]:
        return part_states(self.engine.parts, belief, self.engine.partition, posterior, taken)

    def _standing(self, posterior: Array, states: dict[Part, PartState], readings: Sequence[Observed]) -> Standing:
        partition = self.engine.partition
        chances = partition.of_sets(posterior)
        top = int(chances.argmax())
        loop = self.loop_at_fault(posterior)
        return standing(
            Held(
                components=partition.sets[top],
                confidence=float(chances[top]),
                chances={name: float(posterior[rows].sum()) for name, rows in partition.has_component.items()},
                states=states,
                readings=readings,
                loop=loop,
                silent_driver=loop == "heater" and self._silent_driver(posterior),
                behind=self._behind_the_pin(posterior),
                element_askable=self._element_askable,
            )
        )

    @property
    def _element_askable(self) -> bool:
        return not self.out_of_reach.issuperset(SHOWN_BY[ELEMENT_APART])

    def _behind_the_pin(self, posterior: Array) -> tuple[Part, ...]:
        """The sensor's own part that an open pin of the plug looks like, where such a pin is the likeliest."""
        pins = [name.partition(":")[2] for name in self._likeliest(posterior) if name.startswith("pin-open:")]
        if not pins or self.engine.focus == "nox":
            return ()
        return ("heater",) if pins[0].startswith("heater") else ("cell",)

    def _silent_driver(self, posterior: Array) -> bool:
        """Whether an open driver is likely, and a scan tool could tell whether it was asked to drive at all."""
        rows = self.engine.partition.has_fault.get("driver-open")
        askable = "scan" not in tools_missing(self.job) and not self.out_of_reach.issuperset(SHOWN_BY[SEEN_COMMANDED])
        return askable and rows is not None and float(posterior[rows].sum()) > 0.5

    def _likeliest(self, posterior: Array) -> tuple[str, ...]:
        return self.engine.space.faults[int(posterior.argmax())]
