"""Mixture: what the gas is at each sensor, moment by moment, and what the module makes of the sensor's answer.

A fuel trim follows the front sensor of its bank: for a switching one by a jump at each crossing and a ramp between
(limit cycle), for a continuous one in proportion. The gas arrives after a dead time; the catalyst stores oxygen and
gives it back, so that behind it lambda stays near one until the store is full or empty.
"""

from collections import deque
from dataclasses import dataclass, field
from math import exp, sin
from random import Random

import numpy as np

from dianoia.simulated.parts import between
from dianoia.simulated.sensor import Sensor

#: Step of the simulation, in seconds.
STEP_S = 0.02
#: A switching control's jump and ramp: 1.5 to 3 % at each crossing, 2 to 5 % a second (control texts).
JUMP, RAMP_PER_S = (0.012, 0.028), (0.015, 0.05)
#: Gas takes from the valve to the front sensor so long, in seconds: at idle 0.25 to 0.5, at 2500 rpm a third of it.
DEAD_TIME_S = (0.22, 0.5)
#: Trims are stopped at so much either way.
SHORT_LIMIT, LONG_LIMIT = 0.25, (0.2, 0.36)
#: Cylinders differ, and modules stir the gas for the catalyst's sake: some tenths of a percent, at about one hertz.
STIRRED, STIR_RATE = 0.006, 6.0
#: Width in lambda of the Nernst step at working temperature.
STEP_WIDTH = 0.0016
#: Share of a cell's answer that must reach the module's input before the loop is closed on it. Given with a bias inside the swing, and with
#: one above it (a cell of a third of the bias's own resistance).
FOLLOWED, FOLLOWED_READY = 0.15, 0.75
#: Lambda of what is done to the engine.
STIMULI = {"rich": 0.9, "lean": 1.12, "fuel-cut": 6.0, "fresh-air": 30.0}


@dataclass
class Engine:
    """The engine, as far as a place depends on it."""

    base_lean: dict[int, tuple[float, float]]
    """How much too lean the mixture is at idle and at speed without any correction (0.1 is 10 %; negative: rich),
    for each bank.
    """
    leak_front: dict[int, float]
    """Air drawn in ahead of that sensor at idle, as lambda added."""
    leak_rear: dict[int, float]
    """Air drawn in ahead of that sensor at idle, as lambda added."""
    store: dict[int, float]
    """What the catalyst holds, in seconds of lambda 1.01; 2 and more when new."""
    jump: float
    ramp: float
    dead_time: float
    long_limit: float
    idle_rpm: float

    def base(self, bank: int, rpm: float) -> float:
        """The error of the mixture at a speed; air that is not metered matters less the more is metered."""
        idle, fast = self.base_lean.get(bank, (0.0, 0.0))
        share = min(max((rpm - self.idle_rpm) / 1800.0, 0.0), 1.0)
        return idle + (fast - idle) * share


@dataclass
class Run:
    """A stretch of running: t in seconds."""

    t: np.ndarray
    front: np.ndarray
    """Lambda at the sensors."""
    rear: np.ndarray
    """Lambda at the sensors."""
    answer: np.ndarray
    """Volts of the front cell (amperes of a current cell)."""
    rear_answer: np.ndarray
    short: np.ndarray
    """Trims, 0.1 for 10 %."""
    long: float
    """Trims, 0.1 for 10 %."""
    closed: bool
    """Whether the loop is."""


def new_engine(random: Random) -> Engine:
    """A sound one."""
    return Engine(
        base_lean={bank: (random.gauss(0.0, 0.025), random.gauss(0.0, 0.02)) for bank in (1, 2)},
        leak_front={1: 0.0, 2: 0.0}, leak_rear={1: 0.0, 2: 0.0}, store={bank: between(random, (2.0, 6.0)) for bank in (1, 2)},
        jump=between(random, JUMP), ramp=between(random, RAMP_PER_S), dead_time=between(random, DEAD_TIME_S),
        long_limit=between(random, LONG_LIMIT), idle_rpm=between(random, (640.0, 850.0)),
    )  # fmt: skip


def nernst(sensor: Sensor, lam: float) -> float:
    """A zirconia cell's voltage in a gas, in volts."""
    cell = sensor.cell
    place = (lam + cell.off - 1.0) / STEP_WIDTH
    return cell.lean_v + (cell.rich_v - cell.lean_v) / (1.0 + exp(min(max(place, -40.0), 40.0)))


