"""What to measure next: what may be proposed after a weighed ledger, in the order of its worth."""

from collections.abc import Mapping, Sequence
from functools import cached_property

from dianoia.case.observed import Observed
from dianoia.case.terms import HeaterSwitch
from dianoia.diagnosis.catalogue.candidates import Candidate, same_measurement
from dianoia.diagnosis.catalogue.costs import position_after, prices_of
from dianoia.diagnosis.catalogue.offered import offered
from dianoia.diagnosis.decision.assessment import Assessment
from dianoia.diagnosis.decision.decide import SHOWN_BY
from dianoia.diagnosis.inference.learn import high_side_chance
from dianoia.diagnosis.planning.plan import Goal, Scored, rank
from dianoia.diagnosis.planning.reduced import ReducedProblem, reduced_problem

#: From this confidence on the next readings only confirm.
CONFIRMING = 0.85
#: A reading is worth taking again from this chance of a gross error on; and no reading is taken more often than this.
DOUBTED, TAKEN_AT_MOST = 0.2, 2
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
        if self.standing.proven and self.standing.wants:
            return self._wanted(reachable)
        first, again = self._first_and_again(reachable)
        return self._ordered(first) or self._wanted(reachable) or self._ordered(again)

    def offered(self) -> list[Candidate]:
        """Readings that may be proposed, of the code's own loop and of any other that is suspected by now."""
        suspected = {loop for loop, chance in self.weighed.loop_chances().items() if chance > SUSPECTED}
        found = offered(self.job, self.engine, suspected, self._switch())
        self.engine.work_out(item.probe for item in found)
        return found

    def reduced(self, scored: Sequence[Scored]) -> ReducedProblem:
        """The small problem of the best of these readings."""
        return reduced_problem(self.weighed, scored, self.goal)

    @cached_property
    def goal(self) -> Goal:
        """What the next reading is for, and from where it is taken."""
        return Goal(
            needed=list(self.standing.missing), style=self.style, prices=prices_of(self.job),
            position=position_after(self.job.counted), confirming=self.standing.confidence > CONFIRMING,
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

    def _switch(self) -> HeaterSwitch:
        """The side that the module switches, as far as the readings tell."""
        chance = high_side_chance(self.weighed.belief, self.weighed.posterior)
        return "high-side" if (chance or 0.0) > 0.5 else "low-side"

    def _wanted(self, reachable: Sequence[Candidate]) -> list[Scored]:
        """What a gate asks for although it carries no news about the faults."""
        by_id = {item.id: item for item in (*offered(self.job, self.engine), *reachable)}
        wanted = (self._simplest(want, by_id) for want in self.standing.wants)
        return [Scored(item, item.minutes, 0.0, 0.0) for item in wanted if item is not None]

    def _simplest(self, want: str, by_id: Mapping[str, Candidate]) -> Candidate | None:
        """The first candidate for what a gate wants that has not been taken and can be."""
        reachable = [name for name in SHOWN_BY[want] if name not in self.weighed.out_of_reach]
        listed = [by_id[name] for name in reachable if name in by_id]
        fresh = [item for item in listed if not any(same_measurement(item, old) for old in self.job.counted)]
        return next(iter(fresh or listed), None)
