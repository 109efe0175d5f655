"""Mixture: what the gas is at each sensor, moment by moment, and what the module makes of the sensor's answer.

A fuel trim follows the front sensor of its bank: for a switching one by a jump at each crossing and a ramp between
(limit cycle), for a continuous one in proportion. The gas arrives after a dead time; the catalyst stores oxygen and
gives it back, so that behind it lambda stays near one until the store is full or empty.
"""

from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass
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
#: A loop is let run so long before it is looked at, in seconds.
SETTLES_S = 20.0
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


def answering(sensor: Sensor) -> Callable[[float], float]:
    """What the sensor's cell makes of a gas's lambda.

    Volts of a zirconia cell (Nernst's step, smoothed), amperes of a current cell or a pump: nothing at lambda one, positive lean.
    """
    cell = sensor.cell
    lean_v, span_v, off, slope = cell.lean_v, cell.rich_v - cell.lean_v, cell.off - 1.0, cell.slope_a

    def volts(lam: float) -> float:
        place = (lam + off) / STEP_WIDTH
        if place > 40.0:
            return lean_v
        return lean_v + span_v / (1.0 + exp(place if place > -40.0 else -40.0))

    def amps(lam: float) -> float:
        shifted = lam + off
        return min(max(slope * shifted * (1.0 if shifted > 0 else 1.5), -4e-3), 4e-3)

    return amps if sensor.kind in ("current", "two-cell") else volts


def answer_of(sensor: Sensor, lam: float) -> float:
    """What the cell makes of one gas, see ``answering``."""
    return answering(sensor)(lam)


def _followed_from(front: Sensor) -> float:
    """The share of a switching cell's answer from which the module follows it. A bias above the cell's swing is there to tell a cell
    that is not ready: the module waits until the cell pulls its input down.
    """
    return FOLLOWED_READY if front.kind == "switching" and front.bias_v > front.cell.rich_v else FOLLOWED


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


#: One bank at one moment: lambda at the front and at the rear sensor, answers of both cells (volts, amperes of a current cell), short
#: trim (0.1 for 10 %).
Sample = tuple[float, float, float, float, float]


class MixtureLoop:
    """Mixture, fuel trims and catalyst of one bank, stepped in time."""

    def __init__(self, engine: Engine, front: Sensor, rear: Sensor) -> None:
        self.engine, self.front, self.rear = engine, front, rear
        self.trim = self.long_trim = 0.0
        self.capacity = engine.store.get(front.bank, 2.0) * 0.01
        self.stored = 0.5 * self.capacity
        self._answers, self._rear_answers = answering(front), answering(rear)
        self.answer, self.rear_answer = self._answers(1.0), self._rear_answers(1.0)
        self.line = deque([1.0 + engine.base(front.bank, engine.idle_rpm)])
        self.lean_before = False
        self.step = 0
        self._switch_at = 0.45 if front.kind == "switching" else 0.5 * (front.cell.rich_v + front.cell.lean_v)
        self._correct = self._by_size if front.kind in ("current", "two-cell") else self._by_jumps

    def advance(self, steps: int, given: Conditions, into: list[Sample] | None = None) -> None:
        """Run so many steps of ``STEP_S``; each is appended to ``into``."""
        engine, front, rear, line = self.engine, self.front, self.rear, self.line
        slowed = engine.idle_rpm / max(given.rpm, 300.0)
        delay = max(int(engine.dead_time * slowed / STEP_S), 1)
        leak = engine.leak_front.get(front.bank, 0.0) * min(slowed, 1.0) ** 1.3 if given.leaks else 0.0
        behind = engine.leak_rear.get(front.bank, 0.0) * min(slowed, 1.0) ** 1.3
        base, (offset, share) = 1.0 + engine.base(front.bank, given.rpm), given.seen
        rises, falls = min(STEP_S / front.cell.rise_s, 1.0), min(STEP_S / front.cell.fall_s, 1.0)
        answers, rear_answers = self._answers, self._rear_answers
        follows = min(STEP_S / (2.5 * rear.cell.rise_s), 1.0)
        front_alive, rear_alive = given.alive
        corrected = given.closed and given.asked is None
        line.extend([line[-1]] * (delay - len(line)))
        while len(line) > delay:
            line.popleft()
        answer, rear_answer, at = self.answer, self.rear_answer, self.step * STEP_S
        for _ in range(steps):
            made = given.asked
            if made is None:
                made = (base + STIRRED * sin(STIR_RATE * at)) / ((1.0 + self.trim) * (1.0 + self.long_trim))
            line.append(made)
            gas = line.popleft() + leak
            if front_alive:
                step = answers(gas) - answer
                answer += step * (rises if step > 0 else falls)
            if corrected:
                self._correct(offset + share * answer, given.learning)
            after = self._through_catalyst(gas) + behind
            if rear_alive:
                rear_answer += (rear_answers(after) - rear_answer) * follows
            at += STEP_S
            if into is not None:
                into.append((gas, after, answer, rear_answer, self.trim))
        self.answer, self.rear_answer, self.step = answer, rear_answer, self.step + steps

    def _by_size(self, shown: float, learning: float) -> None:
        """Move the trims in proportion to what a continuous sensor shows."""
        self._learn(self.trim + 0.9 * shown / self.front.cell.slope_a * STEP_S, learning)

    def _by_jumps(self, shown: float, learning: float) -> None:
        """Move the trims by a jump at each crossing of a switching sensor and by a ramp between."""
        lean = shown < self._switch_at
        moved = self.engine.ramp * STEP_S
        if lean != self.lean_before:
            self.lean_before = lean
            moved += self.engine.jump
        self._learn(self.trim + moved if lean else self.trim - moved, learning)

    def _learn(self, trim: float, learning: float) -> None:
        learnt, most = learning * trim * STEP_S, self.engine.long_limit
        long_trim, trim = self.long_trim + learnt, trim - learnt
        self.long_trim = most if long_trim > most else -most if long_trim < -most else long_trim
        self.trim = SHORT_LIMIT if trim > SHORT_LIMIT else -SHORT_LIMIT if trim < -SHORT_LIMIT else trim

    def _through_catalyst(self, gas: float) -> float:
        """Lambda behind the catalyst: its store takes up what is over and gives what is short."""
        stored = self.stored + (gas - 1.0) * STEP_S
        if stored > self.capacity:
            self.stored = self.capacity
            return gas
        if stored < 0.0:
            self.stored = 0.0
            return gas
        self.stored = stored
        return 0.9986 + 0.0009 * (stored / (self.capacity or 1e-6))


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
    loop = MixtureLoop(engine, front, rear)
    samples: list[Sample] = []
    loop.line = deque([1.0 + engine.base(front.bank, rpm)])
    closed = alive[0] and followed(front, seen)
    given = Conditions(rpm, None, seen, alive, closed, learning=0.6, leaks=condition != "fresh-air")
    loop.advance(int(SETTLES_S / STEP_S), given)
    given.learning = 0.03
    for step in range(int(seconds / STEP_S)):
        given.asked = stimulus(condition, step * STEP_S)
        loop.advance(1, given, samples)
    return stretch(samples, loop.long_trim, closed)


def stretch(samples: Sequence[Sample], long_trim: float, closed: bool) -> Run:
    """Samples as arrays."""
    front, rear, answer, rear_answer, short = np.array(samples).T
    return Run(np.arange(len(front)) * STEP_S, front, rear, answer, rear_answer, short, long_trim, closed)
