"""What to measure next: what may be proposed after a weighed ledger, in the order of its worth."""

from collections.abc import Mapping, Sequence
from functools import cache, cached_property

import numpy as np

from dianoia.case.observed import Observed
from dianoia.diagnosis.catalogue.candidates import Candidate, same_measurement
from dianoia.diagnosis.catalogue.costs import cost, position_after, prices_of
from dianoia.diagnosis.catalogue.offered import offered
from dianoia.diagnosis.decision.assessment import Assessment
from dianoia.diagnosis.decision.feed import dividing
from dianoia.diagnosis.decision.gates import gates, seen_rows
from dianoia.diagnosis.decision.proof import right_kind
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Part
from dianoia.diagnosis.planning.plan import Goal, Scored, rank
from dianoia.diagnosis.planning.reduced import ReducedProblem, reduced_problem

#: From this confidence on the next readings only confirm.
CONFIRMING = 0.85
#: A reading is worth taking again from this chance of a gross error on; and no reading is taken more often than this.
DOUBTED, TAKEN_AT_MOST = 0.2, 2
#: A fault besides what was named is worth a reading before closing up between these chances.
CLOSING, CLOSED = 0.02, 0.995
#: Another loop than the code's is searched from this chance of a fault in it on.
SUSPECTED = 0.3


