"""The bound: what can be decided at all from a person's readings by Bayes that knows the second car.

Hypotheses are the second car's own faults by its own prevalences, each in many magnitudes, alone and in pairs. The physics is the second
car's own. The healthy values of this very vehicle and of the instruments are taken as known. No engine knows as much, so its
share of right decisions at the same thresholds is an upper bound, but for the limits that follow. A display is held against what the
instrument shows on each struck car with fixed spreads (``OFF_SHARE``, ``OFF_UNITS``), and magnitudes are a finite sample. A reading
that tells by less than these spreads tells nothing here.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from math import exp, inf, log
from pathlib import Path
from random import Random
from typing import Any

from dianoia.bench.figures import share
from dianoia.bench.lines import worked_through
from dianoia.diagnosis.decision.gates import gates
from dianoia.simulated.car import Car
from dianoia.simulated.faults import NONE, SWAYS, TWO, WRONG_PART, Fault, of_sensor
from dianoia.simulated.instruments import AWAY, Bench
from dianoia.simulated.job import Job, Yard, codes_of, noticed, work

#: Magnitudes tried of every fault, and of the second fault of a pair. Pairs are listed of so many faults, the likeliest ones alone.
MAGNITUDES, SECOND, PAIRED = 12, 2, 3
#: How often a code is drawn anew to find how likely a fault sets it.
CODES = 60
#: Share of readings that may be wrong, and log-likelihood of any display then.
WRONG, ANY = 0.05, -5.0
#: How far off a shown figure may be, as a share of it and in its unit.
OFF_SHARE = 0.06
OFF_UNITS: Mapping[str, float] = {"V": 0.06, "A": 0.03, "ohm": 0.4, "%": 3.0, "mA": 0.05, "": 0.02, "ppm": 12.0}
#: Log-likelihood where words differ, and of what a look or an act comes to that this car does not lead to.
OTHER_WORD, OTHER_OUTCOME = -6.0, -4.0


@dataclass(frozen=True)
class Bound:
    """A job's bound."""

    number: int
    named: tuple[str, ...]
    """Components at the thresholds."""
    right: bool | None
    """Whether all of them are at fault, None where none is named."""
    complete: bool
    """Whether they are all that is at fault."""


def run(jobs: int, seed: int, path: Path | None) -> Mapping[str, Any]:
    """The bound over field jobs 0 to ``jobs`` of a seed; progress goes to standard error.

    path: where each worked job is written to, a line of JSON; those that are there are not worked again. Raises RefusedInput
    where the file is of another engine or seed.
    """
    return {"seed": seed, **figures(worked_through(Bound, _one, jobs, seed, path))}


def figures(found: Sequence[Bound]) -> Mapping[str, Any]:
    """Shares of the jobs with their intervals: named rightly, named wrongly, all that is at fault named and nothing else."""
    jobs = len(found)
    return {
        "jobs": jobs,
        "right": share(sum(item.right is True for item in found), jobs),
        "wrong": share(sum(item.right is False for item in found), jobs),
        "complete": share(sum(item.complete for item in found), jobs),
    }


def _one(order: tuple[int, int]) -> Bound:
    return bound(*order)


def bound(seed: int, number: int) -> Bound:
    """What the readings up to a job's first order can decide."""
    job, yard, bench = work(seed, number)
    chances = chances_of(job, yard, bench, MAGNITUDES)
    thresholds = {str(name): chance for name, chance in gates().thresholds.items()}
    components = sorted({name for truth in chances for name in truth})
    each = {name: sum(chance for truth, chance in chances.items() if name in truth) for name in components}
    named = tuple(name for name in components if each[name] >= thresholds[name])
    if not named and chances.get(frozenset(), 0.0) >= gates().no_fault:
        return Bound(number, (), not job.truth, not job.truth)
    return Bound(number, named, set(named) <= job.truth if named else None, bool(named) and set(named) == job.truth)


