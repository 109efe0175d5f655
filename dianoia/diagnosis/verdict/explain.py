"""Sentences: specific ones, that name the reading, the value, the expected range and the part."""

from collections.abc import Mapping, Sequence

import numpy as np

from dianoia.case.job import Job
from dianoia.case.measures import Probe
from dianoia.case.measures.state import TAKEN_AWAY, part_read
from dianoia.case.observed import Observed
from dianoia.case.points import words
from dianoia.circuit.network import Array
from dianoia.diagnosis.catalogue.candidates import Candidate
from dianoia.diagnosis.decision.assessment import Assessment
from dianoia.diagnosis.decision.decide import DecisionName, Standing
from dianoia.diagnosis.faults.observations import observation
from dianoia.diagnosis.faults.partition import Partition
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Component, Part
from dianoia.diagnosis.inference.engine import Engine
from dianoia.diagnosis.inference.evidence import Evidence
from dianoia.diagnosis.verdict.speaking import TELLS, log_ratios
from dianoia.diagnosis.verdict.types import Judged, Verdict
from dianoia.diagnosis.verdict.vocabulary import COMPONENTS, PARTS, RESULTS
from dianoia.quantities.show import percent
from dianoia.readings.describe import describe_reading
from dianoia.readings.judge import Expectation, Result


def reading_says(
    reading: Observed, expected: Expectation | None, result: Result, raised: Sequence[str], unless: str = ""
) -> tuple[str, str]:
    """One line on a reading by itself (value, place, range, what it means), and only what it means.

    expected: None where nothing is weighed; raised: the faults that it alone points to; unless: what else
    shows it.
    """
    noted = _noted(reading)
    if noted is not None:
        return noted, noted
    if reading.probe.of is not None and (expected is None or not expected.text):
        told = f"To compare with {part_read(reading.probe.of)}."
        return told, told
    if expected is None:
        silent = "Noted. No expected range is known for this reading."
        return silent, silent
    held = f" Should read {expected.text}." if expected.text else ""
    text = f"{reading.said} {reading.probe.where}: {RESULTS[result].sentence.lower()}.{held}"
    if reading.probe.of is not None:
        means = _of_other(reading.probe, reading.probe.of, result)
        return f"{text} {means}", means
    if unless:
        return f"{text} {unless}", unless
    if not raised:
        return text, f"{RESULTS[result].sentence}."
    points = f"Points to: {' or '.join(faults()[name].says for name in raised)}."
    return f"{text} {points}", points


def _noted(reading: Observed) -> str | None:
    """What is said of a reading that no range is held against; None for one of an instrument at this sensor."""
    probe = reading.probe
    shown = probe.by_hand or probe.scanned == "heater_monitor"
    seen = observation(probe, str(reading.value)) if shown else None
    if seen is not None:
        return seen.says
    return "Noted." if probe.by_hand else None


def _of_other(probe: Probe, of: str, result: Result) -> str:
    """What a reading of another part means: of one by itself, of this sensor elsewhere, of another sensor, or of this circuit."""
    part = part_read(of)
    if result == "fail" and (probe.on_the_part or of == "old"):
        return f"{_capital(part)} is itself bad."
    if result == "fail" and of == TAKEN_AWAY:
        return "The fault went along with this sensor."
    if result == "fail" and of.startswith("B"):
        return f"{_capital(part)} has a fault of its own, or shares one with this sensor."
    if result == "fail":
        return f"Still bad with {part}: the fault is not in the sensor alone."
    return f"{_capital(part)} reads good." if result == "pass" else f"To compare with {part}."


