"""One field job put to the engine: after every reading of the person's, and with the engine proposing the readings itself."""

from collections.abc import Mapping
from copy import deepcopy
from dataclasses import dataclass, field, replace
from random import Random
from typing import Any, get_args

from dianoia.bench.bound import chances_of, fits, seen_at, shown_at
from dianoia.bench.work import mending
from dianoia.case.job import job_of
from dianoia.case.load import case_from_plain, to_plain
from dianoia.case.types import Cannot, Case
from dianoia.diagnosis.decision.checklist import checklist
from dianoia.diagnosis.decision.decide import Standing
from dianoia.diagnosis.faults.types import Component
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from dianoia.simulated.instruments import Bench
from dianoia.simulated.job import Job, Yard, work
from dianoia.simulated.people import STYLES

#: One job in so many is also worked with the engine's own proposals, and put to the calculation of what its readings can tell.
PLANNED_EVERY, TOLD_EVERY = 8, 8
#: Of a planned job: readings at most, and visits.
MOST, VISITS = 35, 3
#: Readings of its own that the engine takes from where the person stopped.
CONTINUED = 3
#: Magnitudes tried of every fault.
MAGNITUDES = 3


@dataclass(frozen=True)
class FieldStep:
    """Where the engine stood after a reading."""

    confidence: float
    right: bool
    """Its likeliest set is the truth."""
    decision: tuple[str, ...] | None
    """Its components, None for none."""
    wanted: tuple[str, ...] = ()
    """What the gate still asked for where all that is at fault was certain."""
    one_of: tuple[str, ...] = ()
    """Of a feed, the faults between its two points."""


@dataclass(frozen=True)
class Planned:
    """A job worked by the engine's proposals."""

    right: bool | None
    """The first decision's components are all at fault."""
    minutes: float
    readings: int
    visits: int
    parts_in_vain: int
    """Sensors and modules replaced that were good."""
    car_right: bool


@dataclass(frozen=True)
class FieldOutcome:
    """A field job."""

    number: int
    family: str
    style: str
    faults: tuple[str, ...]
    truth: tuple[str, ...]
    ordered: tuple[str, ...]
    steps: tuple[FieldStep, ...] = ()
    """After each reading up to the person's first order."""
    alarms: tuple[int, int] = (0, 0)
    """(of honest readings, of wrong ones)."""
    honest: int = 0
    judged: Mapping[str, int] = field(default_factory=dict)
    """Counts of honest readings by (what the sound car shows alike or not, the engine's result)."""
    planned: Planned | None = None
    tells: bool | None = None
    """Whether the readings suffice, None where it was not worked out."""
    shown: bool = False
    """Whether they show what the gates of all that is at fault ask for."""
    continued: FieldStep | None = None
    """Where it stood after at most ``CONTINUED`` readings of its own from there."""
    refitted: bool | None = None
    """Where a good sensor was condemned at the end, whether it still is once all has been read that is read before
    fitting.
    """
    problem: str = ""


def worked(seed: int, number: int) -> FieldOutcome:
    """The outcome of a job. What the engine falls over is an outcome, too."""
    job, yard, bench = work(seed, number)
    head = FieldOutcome(job.number, job.family, job.style, job.faults, tuple(sorted(job.truth)), tuple(job.ordered))
    try:
        return _worked(job, yard, bench, head)
    except Exception as problem:  # counted, and told by its name
        return replace(head, problem=f"{type(problem).__name__}: {problem}"[:200])


