"""What to measure next: what may be proposed after a weighed ledger, in the order of its worth."""

from collections.abc import Mapping, Sequence
from functools import cached_property

from dianoia.case.ledger import Reading
from dianoia.case.terms import HeaterSwitch
from dianoia.diagnosis.catalogue.candidates import Candidate, asked, same_measurement
from dianoia.diagnosis.catalogue.costs import prices_of, stance_of
from dianoia.diagnosis.decision.decide import SHOWN_BY
from dianoia.diagnosis.decision.weighing import Weighing
from dianoia.diagnosis.inference.learn import high_side_chance
from dianoia.diagnosis.planning.foresight import Foresight, foresee
from dianoia.diagnosis.planning.plan import Aim, Scored, rank

#: From this confidence on the next readings only confirm.
CONFIRMING = 0.85
#: A reading is worth taking again from this chance of a slip on; and no reading is taken more often than this.
DOUBTED, TAKEN_AT_MOST = 0.2, 2
#: Another loop than the code's is searched from this chance of a fault in it on.
SUSPECTED = 0.3


class Proposing:
    """The readings that may follow a weighed ledger. style: the working style to favour, empty for none."""

    def __init__(self, weighed: Weighing, style: str) -> None:
        self.weighed, self.style = weighed, style
        self.job, self.circuit, self.standing = weighed.job, weighed.circuit, weighed.standing

    def ranked(self) -> list[Scored]:
        """Readings worth taking next, best first; none once decided."""
        if self.standing.decided:
            return []
        offered = [item for item in self.offered() if item.id not in self.weighed.out_of_reach]
        if self.standing.proven and self.standing.wants:
            return self._wanted(offered)
        first, again = self._first_and_again(offered)
        return self._ordered(first) or self._wanted(offered) or self._ordered(again)

    def offered(self) -> list[Candidate]:
        """Readings that may be proposed, of the code's own loop and of any other that is suspected by now."""
        suspected = {loop for loop, chance in self.weighed.loop_chances().items() if chance > SUSPECTED}
        offered = self.circuit.offered(self.job, suspected, self._switch())
        self.circuit.work_out_offered(offered)
        return offered

    def foresight(self, scored: Sequence[Scored]) -> Foresight:
        """The small problem of the best of these readings."""
        seen = self.weighed
        return foresee(seen.belief, self.circuit.meaning, seen.posterior, scored, self.aim, seen.loop_at_fault())

    @cached_property
    def aim(self) -> Aim:
        """What the next reading is for, and from where it is taken."""
        counted = [item for item in self.job.case.readings if item.struck is None]
        return Aim(
            needed=list(self.standing.missing), style=self.style, prices=prices_of(self.job),
            stance=stance_of(counted), confirming=self.standing.confidence > CONFIRMING,
        )  # fmt: skip

    def _ordered(self, candidates: Sequence[Candidate]) -> list[Scored]:
        """Best first: by information a minute, the best few compared by their whole way to the decision."""
        seen = self.weighed
        scored = rank(seen.belief, self.circuit.meaning, seen.posterior, candidates, self.aim)
        if len(scored) < 2:
            return scored
        foresight = self.foresight(scored)
        return [*foresight.ordered(self.style), *scored[len(foresight.options) :]]

    def _first_and_again(self, offered: Sequence[Candidate]) -> tuple[list[Candidate], list[Candidate]]:
        """Candidates not taken since the last repair, or taken once and doubtful; and those that may be repeated."""
        fresh = self._since_repair()
        doubted = self._doubted() if fresh else frozenset()
        first, again = [], []
        for candidate in offered:
            before = [old for old in fresh.get(candidate.asks, ()) if same_measurement(candidate, old)]
            if not before or (len(before) < TAKEN_AT_MOST and all(id(old) in doubted for old in before)):
                first.append(candidate)
            elif len(before) < TAKEN_AT_MOST and candidate.probe.measure not in ("inspect", "act"):
                again.append(candidate)
        return first, again

    def _since_repair(self) -> Mapping[object, list[Reading]]:
        """Readings since the last repair, by what they ask."""
        since = max((item.place for item in self.weighed.taken if item.renewed), default=-1)
        fresh: dict[object, list[Reading]] = {}
        for item in self.job.case.readings[since + 1 :]:
            if item.struck is None:
                fresh.setdefault(asked(item), []).append(item)
        return fresh

    def _doubted(self) -> frozenset[int]:
        """The readings (by identity) that may well be slips of the hand."""
        chance = self.weighed.slips
        return frozenset(id(item.reading) for item in self.weighed.taken if chance.get(item.place, 0.0) > DOUBTED)

    def _switch(self) -> HeaterSwitch:
        """The side that the module switches, as far as the readings tell."""
        chance = high_side_chance(self.weighed.belief, self.weighed.posterior)
        return "high-side" if (chance or 0.0) > 0.5 else "low-side"

    def _wanted(self, offered: Sequence[Candidate]) -> list[Scored]:
        """What a gate asks for although it carries no news about the faults."""
        by_id = {item.id: item for item in (*self.circuit.offered(self.job), *offered)}
        wanted = (self._simplest(want, by_id) for want in self.standing.wants)
        return [Scored(item, item.minutes, 0.0, 0.0) for item in wanted if item is not None]

    def _simplest(self, want: str, offered: Mapping[str, Candidate]) -> Candidate | None:
        """The first candidate for what a gate wants that has not been taken and can be."""
        taken = [item for item in self.job.case.readings if item.struck is None]
        reachable = [name for name in SHOWN_BY[want] if name not in self.weighed.out_of_reach]
        listed = [offered[name] for name in reachable if name in offered]
        fresh = [item for item in listed if not any(same_measurement(item, old) for old in taken)]
        return next(iter(fresh or listed), None)