def chances_of(job: Job, yard: Yard, bench: Bench, magnitudes: int) -> Mapping[frozenset[str], float]:
    """Sets of components at fault -> their chance after the readings up to the first order. magnitudes: tried of every fault."""
    readings = job.case["readings"][: job.first]
    code = job.case["codes"][0]["code"]
    sound = [_of_car(yard.sound, bench, reading) for reading in readings]
    weight: dict[frozenset[str], list[float]] = {}
    alone: dict[str, tuple[float, Fault, int]] = {}
    for struck, prior in _singles(yard, magnitudes):
        total = _told(struck, prior, code, bench, readings, sound)
        weight.setdefault(struck.truth, []).append(total)
        for fault, seed in struck.present:
            alone[fault.name] = max(alone.get(fault.name, (-inf, fault, seed)), (total, fault, seed), key=_first)
    for struck, prior in _pairs(yard, sorted(alone.values(), key=_first)[-PAIRED:]):
        weight.setdefault(struck.truth, []).append(_told(struck, prior, code, bench, readings, sound))
    top = max(max(item) for item in weight.values())
    chance = {truth: sum(exp(total - top) for total in item) for truth, item in weight.items()}
    whole = sum(chance.values())
    return {truth: item / whole for truth, item in chance.items()}


def _first(item: tuple[float, Fault, int]) -> float:
    return item[0]


def _singles(yard: Yard, magnitudes: int) -> Iterator[tuple[Yard, float]]:
    """Cars with no fault or one, and how usual each is before any code."""
    faults = of_sensor(yard.sound.sensor)
    whole = sum(item.weight for item in faults)
    yield Yard(yard.sound, []), NONE
    for fault in faults:
        for magnitude in range(magnitudes):
            seed = Random(f"{fault.name}/{magnitude}").getrandbits(32)
            yield Yard(yard.sound, [(fault, seed)]), (1.0 - NONE - TWO) * fault.weight / whole / magnitudes
    if yard.sound.sensor.element is not None and yard.sound.sensor.kind != "nox":
        for factor in (0.4, 2.4):
            yield Yard(yard.sound, [], wrong_part=factor), WRONG_PART / 2.0


def _pairs(yard: Yard, firsts: Sequence[tuple[float, Fault, int]]) -> Iterator[tuple[Yard, float]]:
    """Cars with one of these faults and any other, either of which came first."""
    faults = of_sensor(yard.sound.sensor)
    whole = sum(item.weight for item in faults)
    for _, first, seed in firsts:
        for fault in faults:
            if fault.component == first.component:
                continue
            prior = TWO * first.weight / whole * fault.weight / whole / SECOND
            for magnitude in range(SECOND):
                other = Random(f"{fault.name}/{magnitude}").getrandbits(32)
                for order in ([(first, seed), (fault, other)], [(fault, other), (first, seed)]):
                    yield Yard(yard.sound, order), prior


def _told(
    struck: Yard,
    prior: float,
    code: str,
    bench: Bench,
    readings: Sequence[Mapping[str, Any]],
    sound: Sequence[float],
) -> float:
    """Logarithm of a car's prior and of all that was read there; -inf where the module would not have noticed. sound: the readings'
    likelihoods on the sound car.
    """
    if not noticed(struck):
        return -inf
    of_code = sum(codes_of(Random(number), struck)[0]["code"] == code for number in range(CODES)) / CODES
    if not of_code:
        return -inf
    steady = [_of_car(struck.car, bench, reading) for reading in readings]
    total = sum(map(log, steady))
    if struck.present and struck.present[0][0].component == "wiring":
        away = sum(log((1.0 - AWAY) * here + AWAY * there) for here, there in zip(steady, sound, strict=True))
        total = max(total, away) + log(
            (1.0 - SWAYS) * exp(total - max(total, away)) + SWAYS * exp(away - max(total, away))
        )
    return log(prior) + log(of_code) + total