def _worked(job: Job, yard: Yard, bench: Bench, head: FieldOutcome) -> FieldOutcome:
    case = case_from_plain({**job.case, "readings": job.case["readings"][: job.first]})
    steps = [_step(replace(case, readings=case.readings[:count]), job.truth) for count in range(len(case.readings) + 1)]
    diagnosis = Diagnosis(job_of(case), plan=False)
    verdict = diagnosis.verdict()
    alarms = {item.reading for item in verdict.warnings if item.warning == "readings-contradict"}
    honest = [place for place in range(len(case.readings)) if place not in job.wrongly]
    sound = deepcopy(yard)
    sound.present, sound.wrong_part = [], 1.0
    sound.car = deepcopy(yard.sound)
    judged: dict[str, int] = {}
    for place in honest:
        alike = _alike(job.case["readings"][place], bench, sound)
        if alike is not None:
            name = f"{'healthy' if alike else 'failed'}, judged {verdict.judged[place].result}"
            judged[name] = judged.get(name, 0) + 1
    turn = job.number // len(STYLES)  # all styles alike
    return replace(
        head, steps=tuple(steps), alarms=(len(alarms & set(honest)), len(alarms - set(honest))), honest=len(honest),
        judged=judged, planned=planned(job, yard, bench) if turn % PLANNED_EVERY == 0 else None,
        tells=tells(job, yard, bench) if turn % TOLD_EVERY == 0 else None, shown=_shown(diagnosis, job.truth),
        continued=_continued(_EngineAtWork(case, deepcopy(yard), replace(bench, random=Random(job.number))), job.truth),
        refitted=_refitted(diagnosis, _EngineAtWork(case, deepcopy(yard), replace(bench, random=Random(job.number))), job.truth),
    )  # fmt: skip


def _shown(diagnosis: Diagnosis, truth: frozenset[str]) -> bool:
    """Whether nothing is wanted any more by the gate of any component at fault; where none is, of nothing at fault."""
    held = diagnosis.weighed.held
    components: frozenset[Component] = frozenset(name for name in get_args(Component) if name in truth)
    return all(item.status != "wanted" for item in checklist(held, components))


def _continued(bay: "_EngineAtWork", truth: frozenset[str]) -> FieldStep:
    """Where the engine stands after at most so many readings that it proposes itself."""
    for _ in range(CONTINUED):
        diagnosis = bay.diagnosis()
        ranked = [] if diagnosis.standing.decided else diagnosis.ranked()
        if not ranked:
            break
        bay.take(ranked[0])
    return _stands(Diagnosis(job_of(bay.case), plan=False), truth)


def _refitted(diagnosis: Diagnosis, bay: "_EngineAtWork", truth: frozenset[str]) -> bool | None:
    """Whether a good sensor that is condemned still is, once all is read that is read before fitting."""
    if "sensor" in truth or "sensor" not in (_decided(diagnosis.standing) or ()):
        return None
    for item in diagnosis.verdict().before_fitting:
        probe = to_plain(item.read)
        value = bay.value(probe)
        if value is not None:
            bay.add({**probe, "value": value})
    return "sensor" in (_decided(Diagnosis(job_of(bay.case), plan=False).standing) or ())


def _step(case: Case, truth: frozenset[str]) -> FieldStep:
    return _stands(Diagnosis(job_of(case), plan=False), truth)


def _stands(diagnosis: Diagnosis, truth: frozenset[str]) -> FieldStep:
    standing = diagnosis.standing
    certain = bool(truth) and truth <= diagnosis.weighed.held.certain and not standing.decided
    wanted = tuple(item.row.shown[0] for item in standing.wanted) if certain else ()
    one_of = (*standing.found, *standing.found_one_of) if "feed" in standing.components else ()
    return FieldStep(round(standing.confidence, 4), standing.components == truth, _decided(standing), wanted, one_of)


def _decided(standing: Standing) -> tuple[str, ...] | None:
    return tuple(sorted(standing.components)) if standing.decided else None


#: Of the second car's faults of the feed: what the engine calls them.
OF_FEED: Mapping[str, tuple[str, ...]] = {
    "fuse blown by age": ("fuse-blown",), "fuse blown by a short": ("wire-short-ground:heater_supply", "fuse-blown"), "relay dead": ("relay-open",),
    "feed joint burnt": ("supply-high",), "heater wire open": ("wire-open:heater_supply",), "heater wire corroded": ("wire-high:heater_supply",),
    "NOx feed corroded": ("wire-high:supply",), "NOx feed open": ("wire-open:supply",), "NOx fuse": ("fuse-blown",),
    "NOx relay or joint": ("relay-open", "supply-high"),
}  # fmt: skip


def is_right(
    decision: tuple[str, ...] | None, truth: tuple[str, ...], faults: tuple[str, ...] = (), one_of: tuple[str, ...] = ()
) -> bool | None:
    """Whether all that is to be mended is at fault; None where nothing is decided. Of a feed, whether the true fault is one of those
    between its two points. faults: of the second car, by name; one_of: see ``FieldStep``.
    """
    if decision is None:
        return None
    if not decision:
        return not truth
    fed = "feed" not in decision or any(name in one_of for fault in faults for name in OF_FEED.get(fault, ()))
    return fed and set(decision) - {"feed"} <= set(truth)