def raised_faults(item: Evidence, partition: Partition, prior: Array, most: int = 3) -> list[str]:
    """The faults a reading alone raises most, best first, those that share its best explanation."""
    weighted = prior * np.exp(item.odds - item.odds.max())
    usual = float(weighted.sum() / prior.sum())
    ratio = {
        name: float(weighted[rows].sum() / prior[rows].sum()) / max(usual, 1e-300)
        for name, rows in partition.has_fault.items()
    }
    best = sorted(ratio, key=lambda name: -ratio[name] * _weight(name))
    top = ratio[best[0]] if best else 0.0
    return [name for name in best[:most] if ratio[name] > 1.5 and ratio[name] > 0.25 * top]


def _weight(name: str) -> float:
    return faults()[name].weight ** 0.5


def because(seen: Assessment, standing: Standing, found: Sequence[str], judged: Sequence[Judged]) -> tuple[str, ...]:
    """The evidence for where the job stands, strongest first."""
    lines = []
    taken = seen.taken
    by_place = {item.reading: item for item in judged}
    speaks = _for_found(taken, found or standing.found_one_of, seen.engine)
    speaking = sorted(range(len(taken)), key=lambda number: -speaks[number])[:4]
    telling = [taken[number] for number in speaking if speaks[number] > TELLS and taken[number].place in by_place]
    lines += [f"Reading {item.place + 1}: {by_place[item.place].says}" for item in telling]
    for part, state in seen.states.items():
        if state.proven:
            listed = ", ".join(str(place + 1) for place in state.by)
            plural = "readings" if len(state.by) > 1 else "reading"
            lines.append(f"{_capital(PARTS[part].phrase)} is proven by {plural} {listed}.")
    if not lines:
        lines.append("No reading points to one component yet: the order shows only how often each is at fault.")
    return tuple(lines)


def _for_found(taken: Sequence[Evidence], found: Sequence[str], engine: Engine) -> list[float]:
    """Log-odds by which each reading alone speaks for what was found (or for no fault)."""
    partition, prior = engine.partition, engine.space.prior
    rows = np.zeros(len(prior), dtype=bool)
    for name in found:
        rows |= partition.has_fault[name]
    if not found:
        rows = partition.set_of == partition.sets.index(frozenset())
    return log_ratios(taken, rows, prior)


#: Chances from which the likeliest is called as good as certain (once decided), likely, and likelier than not.
_CERTAIN, _LIKELY, _LIKELIER = 0.99, 0.8, 0.5
#: A fault below this chance is not listed as still possible, and so many are at the most.
_POSSIBLE, _LISTED = 0.02, 5


def how_sure(standing: Standing, chances: Mapping[Component, float]) -> str:
    """How sure the likeliest is, in a sentence; only a decision is called enough to act. chances: of each component to be at fault."""
    if not standing.components:
        return f"{_sureness(standing)}: nothing at fault now, {percent(standing.confidence)}."
    named = [name for name in sorted(standing.components) if name in chances]
    each = ", ".join(f"{COMPONENTS[name].label} {percent(chances[name])}" for name in named)
    return f"{_sureness(standing)}: {each}." if each else f"{_sureness(standing)}."


def _sureness(standing: Standing) -> str:
    if standing.decided:
        return "As good as certain" if standing.confidence >= _CERTAIN else "Sure enough to act"
    if standing.confidence >= _LIKELY:
        return "Likely, not yet enough to act"
    return "More likely than not" if standing.confidence >= _LIKELIER else "Not settled"


def still_open(verdict: Verdict, standing: Standing) -> tuple[str, ...]:
    """What is not proven, what other component may be at fault than the likeliest, and the traps the job is in."""
    others = [
        item
        for item in verdict.suspects
        if item.probability >= _POSSIBLE
        and item.component not in standing.components
        and item.fault not in verdict.found
    ]
    return (
        *(f"Not proven either way: {PARTS[part].phrase}." for part in verdict.unproven),
        *(f"Still possible: {item.says} ({percent(item.probability)})." for item in others[:_LISTED]),
        *(item.says for item in verdict.warnings),
    )


def settled_by(part: Part) -> str:
    """What settles a part that is not proven."""
    return _SETTLED_BY.get(part, _BY_READINGS)


