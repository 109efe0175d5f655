"""The second car in time: stepped by a tenth of a second under what driver and technician do to it.

It answers the same questions as ``Car``, for the moment at which it stands. Whatever a state says of time or temperature is
left aside: the car's own clock and temperatures count.

>>> from random import Random
>>> from dianoia.simulated.job import yard
>>> car = LiveCar(yard(Random(1), "switching-4w").sound)
>>> car.set(key="running"); car.advance(60.0)
>>> round(car.running_s), car.lit(car.sensor)
(59, True)
"""

from dataclasses import replace

from dianoia.simulated.engine import STEP_S as MIXTURE_S
from dianoia.simulated.engine import Conditions, MixtureLoop, followed, stimulus
from dianoia.simulated.heat import (
    AMBIENT_C,
    CELL_LAG_S,
    COOLANT_COOLS_S,
    COOLANT_TAU_S,
    COOLING_TAU_S,
    DEW_POINT_C,
    EXHAUST_TAU_S,
    PROBE_C,
    PROBE_STABLE_S,
    PROBE_TAU_S,
    PROBE_WORKS_C,
    STEP_S,
    THERMOSTAT_C,
    WORKED_C,
    Drive,
    follow,
    settled,
    stepped,
)
from dianoia.simulated.module import HEATER_FROM_S
from dianoia.simulated.moment import STIMULI, CarAtMoment
from dianoia.simulated.monitors import run_monitors
from dianoia.simulated.sensor import Sensor
from dianoia.simulated.sensor_state import VOLTS_MOVED, SensorState

#: The starter turns so long, in seconds.
CRANKS_S = 0.8
#: The alternator takes up its voltage, and a battery loses its surface charge, with these time constants in seconds.
CHARGES_TAU_S, RESTS_TAU_S, DIPS_TAU_S = 1.5, 60.0, 0.15
#: A battery's charge in ampere seconds, what a car takes with the key on in amperes, and volts at rest between full and empty.
CHARGE_AS, TAKES_A, EMPTY_DROP_V = 60.0 * 3600.0, 8.0, 1.2
#: What is done to the mixture and ends by itself, and after how long, in seconds.
ENDS_AFTER_S = {"snap": 10.0, "fuel-cut": 10.0}
#: A quiet car is stepped so many times as coarsely, so long after the last change, in seconds.
COARSE, FINE_FOR_S = 5, 60.0
#: Seconds of idling that a warmed-up car has behind it.
WARMED_S = 900.0
#: Steps of mixture that are kept.
KEPT_STEPS = int(12.0 / MIXTURE_S)


