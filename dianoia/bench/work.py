"""One simulated job worked to its end, as a technician would: by the planner, or in a style's fixed order.

All share one stopping rule, the gates of the decision.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from dianoia.bench.jobs import SimulatedJob
from dianoia.bench.vehicle import ModelVehicle
from dianoia.case.job import Job, read_as
from dianoia.case.load import from_plain
from dianoia.case.measures import Reading
from dianoia.case.observed import Observed
from dianoia.case.types import Cannot
from dianoia.diagnosis.catalogue.candidates import Candidate, same_measurement
from dianoia.diagnosis.catalogue.costs import cost, position_after, prices_of
from dianoia.diagnosis.decision.decide import Standing
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.verdict.diagnose import Diagnosis

#: Share of readings misread by a factor or taken at the wrong pin.
GROSS_ERRORS = 0.03
#: A technician gives up after this many readings.
MOST_READINGS = 40
#: And after so many repairs.
VISITS = 3
_MEND = {"sensor": "replace-sensor", "wiring": "repair-wiring", "module": "replace-module", "exhaust": "repair-exhaust",
         "mixture": "repair-mixture", "catalyst": "repair-exhaust", "dosing": "repair-dosing"}  # fmt: skip
_OF_SUPPLY = {"fuse-blown": "replace-fuse", "relay-open": "replace-relay"}


def mending(component: str, standing: Standing) -> str:
    """The act that mends a component: of the supply by what was found there."""
    found = (*standing.found, *standing.found_one_of)
    if component == "supply":
        return next((_OF_SUPPLY[name] for name in found if name in _OF_SUPPLY), "repair-wiring")
    return _MEND[component]


@dataclass(frozen=True)
class WorkedJob:
    """A worked job."""

    group: str
    family: str
    faults: tuple[str, ...]
    truth: frozenset[str]
    named: frozenset[str] | None
    """Of the first decision, None where it ended undecided."""
    confidence: float
    minutes: float
    """Minutes to the first decision."""
    readings: int
    """Readings to the first decision."""
    course: tuple[tuple[float, bool], ...]
    """(confidence, whether it was right) after each reading up to it."""
    mended: bool = False
    """Whether the vehicle was right at the end of the sequence, each decision's components mended and read on, with
    no good part replaced.
    """
    visits: int = 0
    """Repairs on the way."""

    @property
    def right(self) -> bool:
        """Decided, and all that is named is at fault."""
        return self.named is not None and (self.named <= self.truth if self.named else not self.truth)


class BenchTechnician:
    """A technician at a simulated vehicle. style: None works by the planner, else in that style's fixed order."""

    def __init__(self, simulated: SimulatedJob, style: str | None = None) -> None:
        self.simulated, self.style = simulated, style
        self.vehicle = ModelVehicle(simulated.job, simulated.hidden, simulated.seed, GROSS_ERRORS, wide=True)
        self.truth = frozenset(faults()[name].component for name in simulated.hidden)
        self.readings: list[Observed] = []
        self.prices = prices_of(simulated.job)
        self.refused: set[str] = set()
        self.minutes = 0.0
        self.course: list[tuple[float, bool]] = []

    def finish(self) -> WorkedJob:
        """Take reading after reading until a decision is made or nothing is left to measure; mend what was named, and go on until
        the vehicle is right.
        """
        diagnosis = self._decision()
        outcome, standing = self._outcome(diagnosis), diagnosis.standing
        vain = bool(outcome.named and not outcome.right)
        visits, named = 0, outcome.named
        while named and visits < VISITS:
            visits += 1
            for component in sorted(named):
                vain |= not self._mend(component, standing)
            if not self.vehicle.hidden or len(self.readings) >= MOST_READINGS:
                break
            standing = self._decision().standing
            named = standing.components if standing.decided else None
        return replace(outcome, mended=not self.vehicle.hidden and not vain, visits=visits)

    def _decision(self) -> Diagnosis:
        """Read on until something is decided, or nothing is left to read."""
        first = not any(item.probe.acted is not None for item in self.readings)
        while True:
            diagnosis = Diagnosis(self._job(), plan=self.style is None, styled=False)
            standing = diagnosis.standing
            if first:
                right = standing.components <= self.truth if standing.decided else standing.components == self.truth
                self.course.append((standing.confidence, right and bool(standing.components) == bool(self.truth)))
            chosen = None if standing.decided else self._chosen(diagnosis)
            if chosen is None or len(self.readings) >= MOST_READINGS:
                return diagnosis
            self._take(chosen)

    def _mend(self, component: str, standing: Standing) -> bool:
        """Mend a component; whether it was at fault."""
        left = tuple(name for name in self.vehicle.hidden if faults()[name].component != component)
        bad = left != self.vehicle.hidden
        self.vehicle = self.vehicle.mended(left)
        act: Reading = from_plain(Reading, {"measure": "act", "action": mending(component, standing), "value": "done"})
        self.readings.append(read_as(self.simulated.job, act))
        return bad

    def _job(self) -> Job:
        job = self.simulated.job
        cannot = tuple(Cannot(reading=name, reason="no such point here") for name in sorted(self.refused))
        return replace(job, case=replace(job.case, cannot=cannot), readings=tuple(self.readings))

    def _chosen(self, diagnosis: Diagnosis) -> Candidate | None:
        if self.style is None:
            return next((item.candidate for item in diagnosis.ranked()), None)
        ordered = fixed_order(diagnosis.offered(), self.style)
        return next((item for item in ordered if item.id not in self.refused and not self._had(item)), None)

    def _had(self, candidate: Candidate) -> bool:
        return any(same_measurement(candidate, old) for old in self.readings)

    def _take(self, chosen: Candidate) -> None:
        taken = self.vehicle.take(chosen.probe)
        if taken is None:  # the probe finds no place on this vehicle
            self.refused.add(chosen.id)
            return
        self.minutes += cost(chosen, position_after(self.readings), self.prices)
        self.readings.append(read_as(self.simulated.job, taken))

    def _outcome(self, diagnosis: Diagnosis) -> WorkedJob:
        standing = diagnosis.standing
        return WorkedJob(
            self.simulated.group, self.simulated.job.family.id, self.simulated.hidden, self.truth,
            standing.components if standing.decided else None, standing.confidence, self.minutes, len(self.readings),
            tuple(self.course),
        )  # fmt: skip


def fixed_order(offered: Sequence[Candidate], style: str) -> list[Candidate]:
    """A style's own readings first, in the order of the table, then all others."""
    return sorted(offered, key=lambda item: style not in item.styles)
