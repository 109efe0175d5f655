"""Mixture: what the gas is at each sensor, moment by moment, and what the module makes of the sensor's answer.

A fuel trim follows the front sensor of its bank: for a switching one by a jump at each crossing and a ramp between
(limit cycle), for a continuous one in proportion. The gas arrives after a dead time; the catalyst stores oxygen and
gives it back, so that behind it lambda stays near one until the store is full or empty.
"""

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


def run(
    engine: Engine, front: Sensor, rear: Sensor, seconds: float, rpm: float, condition: str = "",
    seen: tuple[float, float] = (0.0, 1.0), alive: tuple[bool, bool] = (True, True),
) -> Run:  # fmt: skip
    """Let it run. condition: what is done to it; seen: what reaches the module of the front cell's answer, an offset and a
    share; alive: whether front and rear cell are hot and whole.
    """
    bank, count = front.bank, int(seconds / STEP_S)
    settle = int(12.0 / STEP_S)
    delay = max(int(engine.dead_time * engine.idle_rpm / max(rpm, 300.0) / STEP_S), 1)
    leak = engine.leak_front.get(bank, 0.0) * min(engine.idle_rpm / max(rpm, 300.0), 1.0) ** 1.3
    behind = engine.leak_rear.get(bank, 0.0) * min(engine.idle_rpm / max(rpm, 300.0), 1.0) ** 1.3
    base, capacity = engine.base(bank, rpm), engine.store.get(bank, 2.0) * 0.01
    continuous = front.kind in ("current", "two-cell")
    switch_at = 0.45 if front.kind == "switching" else 0.5 * (front.cell.rich_v + front.cell.lean_v)
    # a signal that stands still near its bias is taken for a cold sensor, and the loop is opened; one at nought for lean
    heard = continuous or seen[1] > _followed_from(front) or abs(seen[0]) < 0.1
    trim, long_trim, stored, closed = 0.0, 0.0, 0.5 * capacity, alive[0] and heard
    line = [1.0 + base] * delay
    lean_before = False
    answer, rear_answer = answer_of(front, 1.0), answer_of(rear, 1.0)
    t, fronts, rears, answers, rear_answers, shorts = (np.empty(count) for _ in range(6))
    for step in range(settle + count):
        asked = STIMULI.get(condition) if step >= settle else None
        if condition == "snap" and step >= settle:
            since = (step - settle) * STEP_S
            asked = 0.86 if since < 1.6 else 5.0 if since < 3.4 else None
        total = (1.0 + trim) * (1.0 + long_trim)
        made = asked if asked is not None else (1.0 + base + STIRRED * sin(STIR_RATE * step * STEP_S)) / total
        line.append(made)
        gas = line.pop(0) + (leak if condition != "fresh-air" else 0.0)
        if alive[0]:
            wanted = answer_of(front, gas)
            tau = front.cell.rise_s if wanted > answer else front.cell.fall_s
            answer += (wanted - answer) * min(STEP_S / tau, 1.0)
        shown = seen[0] + seen[1] * answer
        if closed and asked is None:
            if continuous:
                error = shown / front.cell.slope_a
                trim += 0.9 * error * STEP_S
            else:
                lean = shown < switch_at
                jumped = engine.jump if lean != lean_before else 0.0
                lean_before = lean
                trim += (1 if lean else -1) * (jumped + engine.ramp * STEP_S)
            # what the short trim settles at is learnt
            learnt = (0.6 if step < settle else 0.03) * trim * STEP_S
            long_trim = min(max(long_trim + learnt, -engine.long_limit), engine.long_limit)
            trim = min(max(trim - learnt, -SHORT_LIMIT), SHORT_LIMIT)
        # the store takes up what is over and gives what is short
        flow = (gas - 1.0) * STEP_S
        stored += flow
        if stored > capacity:
            stored, after = capacity, gas
        elif stored < 0.0:
            stored, after = 0.0, gas
        else:
            after = 0.9986 + 0.0009 * (stored / max(capacity, 1e-6))
        after += behind
        if alive[1]:
            wanted = answer_of(rear, after)
            rear_answer += (wanted - rear_answer) * min(STEP_S / (2.5 * rear.cell.rise_s), 1.0)
        if step >= settle:
            at = step - settle
            t[at], fronts[at], rears[at], answers[at] = at * STEP_S, gas, after, answer
            rear_answers[at], shorts[at] = rear_answer, trim
    return Run(t, fronts, rears, answers, rear_answers, shorts, long_trim, closed)