def _of_car(car: Car, bench: Bench, reading: Mapping[str, Any]) -> float:
    """Likelihood of a reading on a car, up to a constant; gross errors allowed for."""
    return (1.0 - WRONG) * exp(max(_near(car, bench, reading), -40.0)) + WRONG * exp(ANY)


def _near(car: Car, bench: Bench, reading: Mapping[str, Any]) -> float:
    if reading["measure"] == "act":
        due = {"clear-codes": ("returned-later", "returned-at-once") if not car.plausible(car.sensor) else ()}
        expected = due.get(reading["action"], ())
        return 0.0 if not expected or reading["value"] in expected else OTHER_OUTCOME
    if reading["measure"] == "inspect":
        return 0.0 if reading["value"] == seen_at(car, reading["target"], 0.0) else OTHER_OUTCOME
    shown = shown_at(car, bench, reading)
    return OTHER_WORD if shown is None else fits(reading["value"], shown)


def shown_at(car: Car, bench: Bench, reading: Mapping[str, Any]) -> Any:
    """What the person's own instruments show at another car; None where they show nothing."""
    probe = {name: value for name, value in reading.items() if name not in ("value", "moves")}
    return replace(bench, car=car, other=None, random=Random(1)).read(probe, ".." in str(reading["value"]))


def seen_at(car: Car, target: str, luck: float) -> str:
    """What a look at a part comes to. luck: 0 to 1; corrosion in a plug is overlooked from 0.6 on."""
    poor = any("pin" in wire.faults for wire in car.sensor.wires.values())
    leak = max(car.engine.leak_front.get(car.sensor.bank, 0.0), car.engine.leak_rear.get(car.sensor.bank, 0.0))
    seen = {"fuse": "blown" if car.feed.blown else "ok", "exhaust": "leak" if leak > 0.03 else "ok",
            "pins": "corroded" if poor else "ok", "connector": "corroded" if poor and luck < 0.6 else "ok"}  # fmt: skip
    return seen.get(target, "ok")


def fits(noted: Any, shown: Any) -> float:
    """Log-likelihood of what was noted where the instrument would show something, up to a constant: the sum over figures of
    minus half the square of how many times off it is.
    """
    if isinstance(noted, dict):
        both = [name for name in noted if isinstance(shown, dict) and name in shown]
        return sum(fits(str(noted[name]), str(shown[name])) for name in both)
    ours, theirs = _figures(str(noted)), _figures(str(shown))
    if ours is None or theirs is None:
        return 0.0 if noted == shown else OTHER_WORD
    (first, unit), (second, _) = ours, theirs
    if len(first) != len(second):
        first, second = (min(first), max(first)), (min(second), max(second))
    return sum(_off(a, b, unit) for a, b in zip(first, second, strict=True))


def _off(a: float, b: float, unit: str) -> float:
    if a == inf or b == inf:
        big = min(a, b)
        return 0.0 if a == b else -2.0 if big > 3e6 else -20.0
    if unit == "ohm" and min(abs(a), abs(b)) > 20.0:
        return -min(0.5 * (log(abs(a) / abs(b)) / 0.35) ** 2, 20.0)
    spread = OFF_UNITS.get(unit, 0.05) + OFF_SHARE * max(abs(a), abs(b))
    return -min(0.5 * ((a - b) / spread) ** 2, 20.0)


def _figures(text: str) -> tuple[tuple[float, ...], str] | None:
    if text == "OL":
        return (inf,), "ohm"
    parts = text.split("..")
    number, _, unit = parts[-1].partition(" ")
    scale = {"k": 1e3, "M": 1e6}.get(number[-1:], 1.0)
    try:
        values = tuple(float(part.split()[0].rstrip("kM")) * scale for part in (*parts[:-1], number))
    except (ValueError, IndexError):
        return None
    return values, "ohm" if scale != 1.0 else unit.strip()
