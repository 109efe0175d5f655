"""A job -> the verdict: belief, judgements, proofs, decision, next reading, warnings."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import cached_property

from dianoia.case.check import check
from dianoia.case.job import Job, job_of
from dianoia.case.ledger import Reading
from dianoia.case.terms import HeaterSwitch
from dianoia.case.types import Case
from dianoia.circuit.network import Array
from dianoia.diagnosis.belief import Belief
from dianoia.diagnosis.candidates import Candidate, asked, same_measurement
from dianoia.diagnosis.circuits import circuit_of, standing_circuit
from dianoia.diagnosis.costs import prices_of, stance_of
from dianoia.diagnosis.decide import (
    CODE_AWAY,
    COMMANDED,
    ELEMENT_APART,
    MODULE_POWER,
    SEEN_COMMANDED,
    Standing,
    standing,
)
from dianoia.diagnosis.evidence import Evidence, apply, slips, take_in
from dianoia.diagnosis.explain import because, decision_says, expect_text, reading_says, would_change
from dianoia.diagnosis.forecast import forecast
from dianoia.diagnosis.foresight import Foresight, foresee
from dianoia.diagnosis.learn import high_side_chance
from dianoia.diagnosis.plan import Aim, Scored, rank
from dianoia.diagnosis.proof import PartState, part_states, unproven
from dianoia.diagnosis.session import Circuit, is_battery, tools_missing
from dianoia.diagnosis.tables import faults
from dianoia.diagnosis.types import Forecast, Judged, Next, Proven, Suspect, Verdict, Warned
from dianoia.diagnosis.warn import View, warnings
from dianoia.diagnosis.why import why_next
from dianoia.quantities.types import Quantity
from dianoia.readings.instruments import measured
from dianoia.readings.judge import Expectation, expect, judge
from dianoia.readings.model import LoopModel

#: From this confidence on the next readings only confirm.
CONFIRMING = 0.85
#: What a gate wants -> the candidates that show it, the simplest first.
_ASKED_BY = {
    MODULE_POWER: ("module-ground",), COMMANDED: ("lamp-across",), CODE_AWAY: ("clear",),
    ELEMENT_APART: ("element",),
    SEEN_COMMANDED: ("scan-command-cleared", "control-commanded", "lamp-commanded"),
}  # fmt: skip
#: A reading is worth taking again from this chance of a slip on; and no reading is taken more often than this.
DOUBTED, TAKEN_AT_MOST = 0.2, 2
#: Another loop than the code's is searched from this chance of a fault in it on.
SUSPECTED = 0.3
#: A fault is listed as found from this chance on.
CERTAIN = 0.9
#: Readings looked at for "without this one"; beyond, only the newest.
_LOOKED_BACK = 12
_ALTERNATIVES = 2


def diagnose(case: Case) -> Verdict:
    """The verdict on a case. Raises RefusedInput where the case cannot be diagnosed."""
    check(case)
    diagnosis = Diagnosis(job_of(case))
    return replace(diagnosis.verdict(), forecast=diagnosis.forecast())


class Diagnosis:
    """One job worked through: what is believed after its readings, and what follows.

    plan: False leaves out what to measure next; styled: False favours no working style in it.
    """

    def __init__(self, job: Job, plan: bool = True, styled: bool = True) -> None:
        self.job = job
        self._style: str = job.case.style if styled else ""
        self._weigh(circuit_of(job), plan)
        if self.standing.decided:
            self._weigh(standing_circuit(job), plan)

    def _weigh(self, circuit: Circuit, plan: bool) -> None:
        """Weigh the ledger with a circuit, unless that is done, and see what follows."""
        job = self.job
        if self.__dict__.get("circuit") is circuit:
            return
        for name in ("aim", "_fault_chances", "_slips"):
            self.__dict__.pop(name, None)
        self._expected: dict[object, Expectation | None] = {}
        self.circuit: Circuit = circuit
        self.models = circuit.models_for(job)
        self.belief: Belief = self.circuit.belief(self.models)
        self.taken: list[Evidence] = take_in(self.belief, job.case.readings)
        self.posterior: Array = self.belief.posterior()
        self.states = self._states(self.belief, self.posterior, self.taken)
        self.standing: Standing = self._standing(self.posterior, self.states, job.case.readings)
        self._ranked = self._rank() if plan else []
        if plan and not self._ranked and not self.standing.decided:
            self.standing = replace(self.standing, exhausted=True)

    def verdict(self) -> Verdict:
        """Everything that can be said now."""
        meaning, prior = self.circuit.meaning, self.circuit.space.prior
        judged = self._judged()
        found = self._found()
        view = View(
            self.job, self.belief, meaning, self.posterior, self.states, self.standing,
            self._slips,
        )  # fmt: skip
        warned = warnings(view)
        proposals = self._proposals()
        return Verdict(
            decision=self.standing.decision,  # type: ignore[arg-type]
            says=decision_says(self.standing.decision, self.standing.components, found, self.standing.confidence),
            components=tuple(sorted(self.standing.components)) if self.standing.decided else self._certain(),  # type: ignore[arg-type]
            found=found,
            confidence=round(self.standing.confidence, 4),
            because=because(self.standing, found, judged, self.states, self.taken, meaning, prior),
            would_change_it=would_change(self.standing, self._without(), judged, self.states),
            suspects=self._suspects(),
            by_component=self._components(self.posterior),
            proven=tuple(Proven(part=part, by=state.by) for part, state in self.states.items() if state.proven),  # type: ignore[arg-type]
            unproven=unproven(self.states),  # type: ignore[arg-type]
            judged=tuple(replace(item, warnings=_of(item.reading, warned)) for item in judged),
            next=proposals[0] if proposals else None,
            alternatives=tuple(proposals[1:]),
            warnings=warned,
        )

    def before(self) -> dict[str, float] | None:
        """Chance of each component before the newest reading that counts; None before the first."""
        if not self.taken:
            return None
        newest = self.taken[-1]
        return self._components(self._belief_without(newest.place, self.taken[:-1]).posterior())

    def _components(self, posterior: Array) -> dict[str, float]:
        return {
            name: round(float(posterior[rows].sum()), 4) for name, rows in self.circuit.meaning.has_component.items()
        }

    def _states(self, belief: Belief, posterior: Array, taken: Sequence[Evidence]) -> dict[str, PartState]:
        return part_states(self.circuit.parts, belief, self.circuit.meaning, posterior, taken)

    def _standing(self, posterior: Array, states: dict[str, PartState], readings: Sequence[Reading]) -> Standing:
        meaning = self.circuit.meaning
        chances = meaning.of_sets(posterior)
        top = int(chances.argmax())
        each = {name: float(posterior[rows].sum()) for name, rows in meaning.has_component.items()}
        loop = self._loop_at_fault(posterior)
        silent = loop == "heater" and self._silent_driver(posterior)
        behind = self._behind_the_pin(posterior)
        return standing(
            meaning.sets[top], float(chances[top]), each, states, readings, loop, silent, behind, self._element_askable
        )

    @property
    def _element_askable(self) -> bool:
        out_of_reach = {item.reading for item in self.job.case.cannot}
        return not out_of_reach.issuperset(_ASKED_BY[ELEMENT_APART])

    def _behind_the_pin(self, posterior: Array) -> tuple[str, ...]:
        """The sensor's own part that an open pin of the plug looks like, where such a pin is the likeliest."""
        best = self.circuit.space.faults[int(posterior.argmax())]
        pins = [name.partition(":")[2] for name in best if name.startswith("pin-open:")]
        if not pins or self.circuit.focus == "nox":
            return ()
        return ("heater",) if pins[0].startswith("heater") else ("cell",)

    def _silent_driver(self, posterior: Array) -> bool:
        """Whether an open driver is likely, and a scan tool could tell whether it was asked to drive at all."""
        rows = self.circuit.meaning.has_fault.get("driver-open")
        out_of_reach = {item.reading for item in self.job.case.cannot}
        askable = "scan" not in tools_missing(self.job) and not out_of_reach.issuperset(_ASKED_BY[SEEN_COMMANDED])
        return askable and rows is not None and float(posterior[rows].sum()) > 0.5

    def _loop_at_fault(self, posterior: Array) -> str:
        """The loop the likeliest fault lies in; the code's own where there is none."""
        best = self.circuit.space.faults[int(posterior.argmax())]
        loops = faults()[best[0]].loop.split() if best else [self.circuit.focus]
        return self.circuit.focus if self.circuit.focus in loops else loops[0]

    def _certain(self) -> tuple[str, ...]:
        table = faults()
        return tuple(sorted({table[name].component for name in self._found()}))

    def _found(self) -> tuple[str, ...]:
        """Faults that are certain; at a decision, the likeliest of each component named, with its equals."""
        chance = self._fault_chances
        certain = [name for name, share in chance.items() if share >= CERTAIN]
        if not self.standing.decided:
            return tuple(certain)
        table = faults()
        listed = list(certain)
        for component in sorted(self.standing.components):
            own = {name: share for name, share in chance.items() if table[name].component == component}
            if not any(name in certain for name in own):
                best = max(own.values())
                listed += [name for name, share in own.items() if share >= 0.3 * best]
        return tuple(sorted(listed, key=lambda name: -chance[name]))

    @cached_property
    def _fault_chances(self) -> dict[str, float]:
        return {name: float(self.posterior[rows].sum()) for name, rows in self.circuit.meaning.has_fault.items()}

    def _suspects(self) -> tuple[Suspect, ...]:
        table = faults()
        ranked = sorted(self._fault_chances.items(), key=lambda item: -item[1])
        return tuple(
            Suspect(fault=name, component=table[name].component, probability=round(share, 4), says=table[name].says)
            for name, share in ranked
        )

    def _judged(self) -> list[Judged]:
        by_place = {item.place: item for item in self.taken}
        return [self._judge(place, by_place.get(place)) for place in range(len(self.job.case.readings))]

    def _judge(self, place: int, item: Evidence | None) -> Judged:
        reading = self.job.case.readings[place]
        if reading.struck is not None:
            return Judged(
                reading=place, expected="", against="computed", result="unclear", says=f"Struck: {reading.struck}."
            )
        expected = self._expect(reading)
        result, shown = judge(reading, expected)
        says = reading_says(reading, expected, result, item, self.circuit.meaning, self.circuit.space.prior)
        return Judged(
            reading=place, expected=expected.text if expected else "", against=expected.against if expected else "computed",
            result=result, says=says, low=_finite(expected.low if expected else None),
            high=_finite(expected.high if expected else None),
            value=_finite(shown.value) if isinstance(shown, Quantity) else None,
            kind=expected.kind if expected else None, source=expected.source if expected else None,
        )  # fmt: skip

    def _expect(self, probe: object) -> Expectation | None:
        key = measured(probe)
        if key not in self._expected:
            model = self._answering(probe)
            displays = model.displays(probe) if model else None  # type: ignore[arg-type]
            working = model.working(probe) if model and displays else None  # type: ignore[arg-type]
            self._expected[key] = expect(probe, self.job.case, displays, working)  # type: ignore[arg-type]
        return self._expected[key]

    def _answering(self, probe: object) -> LoopModel | None:
        models = self.circuit.models if is_battery(probe) else self.models
        return next((model for model in models if model.displays(probe)), None)  # type: ignore[arg-type]

    def _without(self) -> dict[int, str]:
        """Reading -> the decision without it, where that would be another one."""
        if not self.standing.decided:
            return {}
        found = {}
        for item in self.taken[-_LOOKED_BACK:]:
            decision = self.without(item.place)
            if decision != self.standing.decision:
                found[item.place] = decision
        return found

    def without(self, place: int) -> str:
        """The decision if the reading at ``place`` had not been taken."""
        kept = [item for item in self.taken if item.place != place]
        belief = self._belief_without(place, kept)
        posterior = belief.posterior()
        readings = [item for index, item in enumerate(self.job.case.readings) if index != place]
        return self._standing(posterior, self._states(belief, posterior, kept), readings).decision

    def _belief_without(self, place: int, kept: Sequence[Evidence]) -> Belief:
        left_out = next((item for item in self.taken if item.place == place), None)
        if left_out and left_out.fit is not None and not any(item.renewed for item in self.taken):
            belief = self.belief.copy()
            belief.update(left_out.loop, -left_out.fit)
            return belief
        belief = self.circuit.belief(self.models)
        for item in kept:
            apply(belief, item)
        return belief

    def ranked(self) -> list[Scored]:
        """Readings worth taking next, best first; none once decided."""
        return self._ranked

    def _rank(self) -> list[Scored]:
        if self.standing.decided:
            return []
        out_of_reach = {item.reading for item in self.job.case.cannot}
        offered = [item for item in self.offered() if item.id not in out_of_reach]
        if self.standing.proven and self.standing.wants:
            return self._wanted(offered)
        first, again = self._first_and_again(offered)
        return self._ordered(first) or self._wanted(offered) or self._ordered(again)

    def _ordered(self, candidates: Sequence[Candidate]) -> list[Scored]:
        """Best first: by information a minute, the best few compared by their whole way to the decision."""
        scored = rank(self.belief, self.circuit.meaning, self.posterior, candidates, self.aim)
        if len(scored) < 2:
            return scored
        foresight = self.foresight(scored)
        return [*foresight.ordered(self._style), *scored[len(foresight.options) :]]

    def foresight(self, scored: Sequence[Scored]) -> Foresight:
        """The small problem of the best of these readings."""
        loop = self._loop_at_fault(self.posterior)
        return foresee(self.belief, self.circuit.meaning, self.posterior, scored, self.aim, loop)

    def forecast(self) -> Forecast:
        """What lies ahead: the remaining plan, the minutes to certainty, and whether certainty pays."""
        foresight = self.foresight(self._ranked) if self._ranked else None
        return forecast(self.standing, self._components(self.posterior), foresight, self.job.case.workshop)

    @cached_property
    def aim(self) -> Aim:
        """What the next reading is for, and from where it is taken."""
        counted = [item for item in self.job.case.readings if item.struck is None]
        return Aim(
            needed=list(self.standing.missing), style=self._style, prices=prices_of(self.job),
            stance=stance_of(counted), confirming=self.standing.confidence > CONFIRMING,
        )  # fmt: skip

    def _first_and_again(self, offered: Sequence[Candidate]) -> tuple[list[Candidate], list[Candidate]]:
        """Candidates not taken since the last repair, or taken once and doubtful; and those that may be repeated."""
        since = max((item.place for item in self.taken if item.renewed), default=-1)
        fresh: dict[object, list[Reading]] = {}
        for item in self.job.case.readings[since + 1 :]:
            if item.struck is None:
                fresh.setdefault(asked(item), []).append(item)
        doubted = self._doubted() if fresh else frozenset()
        first, again = [], []
        for candidate in offered:
            before = [old for old in fresh.get(candidate.asks, ()) if same_measurement(candidate, old)]
            if not before or (len(before) < TAKEN_AT_MOST and all(id(old) in doubted for old in before)):
                first.append(candidate)
            elif len(before) < TAKEN_AT_MOST and candidate.probe.measure not in ("inspect", "act"):
                again.append(candidate)
        return first, again

    def offered(self) -> list[Candidate]:
        """Readings that may be proposed, of the code's own loop and of any other that is suspected by now."""
        suspected = {loop for loop, chance in self._loop_chances().items() if chance > SUSPECTED}
        offered = self.circuit.offered(self.job, suspected, self._switch())
        self.circuit.work_out_offered(offered)
        return offered

    def _switch(self) -> HeaterSwitch:
        """The side that the module switches, as far as the readings tell."""
        chance = high_side_chance(self.belief, self.posterior)
        return "high-side" if (chance or 0.0) > 0.5 else "low-side"

    def _loop_chances(self) -> dict[str, float]:
        table = faults()
        chances = dict.fromkeys(self.circuit.loops, 0.0)
        for name, chance in self._fault_chances.items():
            for loop in table[name].loop.split():
                if loop in chances:
                    chances[loop] += chance
        return chances

    def _doubted(self) -> frozenset[int]:
        """The readings (by identity) that may well be slips of the hand."""
        return frozenset(id(item.reading) for item in self.taken if self._slips.get(item.place, 0.0) > DOUBTED)

    @cached_property
    def _slips(self) -> Mapping[int, float]:
        return slips(self.belief, self.taken, self.posterior)

    def _wanted(self, offered: Sequence[Candidate]) -> list[Scored]:
        """What a gate asks for although it carries no news about the faults."""
        by_id = {item.id: item for item in (*self.circuit.offered(self.job), *offered)}
        asked = (self._simplest(want, by_id) for want in self.standing.wants)
        return [Scored(item, item.minutes, 0.0, 0.0) for item in asked if item is not None]

    def _simplest(self, want: str, offered: Mapping[str, Candidate]) -> Candidate | None:
        """The first candidate for what a gate wants that has not been taken and can be."""
        out_of_reach = {item.reading for item in self.job.case.cannot}
        taken = [item for item in self.job.case.readings if item.struck is None]
        listed = [offered[name] for name in _ASKED_BY[want] if name in offered and name not in out_of_reach]
        fresh = [item for item in listed if not any(same_measurement(item, old) for old in taken)]
        return next(iter(fresh or listed), None)

    def _proposals(self) -> list[Next]:
        return [self._next(item) for item in self.ranked()[: 1 + _ALTERNATIVES]]

    def _next(self, scored: Scored) -> Next:
        candidate = scored.candidate
        return Next(
            id=candidate.id,
            reading=candidate.probe,
            expect=expect_text(candidate, self._expect(candidate.probe)),
            minutes=round(scored.minutes, 1),
            why=why_next(
                candidate,
                self.belief,
                self.posterior,
                self.circuit.meaning,
                self.standing,
                any(same_measurement(candidate, old) for old in self.job.case.readings if old.struck is None),
            ),
            cautions=candidate.cautions,
        )


def _of(place: int, warned: Sequence[Warned]) -> tuple:  # type: ignore[type-arg]
    return tuple(item.warning for item in warned if item.reading == place)


def _finite(value: float | None) -> float | None:
    return value if value is not None and abs(value) < 1e11 else None