_UNDER_LOAD = "a reading under load"
#: What settles a part that is not proven.
_SETTLED_BY: Mapping[Part, str] = {
    "supply": _UNDER_LOAD, "control": _UNDER_LOAD, "driver": _UNDER_LOAD, "ground": _UNDER_LOAD,
    "heater": "its resistance with the plug apart, at a known temperature",
}  # fmt: skip
_BY_READINGS = "a reading that would show its open and its short"


def _would_be(decision: str) -> str:
    if decision == "keep-testing":
        return "nothing could be decided yet"
    return f"the decision would be: {decision.replace('-', ' ')}"


def would_change(seen: Assessment, standing: Standing, without: Mapping[int, DecisionName]) -> tuple[str, ...]:
    """What would overturn or complete where the job stands. without: the decision without a reading, by its place."""
    states = seen.states
    lines = [
        f"Without reading {place + 1} ({_short(seen.job.readings[place])}) {_would_be(decision)}."
        for place, decision in without.items()
    ]
    lines += [
        f"{_capital(PARTS[part].phrase)} is not proven. "
        f"It takes {settled_by(part)}."
        for part in standing.missing if part in states
    ]  # fmt: skip
    lines += [f"Still wanted: {item.because}." for item in standing.wanted if item.because]
    lines += [f"Not ruled out besides: {faults()[name].says}." for name in standing.holding]
    if not lines:
        lines.append("One of the readings above, taken again with another result.")
    return tuple(lines)


def _short(reading: Observed) -> str:
    words = describe_reading(reading)
    return f"{words.short_step}: {words.value}" if reading.probe.by_hand else f"{words.value} {reading.probe.where}"


#: Of faults that are not told apart so many are named at the most.
NAMED = 3


def decision_says(standing: Standing, sits_at: str | None = None) -> str:
    """The decision in one sentence. sits_at: where the sensor in question is after a swap."""
    table = faults()
    if standing.decision == "no-fault-now":
        return "Every part of the circuit is proven and the code has not come back: no fault now."
    if standing.decision == "keep-testing":
        likely = " and ".join(COMPONENTS[name].phrase for name in sorted(standing.components)) or "no fault at present"
        return f"Keep testing: {likely} is likeliest, and not yet proven."
    if standing.between and standing.components == frozenset(("feed",)):
        good, bad = (words(point) for point in standing.between)
        return f"The feed is bad between {good} and {bad}. Read the points between to find where, then mend it there."
    found = [name for name in standing.found if table[name].component in standing.components]
    sure = " and ".join(dict.fromkeys(table[name].says for name in found))
    either = list(dict.fromkeys(table[name].says for name in standing.found_one_of))
    many = len(either) > NAMED
    if many:
        either = [*either[: NAMED - 1], f"one of {len(either) - NAMED + 1} other faults of it"]
    what = "; ".join(item for item in (sure, " or ".join(either)) if item)
    mends = dict.fromkeys(table[name].mend for name in (*found, *(() if many else standing.found_one_of)))
    mend = "; ".join((*mends, *(("read on to tell which, then mend that one",) if many else ())))
    place = f"; it sits at {sits_at} since the swap" if sits_at and "sensor" in standing.components else ""
    return f"{_capital(what)}: {mend}{place}."


def family_says(job: Job) -> str:
    """Which kind of sensor it is taken for, and what told; empty where it was given, or is the only one it can be."""
    if len(job.families) == 1:
        return ""
    why = job.taken_for or "the usual kind for this code"
    return f"Taken for {job.family.label.lower()}: {why}. If you know the kind, say it with this sensor's figures."


def expect_text(candidate: Candidate, expected: Expectation | None) -> str:
    """What a sound circuit shows at a proposed reading."""
    if expected is not None:
        return expected.text
    return "the code stays away" if candidate.probe.acted is not None else "ok"


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]