def _alike(reading: Mapping[str, Any], bench: Bench, other: Yard) -> bool | None:
    """Whether another car would show the same; None for looking and acting, and where nothing would be shown."""
    if reading["measure"] in ("inspect", "act"):
        return None
    shown = shown_at(other.car, bench, reading)
    return None if shown is None else fits(reading["value"], shown) > -3.0


def tells(job: Job, yard: Yard, bench: Bench) -> bool:
    """Whether the readings up to the first order give the true components 0.99 and more, by Bayes over this car's own faults."""
    chances = chances_of(job, yard, bench, MAGNITUDES)
    if not job.truth:
        return chances.get(job.truth, 0.0) >= 0.99
    return sum(chance for found, chance in chances.items() if job.truth <= found) >= 0.99


# ---- the engine's own proposals


@dataclass
class _EngineAtWork:
    """The engine at work on a car."""

    case: Case
    yard: Yard
    bench: Bench
    minutes: float = 0.0
    aside: set[str] = field(default_factory=set)

    def diagnosis(self) -> Diagnosis:
        cannot = tuple(Cannot(reading=name, reason="no such reading here") for name in sorted(self.aside))
        return Diagnosis(job_of(replace(self.case, cannot=cannot)), styled=False)

    def take(self, scored: Any) -> None:
        """The proposed reading, or it is put aside."""
        probe = to_plain(scored.candidate.probe)
        value = self.value(probe)
        if value is None:
            self.aside.add(scored.candidate.id)
            return
        self.minutes += scored.minutes
        self.add({**probe, "value": value})

    def add(self, reading: dict[str, Any]) -> None:
        plain = to_plain(self.case)
        self.case = case_from_plain({**plain, "readings": [*plain.get("readings", []), reading]})

    def value(self, probe: dict[str, Any]) -> Any:
        car = self.yard.car
        if probe["measure"] == "act":
            return self._done(probe["action"])
        if probe["measure"] == "inspect":
            return seen_at(self.yard.car, probe["target"], self.bench.random.random())
        other = self.yard.sound if self.yard.sways and self.yard.truth else None
        return replace(self.bench, car=car, other=other).read(probe, probe["measure"] == "scan")

    def _done(self, action: str) -> str | None:
        car, truth = self.yard.car, self.yard.truth
        if action == "clear-codes":
            if not truth:
                return "not-returned"
            return "returned-later" if car.plausible(car.sensor) else "returned-at-once"
        return "no-change" if action == "wiggle" else None


def _mended_first(decision: tuple[str, ...], truth: frozenset[str]) -> list[str]:
    """What is mended: of a feed, what is found at fault in it."""
    found = [name for name in ("supply", "wiring") if name in truth] or ["wiring"]
    return [name for component in decision for name in (found if component == "feed" else [component])]


def planned(job: Job, yard: Yard, bench: Bench) -> Planned:
    """The same car with the engine saying what to read, what to mend, and when the car is right."""
    bay = _EngineAtWork(
        case_from_plain({**job.case, "readings": []}), deepcopy(yard), replace(bench, random=Random(job.number))
    )
    first: bool | None = None
    at_first = (0.0, 0)
    vain = 0
    visits = 0
    while visits < VISITS and len(bay.case.readings) < MOST:
        diagnosis = bay.diagnosis()
        decision = _decided(diagnosis.standing)
        if decision is None:
            ranked = diagnosis.ranked()
            if not ranked:
                break
            bay.take(ranked[0])
            continue
        if first is None:
            standing = diagnosis.standing
            first, at_first = (
                is_right(decision, tuple(bay.yard.truth), job.faults, (*standing.found, *standing.found_one_of)),
                (bay.minutes, len(bay.case.readings)),
            )
        if not decision:
            break
        visits += 1
        for component in _mended_first(decision, bay.yard.truth):
            vain += component in ("sensor", "module") and component not in bay.yard.truth
            bay.yard.mend(component)
            bay.add({"measure": "act", "action": mending(component, diagnosis.standing), "value": "done"})
    if first is None:
        at_first = (bay.minutes, len(bay.case.readings))
    return Planned(first, round(at_first[0], 1), at_first[1], visits, vain, not bay.yard.truth)