class Proposing:
    """The readings that may follow a weighed ledger. style: the working style to favour, empty for none."""

    def __init__(self, weighed: Assessment, style: str) -> None:
        self.weighed, self.style = weighed, style
        self.job, self.engine, self.standing = weighed.job, weighed.engine, weighed.standing

    def ranked(self) -> list[Scored]:
        """Readings worth taking next, best first; none once decided."""
        if self.standing.decided:
            return []
        reachable = [item for item in self.offered() if item.id not in self.weighed.out_of_reach]
        if self.standing.reached and not self.standing.missing and not self.standing.holding:
            return self._wanted(reachable)
        first, again = self._first_and_again(reachable)
        apart = self._sensor_or_pin(first)
        if apart is not None:
            rest = [item for item in self._ordered(first) if item.candidate.id != apart.id]
            return [Scored(apart, cost(apart, self.goal.position, self.goal.prices), 0.0, 0.0), *rest]
        return self._ordered(first) or self._wanted(reachable) or self._of_holding(first) or self._ordered(again)

    def offered(self) -> list[Candidate]:
        """Readings that may be proposed, of the code's own loop and of any other that is suspected by now."""
        suspected = {loop for loop, chance in self.weighed.loop_chances().items() if chance > SUSPECTED}
        found = offered(self.job, self.engine, suspected, self.weighed.switch)
        self.weighed.engine.work_out(item.probe for item in found)
        return found

    def closing(self) -> list[Scored]:
        """Beside a decision the one reading worth taking before closing up: of a fault besides what was found that is not ruled
        out, and shows now. What the finding hides is read after the repair.
        """
        if not self.standing.decided:
            return []
        reachable = [item for item in self.offered() if item.id not in self.weighed.out_of_reach]
        first, _ = self._first_and_again(reachable)
        divides = self._dividing(first)
        if divides is not None:
            return [Scored(divides, cost(divides, self.goal.position, self.goal.prices), 0.0, 0.0)]
        worth = {item.id: self._worth_closing(item) for item in first}
        best = max(first, key=lambda item: worth[item.id], default=None)
        if best is None or worth[best.id] <= 0.0:
            return []
        return [Scored(best, cost(best, self.goal.position, self.goal.prices), 0.0, 0.0)]

    def _sensor_or_pin(self, first: Sequence[Candidate]) -> Candidate | None:
        """Where only the pins of its own plug keep a sensor from being named, the sensor's own reading, else a look at the pins. None
        where more is in question, or all of that was read.
        """
        held = self.weighed.held
        least, sensor = held.threshold("sensor"), held.partition.has_component["sensor"]
        pins = [rows for name, rows in held.partition.has_fault.items() if name.startswith("pin-open:")]
        either = float(held.posterior[np.any([sensor, *pins], axis=0)].sum())
        chance = held.by_component["sensor"]
        if either < least or not gates().besides.least <= chance < least:
            return None
        by_id = {item.id: item for item in first}
        wanted = seen_rows()["element-bad" if held.loop_of("sensor") == "heater" else "cell-apart"].candidates
        return next((by_id[name] for name in (*wanted, "look-pins") if name in by_id), None)

    def _dividing(self, first: Sequence[Candidate]) -> Candidate | None:
        """The reading at the point that divides a feed whose fault is not told apart; None for no such feed, or none left."""
        found, held = self.standing.between, self.weighed.held
        if found is None or held.feed is None:
            return None
        way = self.weighed.ways_of_feed()[0]
        for point in dividing(way, held.feed):
            item = next((item for item in first if point in item.probe.points and item.probe.key == "running"), None)
            if item is not None:
                return item
        return None

    def _worth_closing(self, item: Candidate) -> float:
        """What a reading tells of the faults that may be there besides, by their chances, for its minutes."""
        held, least = self.weighed.held, gates().besides.tells
        told = 0.0
        for name in self._besides:
            tells = held.telling.of(name, held.present).get(item.id, 0.0)
            told += held.chances[name] * tells if tells >= least else 0.0
        return told / cost(item, self.goal.position, self.goal.prices)

    @cached_property
    def _besides(self) -> list[str]:
        held, named = self.weighed.held, self.standing.components
        return [
            name for name, chance in held.chances.items()
            if CLOSING < chance < CLOSED and name not in held.present and not (name in _of_sensor() and "sensor" in named)
        ]  # fmt: skip

    def reduced(self, scored: Sequence[Scored]) -> ReducedProblem:
        """The small problem of the best of these readings."""
        return reduced_problem(self.weighed, scored, self.goal)

    @cached_property
    def goal(self) -> Goal:
        """What the next reading is for, and from where it is taken."""
        return Goal(
            needed=list(self.standing.missing), holding=self.standing.holding, reached=self.standing.reached,
            style=self.style, prices=prices_of(self.job), position=position_after(self.job.counted),
            confirming=self.standing.reached or self.standing.confidence > CONFIRMING,
        )  # fmt: skip

    def _ordered(self, candidates: Sequence[Candidate]) -> list[Scored]:
        """Best first: by information a minute, the best few compared by their whole way to the decision."""
        scored = rank(self.weighed, candidates, self.goal)
        if len(scored) < 2:
            return scored
        reduced = self.reduced(scored)
        return [*reduced.ordered(self.style), *scored[len(reduced.options) :]]

    def _first_and_again(self, reachable: Sequence[Candidate]) -> tuple[list[Candidate], list[Candidate]]:
        """Candidates not taken since the last repair, or taken once and doubtful; and those that may be repeated."""
        fresh = self._since_repair()
        doubted = self._doubted() if fresh else frozenset()
        first, again = [], []
        for candidate in reachable:
            asked = fresh.get(candidate.probe.asks, ())
            before = [place for place, old in asked if same_measurement(candidate, old)]
            if not before or (len(before) < TAKEN_AT_MOST and doubted.issuperset(before)):
                first.append(candidate)
            elif len(before) < TAKEN_AT_MOST and not candidate.probe.by_hand:
                again.append(candidate)
        return first, again

    def _since_repair(self) -> Mapping[object, list[tuple[int, Observed]]]:
        """Readings since the last repair with their places, by what they ask."""
        since = max((item.place for item in self.weighed.taken if item.repaired), default=-1)
        fresh: dict[object, list[tuple[int, Observed]]] = {}
        for place, item in enumerate(self.job.readings):
            if place > since and item.counts:
                fresh.setdefault(item.probe.asks, []).append((place, item))
        return fresh

    def _doubted(self) -> frozenset[int]:
        """The places of readings that may well be gross errors."""
        return frozenset(place for place, chance in self.weighed.gross_errors.items() if chance > DOUBTED)

    def _wanted(self, reachable: Sequence[Candidate]) -> list[Scored]:
        """What a gate asks for although it carries no news about the faults."""
        by_id = {item.id: item for item in (*offered(self.job, self.engine, frozenset(self.engine.loops)), *reachable)}
        wanted = (self._simplest(item.candidates or self._proving(item.parts), by_id) for item in self.standing.wanted)
        found = {item.id: item for item in wanted if item is not None}
        return [Scored(item, cost(item, self.goal.position, self.goal.prices), 0.0, 0.0) for item in found.values()]

    def _of_holding(self, first: Sequence[Candidate]) -> list[Scored]:
        """Readings that tell of what holds a decision up, where none of them promises enough news to be ranked."""
        held, left = self.weighed.held, {item.id for item in first}
        telling = [
            item
            for name in self.standing.holding
            for item in held.telling.readings(name, held.present, gates().besides.tells)
            if item.id in left
        ]
        return [Scored(item, cost(item, self.goal.position, self.goal.prices), 0.0, 0.0) for item in telling[:1]]

    def _proving(self, parts: Sequence[Part]) -> list[str]:
        """Readings that tell of what a part's proof has still to exclude, however little news they promise."""
        held = self.weighed.held
        return [
            item.id
            for part in parts if part in held.states
            for name in held.states[part].open
            for item in held.telling.readings(name, held.present, gates().besides.tells)
            if right_kind(part, item.probe, self.weighed.load)
        ]  # fmt: skip

    def _simplest(self, names: Sequence[str], by_id: Mapping[str, Candidate]) -> Candidate | None:
        """The first candidate for what a gate wants that has not been taken and can be."""
        reachable = [name for name in names if name not in self.weighed.out_of_reach]
        listed = [by_id[name] for name in reachable if name in by_id]
        taken = {item.id: sum(same_measurement(item, old) for old in self.job.counted) for item in listed}
        few = [item for item in listed if taken[item.id] < TAKEN_AT_MOST]
        return min(few, key=lambda item: taken[item.id] > 0, default=None)


@cache
def _of_sensor() -> frozenset[str]:
    return frozenset(name for name, row in faults().items() if row.component == "sensor")
