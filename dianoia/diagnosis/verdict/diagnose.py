"""A job -> the verdict: belief, judgements, proofs, decision, next reading, warnings."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from dianoia.case.job import Job, job_of
from dianoia.case.types import Case
from dianoia.diagnosis.catalogue.candidates import Candidate, same_measurement
from dianoia.diagnosis.catalogue.offered import engines
from dianoia.diagnosis.decision.assessment import Assessment
from dianoia.diagnosis.decision.decide import DecisionName, Standing
from dianoia.diagnosis.decision.proof import unproven
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Component
from dianoia.diagnosis.inference.store import EngineStore
from dianoia.diagnosis.planning.forecast import forecast
from dianoia.diagnosis.planning.plan import Scored
from dianoia.diagnosis.planning.proposing import Proposing
from dianoia.diagnosis.planning.reduced import ReducedProblem
from dianoia.diagnosis.planning.types import Forecast
from dianoia.diagnosis.verdict.acting import acting_now, after_repair, before_fitting, checklist
from dianoia.diagnosis.verdict.check import check
from dianoia.diagnosis.verdict.explain import because, decision_says, expect_text, family_says, how_sure, would_change
from dianoia.diagnosis.verdict.judging import Judgements
from dianoia.diagnosis.verdict.types import AfterRepair, Judged, Next, Proven, Suspect, Verdict, Warned, WarningName
from dianoia.diagnosis.verdict.warn import WarningContext, warnings
from dianoia.diagnosis.verdict.why import why_next

#: Readings looked at for "without this one"; beyond, only the newest.
_LOOKED_BACK = 12
_ALTERNATIVES = 2


def diagnose(case: Case) -> Verdict:
    """The verdict on a case. Raises RefusedInput where the case cannot be diagnosed."""
    check(case)
    diagnosis = Diagnosis(job_of(case))
    return replace(diagnosis.verdict(), forecast=diagnosis.forecast())


@dataclass(frozen=True)
class PastDecision:
    """What stood at a moment of a job: the decision, what was found, what was not shown, how each reading was
    judged, and what the finding hides.
    """

    decision: DecisionName
    components: frozenset[Component]
    found: tuple[str, ...]
    """Faults, the shortest list where it is not known which of them."""
    wanted: tuple[str, ...]
    results: tuple[str, ...]
    hidden: tuple[AfterRepair, ...]
    says: str = ""
    """The decision as it was told then."""
    how_sure: str = ""
    """The decision as it was told then."""
    because: tuple[str, ...] = ()
    """The decision as it was told then."""


class Diagnosis:
    """One job worked through: what is believed after its readings, and what follows.

    plan: False leaves out what to measure next; styled: False favours no working style in it; store: of its engine.
    engine: its own; weighed: its ledger, weighed; standing: how near that is to a decision.
    """

    def __init__(self, job: Job, plan: bool = True, styled: bool = True, store: EngineStore = engines) -> None:
        self.job = job
        self._plan, self._style = plan, job.case.style if styled else ""
        self._store = store
        self.engine = store.bare_engine(job)
        self.weighed = Assessment(job, self.engine, store.converged(job))
        self.standing: Standing = self.weighed.standing
        self.proposing = Proposing(self.weighed, self._style)
        self._ranked = self.proposing.ranked() if plan else []

    def verdict(self) -> Verdict:
        """Everything that can be said now."""
        seen, standing, partition = self.weighed, self.standing, self.weighed.engine.partition
        judging = Judgements(self.job, self.engine)
        judged = self._judged(judging)
        found = standing.found
        warned = warnings(
            WarningContext(self.job, seen.belief, partition, seen.posterior, seen.states, standing, seen.gross_errors)
        )
        proposed = self._ranked[: 1 + _ALTERNATIVES] or (self.proposing.closing() if self._plan else [])
        proposals = [self._next(item, judging) for item in proposed]
        return Verdict(
            decision=standing.decision,
            says=decision_says(standing, self.job.sits_at),
            components=tuple(sorted(standing.components)) if standing.decided else (),
            found=found,
            found_one_of=standing.found_one_of,
            at=self.job.sits_at,
            family=self.job.family.id,
            family_why=family_says(self.job),
            confidence=round(standing.confidence, 4),
            nothing_else=None if standing.nothing_else is None else round(standing.nothing_else, 4),
            acting_now=acting_now(seen),
            gate=tuple(checklist(standing)),
            before_fitting=tuple(before_fitting(seen, judging)),
            after_repair=tuple(after_repair(seen, judging)),
            between=standing.between,
            because=because(seen, standing, found, judged),
            would_change_it=would_change(seen, standing, self._without()),
            suspects=self._suspects(),
            by_component=seen.components(),
            proven=tuple(Proven(part=part, by=state.by) for part, state in seen.states.items() if state.proven),
            unproven=unproven(seen.states),
            judged=tuple(replace(item, warnings=_of(item.reading, warned)) for item in judged),
            next=proposals[0] if proposals else None,
            alternatives=tuple(proposals[1:]),
            warnings=warned,
        )

    def finding(self) -> PastDecision:
        """What stands now, short of a whole verdict."""
        standing, judging = self.standing, Judgements(self.job, self.engine)
        judged = self._judged(judging)
        return PastDecision(
            decision=standing.decision,
            components=standing.components if standing.decided else frozenset(),
            found=standing.found or standing.found_one_of,
            wanted=tuple(item.asks for item in checklist(standing) if item.status == "wanted"),
            results=tuple(item.result for item in judged),
            hidden=tuple(after_repair(self.weighed, judging)),
            says=decision_says(standing, self.job.sits_at),
            how_sure=how_sure(standing, self.weighed.components()),
            because=because(self.weighed, standing, standing.found, judged),
        )

    def expect(self, candidate: Candidate) -> str:
        """What a sound circuit shows at a reading; empty where the circuit has nothing to say to it."""
        expected = Judgements(self.job, self.engine).expect(candidate.probe)
        return expect_text(candidate, expected) if expected or candidate.probe.by_hand else ""

    @property
    def nothing_at_fault(self) -> float:
        """The chance that no fault that matters is present."""
        partition = self.weighed.engine.partition
        return float(partition.of_sets(self.weighed.posterior)[partition.sets.index(frozenset())])

    @property
    def sensor_unseen(self) -> float:
        """The chance, before any reading, that the sensor alone is at fault, given that something is."""
        engine = self.engine
        shares = dict(zip(engine.partition.sets, engine.partition.of_sets(engine.space.prior), strict=True))
        return float(shares.get(frozenset(("sensor",)), 0.0) / max(1.0 - shares.get(frozenset(), 0.0), 1e-9))

    def ranked(self) -> list[Scored]:
        """Readings worth taking next, best first; none once decided."""
        return self._ranked

    def before(self) -> dict[Component, float] | None:
        """Chance of each component before the newest reading that counts; None before the first."""
        places = [place for place, item in enumerate(self.job.readings) if item.counts]
        if not places:
            return None
        earlier = self.job.with_readings(self.job.readings[: places[-1]])
        return Assessment(earlier, self._store.bare_engine(earlier), self._store.converged(earlier)).components()

    def offered(self) -> list[Candidate]:
        """Readings that may be proposed now."""
        return self.proposing.offered()

    def reduced(self) -> ReducedProblem | None:
        """The small problem of the best readings; None where none is left."""
        return self.proposing.reduced(self._ranked) if self._ranked else None

    def forecast(self) -> Forecast:
        """What lies ahead: the remaining plan, the minutes to certainty, and whether certainty pays."""
        return forecast(self.standing, self.weighed.components(), self.reduced(), self.job.case.workshop)

    def _judged(self, judging: Judgements) -> list[Judged]:
        by_place = {item.place: item for item in self.weighed.taken}
        return [judging.judged(place, by_place.get(place)) for place in range(len(self.job.readings))]

    def _suspects(self) -> tuple[Suspect, ...]:
        table = faults()
        ranked = sorted(self.weighed.fault_chances.items(), key=lambda item: -item[1])
        return tuple(
            Suspect(fault=name, component=table[name].component, probability=round(share, 4), says=table[name].says)
            for name, share in ranked
        )

    def _without(self) -> dict[int, DecisionName]:
        """Reading -> the decision without it, where that would be another one."""
        if not self.standing.decided:
            return {}
        found = {}
        for item in self.weighed.taken[-_LOOKED_BACK:]:
            decision = self.weighed.without(item.place)
            if decision != self.standing.decision:
                found[item.place] = decision
        return found

    def _next(self, scored: Scored, judging: Judgements) -> Next:
        candidate = scored.candidate
        again = any(same_measurement(candidate, old) for old in self.job.counted)
        expected = judging.expect(candidate.probe)
        return Next(
            id=candidate.id,
            reading=candidate.probe,
            expect=expect_text(candidate, expected),
            minutes=max(1.0, round(scored.minutes)),
            why=why_next(candidate, self.weighed, self.standing, again),
            cautions=candidate.cautions,
            source=expected.source if expected else None,
        )


def _of(place: int, warned: Sequence[Warned]) -> tuple[WarningName, ...]:
    return tuple(item.warning for item in warned if item.reading == place)