def limiting_amps(sensor: Sensor, lam: float) -> float:
    """A current cell's, or a pump's, in amperes: nothing at lambda one, positive lean."""
    shifted = lam + sensor.cell.off - 1.0
    size = sensor.cell.slope_a * shifted * (1.0 if shifted > 0 else 1.5)
    return min(max(size, -4e-3), 4e-3)


def _followed_from(front: Sensor) -> float:
    """The share of a switching cell's answer from which the module follows it. A bias above the cell's swing is there to tell a cell
    that is not ready: the module waits until the cell pulls its input down.
    """
    return FOLLOWED_READY if front.kind == "switching" and front.bias_v > front.cell.rich_v else FOLLOWED


def answer_of(sensor: Sensor, lam: float) -> float:
    """What the cell makes of a gas: volts, or amperes of a current cell."""
    return limiting_amps(sensor, lam) if sensor.kind in ("current", "two-cell") else nernst(sensor, lam)


def followed(front: Sensor, seen: tuple[float, float]) -> bool:
    """Whether the module closes the loop on what it sees of the front cell's answer (an offset in volts and a share).

    A signal that stands still near its bias is taken for a cold sensor; one at nought for lean.
    """
    return front.kind in ("current", "two-cell") or seen[1] > _followed_from(front) or abs(seen[0]) < 0.1


@dataclass(slots=True)
class Conditions:
    """What one bank is driven with over a stretch of time."""

    rpm: float
    """Engine speed."""
    asked: float | None
    """Lambda of the mixture that is forced; None where the module meters it."""
    seen: tuple[float, float]
    """What reaches the module of the front cell's answer: an offset in volts and a share."""
    alive: tuple[bool, bool]
    """Whether the front and the rear cell are hot and whole."""
    closed: bool
    """Whether the module corrects the mixture by the front sensor."""
    learning: float = 0.03
    """Share of the short trim that is learnt each second."""
    leaks: bool = True
    """Whether air that leaks in ahead of the front sensor counts; not where the gas is air in any case."""


@dataclass(slots=True)
class Samples:
    """One bank moment by moment, ``STEP_S`` apart."""

    front: list[float] = field(default_factory=list)
    """Lambda at the front sensor."""
    rear: list[float] = field(default_factory=list)
    """Lambda at the rear sensor."""
    answer: list[float] = field(default_factory=list)
    """Of the front cell, in volts (amperes of a current cell)."""
    rear_answer: list[float] = field(default_factory=list)
    """Of the rear cell, in volts."""
    short: list[float] = field(default_factory=list)
    """Short trim, 0.1 for 10 %."""

    def keep(self, steps: int) -> None:
        """Forget all but the last so many steps."""
        for name in ("front", "rear", "answer", "rear_answer", "short"):
            del getattr(self, name)[:-steps]