class LiveCar(CarAtMoment):
    """The second car with a clock."""

    def warm_up(self) -> None:
        """Start the engine as it is after a quarter of an hour of idling: exhaust and coolant are warm, the exhaust is dry."""
        self.set(key="running")
        self.advance(CRANKS_S + STEP_S)
        self.coolant_c = THERMOSTAT_C
        for sensor in self.sensors:
            part = self.parts[sensor.address]
            part.exhaust_c, part.water = self.warm_c(self.setup, sensor), 0.0
            part.element_c = part.cell_c = part.exhaust_c
            if sensor.kind == "nox" and not sensor.probe_cold and self.unit_works(sensor):
                part.element_c, part.ready_s = PROBE_C, PROBE_STABLE_S
            elif sensor.element is not None and sensor.kind != "nox" and sensor.element.ohms_20c <= 1e6:
                part.driven_s = WARMED_S
                part.element_c = part.cell_c = settled(sensor.element, self._drives(sensor, part, 0.0), part.exhaust_c)

    def advance(self, seconds: float) -> None:
        """Let time go by."""
        left = round(seconds / STEP_S)
        while left > 0:
            coarse = left >= COARSE and self.now_s - self.changed_s > FINE_FOR_S
            self._tick(STEP_S * (COARSE if coarse else 1))
            left -= COARSE if coarse else 1

    def _tick(self, step_s: float) -> None:
        self.now_s += step_s
        if self.setup.key == "cranking" and self.now_s - self.since_s >= CRANKS_S:
            self.setup = replace(self.setup, key="running")
            self.since_s = self.changed_s = self.now_s
        for name in [name for name in self.setup.conditions if self._ended(name)]:
            self.setup = replace(self.setup, conditions=self.setup.conditions - {name})
        self._battery(step_s)
        runs = self.setup.key == "running"
        tau = COOLANT_TAU_S / (1.0 + self.load) if runs else COOLANT_COOLS_S
        self.coolant_c = min(
            follow(self.coolant_c, 1.15 * THERMOSTAT_C if runs else AMBIENT_C, tau, step_s), THERMOSTAT_C
        )
        for sensor in self.sensors:
            self._warm(sensor, runs, step_s)
        for bank, loop in self.loops.items():
            if runs:
                self._mix(bank, loop, step_s)
        if runs:
            run_monitors(self)

    def _ended(self, condition: str) -> bool:
        return self.now_s - self.conditions_since.get(condition, self.now_s) > ENDS_AFTER_S.get(condition, float("inf"))

    def _battery(self, step_s: float) -> None:
        key = self.setup.key
        rest = self.resting_v - EMPTY_DROP_V * (1.0 - self.charge)
        if key == "running":
            target, tau = self.charging_v, CHARGES_TAU_S
            self.charge = min(self.charge + 20.0 * step_s / CHARGE_AS, 1.0)
        else:
            target, tau = (self.cranking_v, DIPS_TAU_S) if key == "cranking" else (rest, RESTS_TAU_S)
            takes = 200.0 if key == "cranking" else TAKES_A if key == "on" else 0.03
            self.charge = max(self.charge - takes * step_s / CHARGE_AS, 0.0)
        if self.volts < rest and key in ("off", "on"):
            tau = CHARGES_TAU_S  # a battery recovers at once when the starter lets go
        self.volts = follow(self.volts, target, tau, step_s)
        self._volts_moved = VOLTS_MOVED + 0.3 * abs(target - self.volts)

    def _warm(self, sensor: Sensor, runs: bool, step_s: float) -> None:
        part = self.parts[sensor.address]
        warm = self.warm_c(self.setup, sensor) + WORKED_C * self.load if runs else AMBIENT_C
        part.exhaust_c = follow(part.exhaust_c, warm, EXHAUST_TAU_S if runs else COOLING_TAU_S, step_s)
        if runs and part.water > 0.0:
            part.water -= max(part.exhaust_c - DEW_POINT_C, 0.0) * step_s
        if sensor.kind == "nox":
            self._warm_probe(sensor, part, step_s)
            return
        element, drives = sensor.element, self._drives(sensor, part, step_s)
        if element is None or self.stood(sensor).connector == "unplugged" or element.ohms_20c > 1e6:
            part.element_c = follow(part.element_c, part.exhaust_c, _tau_s(sensor), step_s)
        else:
            part.element_c = stepped(element, drives, part.element_c, part.exhaust_c, step_s)
        part.cell_c = follow(part.cell_c, part.element_c, CELL_LAG_S, step_s)

    def _drives(self, sensor: Sensor, part: SensorState, step_s: float) -> list[Drive]:
        if sensor.element is None:
            return []
        meant = self.duty(self.stood(sensor), sensor)
        share = {"stuck": 1.0, "open": 0.0}.get(sensor.driver, meant)
        if meant > 0.0 or sensor.driver == "stuck":
            part.driven_s += step_s
        self._watch(sensor, part, step_s)
        part.drives = [
            Drive(each, self._heater_port(sensor, driven))
            for driven, each in ((True, share), (False, 1.0 - share))
            if each
        ]
        return part.drives

    def _watch(self, sensor: Sensor, part: SensorState, step_s: float) -> None:
        """The module's own look at the current, after the warm-up."""
        if self.setup.key != "running" or part.driven_s < HEATER_FROM_S or part.latched:
            return
        apart = self.stood(sensor).connector == "unplugged"
        part.bad_s = part.bad_s + step_s if apart or not self.accepted(sensor) else 0.0
        if part.bad_s > sensor.latches_after_s and sensor.driver != "stuck":
            part.latched = True

    def _warm_probe(self, sensor: Sensor, part: SensorState, step_s: float) -> None:
        heated = self.dry(self.setup) and not sensor.probe_cold and self.unit_works(sensor)
        target = PROBE_C if heated else part.exhaust_c
        part.element_c = part.cell_c = follow(part.element_c, target, PROBE_TAU_S, step_s)
        part.ready_s = part.ready_s + step_s if heated and part.element_c >= PROBE_WORKS_C else 0.0
        due = self.dry(self.setup) and self.unit_works(sensor)
        part.cold_s = part.cold_s + step_s if due and part.element_c < PROBE_WORKS_C else 0.0

    def _mix(self, bank: int, loop: MixtureLoop, step_s: float) -> None:
        asked = next((name for name in STIMULI if name in self.setup.conditions), "")
        forced = stimulus(asked, self.now_s - self.conditions_since.get(asked, self.now_s)) if asked else None
        seen, front = self.seen(loop.front), loop.front
        reached = front.kind == "switching" or self.connected(self.stood(front), front)
        alive = (self.lit(front) and not front.input_dead and reached, self.lit(loop.rear))
        self.closed[bank] = alive[0] and followed(front, seen)
        self.closed_s[bank] += step_s if self.closed[bank] else 0.0
        given = Conditions(
            self.setup.rpm or self.engine.idle_rpm,
            forced,
            seen,
            alive,
            self.closed[bank],
            learning=0.6 if self.closed_s[bank] < 12.0 else 0.03,
            leaks=asked != "fresh-air",
        )
        samples = self.samples[bank]
        loop.advance(round(step_s / MIXTURE_S), given, samples)
        if len(samples) > 2 * KEPT_STEPS:
            del samples[:-KEPT_STEPS]


def _tau_s(sensor: Sensor) -> float:
    return 10.0 if sensor.element is None else sensor.element.heat_j_k / sensor.element.loss_w_k