class MixtureLoop:
    """Mixture, fuel trims and catalyst of one bank, stepped in time."""

    def __init__(self, engine: Engine, front: Sensor, rear: Sensor) -> None:
        self.engine, self.front, self.rear = engine, front, rear
        self.trim = self.long_trim = 0.0
        self.capacity = engine.store.get(front.bank, 2.0) * 0.01
        self.stored = 0.5 * self.capacity
        self.answer, self.rear_answer = answer_of(front, 1.0), answer_of(rear, 1.0)
        self.line = deque([1.0 + engine.base(front.bank, engine.idle_rpm)])
        self.lean_before = False
        self.step = 0

    def advance(self, steps: int, given: Conditions, into: Samples | None = None) -> None:
        """Run so many steps of ``STEP_S``; each is appended to ``into``."""
        engine, front, rear, line = self.engine, self.front, self.rear, self.line
        slowed = engine.idle_rpm / max(given.rpm, 300.0)
        delay = max(int(engine.dead_time * slowed / STEP_S), 1)
        leak = engine.leak_front.get(front.bank, 0.0) * min(slowed, 1.0) ** 1.3 if given.leaks else 0.0
        behind = engine.leak_rear.get(front.bank, 0.0) * min(slowed, 1.0) ** 1.3
        base = engine.base(front.bank, given.rpm)
        line.extend([line[-1]] * (delay - len(line)))
        for _ in range(steps):
            made = self._made(base) if given.asked is None else given.asked
            line.append(made)
            while len(line) > delay + 1:
                line.popleft()
            gas = line.popleft() + leak
            if given.alive[0]:
                wanted = answer_of(front, gas)
                tau = front.cell.rise_s if wanted > self.answer else front.cell.fall_s
                self.answer += (wanted - self.answer) * min(STEP_S / tau, 1.0)
            if given.closed and given.asked is None:
                self._correct(given.seen[0] + given.seen[1] * self.answer, given.learning)
            after = self._through_catalyst(gas) + behind
            if given.alive[1]:
                self.rear_answer += (answer_of(rear, after) - self.rear_answer) * min(
                    STEP_S / (2.5 * rear.cell.rise_s), 1.0
                )
            self.step += 1
            if into is not None:
                into.front.append(gas)
                into.rear.append(after)
                into.answer.append(self.answer)
                into.rear_answer.append(self.rear_answer)
                into.short.append(self.trim)

    def _made(self, base: float) -> float:
        return (1.0 + base + STIRRED * sin(STIR_RATE * self.step * STEP_S)) / (
            (1.0 + self.trim) * (1.0 + self.long_trim)
        )

    def _correct(self, shown: float, learning: float) -> None:
        """Move the trims by what the module sees: in proportion for a continuous sensor, by jump and ramp for a switching one."""
        engine, front = self.engine, self.front
        if front.kind in ("current", "two-cell"):
            self.trim += 0.9 * shown / front.cell.slope_a * STEP_S
        else:
            switch_at = 0.45 if front.kind == "switching" else 0.5 * (front.cell.rich_v + front.cell.lean_v)
            lean = shown < switch_at
            jumped = engine.jump if lean != self.lean_before else 0.0
            self.lean_before = lean
            self.trim += (1 if lean else -1) * (jumped + engine.ramp * STEP_S)
        learnt = learning * self.trim * STEP_S
        self.long_trim = min(max(self.long_trim + learnt, -engine.long_limit), engine.long_limit)
        self.trim = min(max(self.trim - learnt, -SHORT_LIMIT), SHORT_LIMIT)

    def _through_catalyst(self, gas: float) -> float:
        """Lambda behind the catalyst: its store takes up what is over and gives what is short."""
        self.stored += (gas - 1.0) * STEP_S
        if self.stored > self.capacity:
            self.stored = self.capacity
            return gas
        if self.stored < 0.0:
            self.stored = 0.0
            return gas
        return 0.9986 + 0.0009 * (self.stored / max(self.capacity, 1e-6))


def stimulus(condition: str, since_s: float) -> float | None:
    """Lambda that a condition forces so long after its start; None where it forces none (any more).

    A snap of the throttle: rich while the wall film follows, then fuel cut.
    """
    if condition != "snap":
        return STIMULI.get(condition)
    return 0.86 if since_s < 1.6 else 5.0 if since_s < 3.4 else None


def run(
    engine: Engine, front: Sensor, rear: Sensor, seconds: float, rpm: float, condition: str = "",
    seen: tuple[float, float] = (0.0, 1.0), alive: tuple[bool, bool] = (True, True),
) -> Run:  # fmt: skip
    """Let it run, settled. condition: what is done to it; seen: what reaches the module of the front cell's answer, an offset
    and a share; alive: whether front and rear cell are hot and whole.
    """
    loop, samples = MixtureLoop(engine, front, rear), Samples()
    loop.line = deque([1.0 + engine.base(front.bank, rpm)])
    closed = alive[0] and followed(front, seen)
    given = Conditions(rpm, None, seen, alive, closed, learning=0.6, leaks=condition != "fresh-air")
    loop.advance(int(12.0 / STEP_S), given)
    given.learning = 0.03
    for step in range(int(seconds / STEP_S)):
        given.asked = stimulus(condition, step * STEP_S)
        loop.advance(1, given, samples)
    t = np.arange(len(samples.front)) * STEP_S
    front_gas, rear_gas, answer, rear_answer, short = map(
        np.array, (samples.front, samples.rear, samples.answer, samples.rear_answer, samples.short)
    )
    return Run(t, front_gas, rear_gas, answer, rear_answer, short, loop.long_trim, closed)
