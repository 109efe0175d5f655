"""The second car in time: closed forms of heat, battery and drying, conservation of energy, the module's memory, and the single
readings of the same car without a clock.
"""

from math import exp, log
from random import Random
from typing import Any
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from dianoia.errors import RefusedInput
from dianoia.families.types import Family
from dianoia.simulated.heat import (
    DEW_POINT_C,
    EXHAUST_TAU_S,
    PROBE_C,
    PROBE_STABLE_S,
    PROBE_TAU_S,
    PROBE_WORKS_C,
    Drive,
    Port,
    settled,
    stepped,
    watts,
)
from dianoia.simulated.instruments import Bench
from dianoia.simulated.job import FAMILIES, yard
from dianoia.simulated.live import CHARGES_TAU_S, CRANKS_S, LiveCar
from dianoia.simulated.live_bench import LiveBench
from dianoia.simulated.module import HEATER_FROM_S
from dianoia.simulated.parts import Element
from dianoia.simulated.state import State
from tests.cars import car_of
from tests.tags import slow

RUNNING = {"key": "running", "connector": "mated"}


def live_of(seed: int, family: Family = "switching-4w", **changed: Any) -> LiveCar:
    """A sound car in time, cold, with the key off."""
    return LiveCar(car_of(seed, family, **changed))


def started(car: LiveCar, seconds: float) -> LiveCar:
    """The car so many seconds after its engine started."""
    car.set(key="running")
    car.advance(CRANKS_S + seconds)
    return car


class Heat(TestCase):
    """Against sums on paper."""

    def test_the_exhaust_rises_as_one_minus_e_and_falls_as_e(self) -> None:
        car = started(live_of(1), EXHAUST_TAU_S)
        warm = car.exhaust_c[1]
        self.assertAlmostEqual(car.parts["B1S1"].exhaust_c, 20 + (warm - 20) * (1 - exp(-1)), delta=1.0)
        before = car.parts["B1S1"].exhaust_c
        car.set(key="off")
        car.advance(400.0)
        self.assertAlmostEqual(car.parts["B1S1"].exhaust_c, 20 + (before - 20) * exp(-1), delta=1.0)

    def test_the_exhaust_is_dry_when_the_dew_is_said_to_be_gone(self) -> None:
        for seed in range(6):
            car = live_of(seed, "nox-can-4w")
            car.set(key="running")
            car.advance(CRANKS_S)
            started_s = car.now_s
            while not car.dry(car.setup):
                car.advance(0.1)
            self.assertAlmostEqual(car.now_s - started_s, car.dew_s, delta=1.0)
            # and not before the exhaust is above the dew point: 20 + rise (1 - exp(-t / tau)) = 54
            rise = car.exhaust_c[1] - 20
            self.assertGreater(car.dew_s, EXHAUST_TAU_S * log(rise / (rise + 20 - DEW_POINT_C)))

    def test_a_hot_exhaust_stays_dry_when_the_engine_is_started_again(self) -> None:
        car = started(live_of(2, "nox-can-4w"), 600.0)
        car.set(key="off")
        car.advance(30.0)
        self.assertTrue(started(car, 0.5).dry(car.setup))

    @settings(max_examples=40, deadline=None)
    @given(st.floats(2.0, 15.0), st.floats(10.0, 15.0), st.floats(0.0, 6.0), st.floats(0.1, 1.0), st.floats(4.0, 40.0))
    def test_what_an_element_is_given_is_what_it_stores_and_loses(
        self, ohms: float, volts: float, series: float, share: float, tau_s: float
    ) -> None:
        element = Element(ohms, 0.0033, tau_s * 0.03, 0.03)
        drives = [Drive(share, Port(volts, series))]
        celsius, given_j, lost_j = 20.0, 0.0, 0.0
        for _ in range(900):
            given_j += 0.1 * watts(element, drives, celsius)
            lost_j += 0.1 * element.loss_w_k * (celsius - 20.0)
            celsius = stepped(element, drives, celsius, 20.0)
        self.assertAlmostEqual(given_j - lost_j, element.heat_j_k * (celsius - 20.0), delta=1e-6 * given_j + 1e-6)
        self.assertLess(celsius, settled(element, drives, 20.0) + 0.5)

    def test_a_port_feeds_an_element_as_the_whole_circuit_does(self) -> None:
        for seed in range(10):
            car = car_of(seed, switch="low-side")
            car.feed.joints["strip"] = 0.7
            sensor, element = car.sensor, car.sensor.element
            assert element is not None
            port = car.heater_port(State(), sensor, True)
            volts = car.solved(State(), sensor, True, 555.0)
            across = volts["sensor.heater_supply"] - volts["sensor.heater_control"]
            ohms = element.ohms(555.0)
            self.assertAlmostEqual(port.open_v * ohms / (ohms + port.ohms), across, delta=2e-3)

    def test_the_alternator_takes_up_its_voltage_with_its_time_constant(self) -> None:
        car = started(live_of(3), 0.0)
        begin = car.volts
        car.advance(CHARGES_TAU_S)
        self.assertAlmostEqual(car.volts, car.charging_v + (begin - car.charging_v) * exp(-1), delta=0.02)


class Module(TestCase):
    """What it drives, gives up, remembers and forgets."""

    def test_inrush_falls_to_the_settled_current(self) -> None:
        car = started(live_of(4, switch="low-side", drive="steady", duty=1.0, ramp_s=0.0), 0.1)
        bench = LiveBench(car, Random(1), 8.0, 0.0, 1.0, 1.0, 1.0)
        amps = [float(str(bench.read({"measure": "scan", "pid": "heater_current"})).split()[0])]
        for _ in range(4):
            car.advance(40.0)
            amps.append(float(str(bench.read({"measure": "scan", "pid": "heater_current"})).split()[0]))
        self.assertEqual(amps, sorted(amps, reverse=True))
        self.assertGreater(amps[0], 1.6 * amps[-1])

    def test_an_unplugged_heater_is_given_up_when_its_time_is_over_and_not_before(self) -> None:
        car = live_of(5, drive="steady", duty=1.0, latches_after_s=12.0)
        started(car, 60.0)
        car.set(connector="unplugged")
        car.advance(11.0)
        self.assertFalse(car.parts["B1S1"].latched)
        car.advance(2.0)
        self.assertTrue(car.parts["B1S1"].latched)
        self.assertEqual(
            [(item.code, item.failure_type, item.status) for item in car.memory.codes], [("P0135", "13", "pending")]
        )
        # plugged in again it stays off while the engine runs, until the codes are cleared
        car.set(connector="mated")
        car.advance(60.0)
        self.assertEqual(car.duty(car.setup, car.sensor), 0.0)
        car.clear_codes()
        self.assertEqual((car.memory.codes, car.memory.monitors["heater"]), ((), "incomplete"))
        car.advance(60.0)
        self.assertEqual((car.duty(car.setup, car.sensor), car.memory.codes), (1.0, ()))
        self.assertEqual(car.memory.monitors["heater"], "complete")
        # or until the next start, at which the module tries anew
        car.set(connector="unplugged")
        car.advance(20.0)
        car.set(connector="mated")
        self.assertEqual(car.duty(car.setup, car.sensor), 0.0)
        car.set(key="off")
        started(car, 5.0)
        self.assertEqual(car.duty(car.setup, car.sensor), 1.0)

    def test_a_fault_is_pending_at_first_stored_at_the_second_start_and_a_good_cycle_removes_a_pending_one(
        self,
    ) -> None:
        car = live_of(6, drive="steady", duty=1.0, latches_after_s=5.0)
        assert car.sensor.element is not None
        good = car.sensor.element.ohms_20c
        car.sensor.element.ohms_20c = 5e3
        car.refit(car)
        statuses: list[list[str]] = []
        for _ in range(2):
            car.clear_codes() if not statuses else None
            started(car, HEATER_FROM_S + 10.0)
            statuses.append([item.status for item in car.memory.codes])
            car.set(key="off")
            car.advance(5.0)
            car._drive_anew()  # as a module that tries once in each cycle
        self.assertEqual(statuses, [["pending"], ["stored"]])
        car.memory.stored.clear()
        car.memory.pending["P0135"] = "13"
        car.sensor.element.ohms_20c = good
        car.refit(car)
        for _ in range(2):
            started(car, 60.0)
            car.set(key="off")
            car.advance(5.0)
        self.assertEqual(car.memory.codes, ())

    def test_monitors_of_a_healthy_car_complete_without_a_code(self) -> None:
        for seed in range(4):
            car = started(live_of(seed), 700.0)
            with self.subTest(seed):
                self.assertEqual(set(car.memory.monitors.values()), {"complete"}, car.memory.monitors)
                self.assertEqual(car.memory.codes, ())

    def test_what_the_engine_does_wrong_is_a_mixture_code_and_not_the_sensors(self) -> None:
        car = live_of(7)
        car.engine.base_lean[1] = (0.3, 0.3)
        car.refit(car)
        started(car, 500.0)
        self.assertEqual([item.code for item in car.memory.codes], ["P0171"])

    def test_a_disconnected_battery_forgets_and_turns_the_key_off(self) -> None:
        car = started(live_of(8), 30.0)
        car.memory.stored["P0135"] = "13"
        car.set(battery="disconnected")
        self.assertEqual((car.setup.key, car.memory.codes), ("off", ()))

    def test_what_cannot_be_done_is_refused_and_changes_nothing(self) -> None:
        cases: tuple[tuple[dict[str, Any], str], ...] = (
            ({"key": "halfway"}, "key"),
            ({"rpm": 2000.0}, "rpm"),
            ({"key": "running", "rpm": 9000.0}, "rpm"),
            ({"conditions": frozenset({"rich"})}, "with"),
            ({"conditions": frozenset({"heater-commanded"})}, "with"),
            ({"key": "running", "conditions": frozenset({"sparks"})}, "with"),
            ({"key": "running", "module": "unplugged"}, "key"),
            ({"key": "on", "battery": "disconnected"}, "key"),
        )
        car = live_of(9)
        for changes, field in cases:
            with self.subTest(changes), self.assertRaises(RefusedInput) as refused:
                car.set(**changes)
            self.assertEqual(refused.exception.findings[0].field, field)
        self.assertEqual(car.setup, live_of(9).setup)


class Units(TestCase):
    """NOx units in time."""

    def test_a_unit_says_in_turn_that_it_is_cold_not_stable_and_valid(self) -> None:
        car = live_of(10, "nox-can-4w")
        bench = LiveBench(car, Random(1), 8.0, 0.0, 1.0, 1.0, 1.0)
        started(car, 1.0)
        seen: dict[str, float] = {}
        released_c = 0.0
        while car.running_s < car.dew_s + 200.0:
            released_c = released_c or (car.parts["B1S1"].exhaust_c if car.dry(car.setup) else 0.0)
            status = str(bench.read({"measure": "scan", "pid": "nox_status"}))
            seen.setdefault(status, car.running_s)
            car.advance(1.0)
        self.assertEqual(list(seen), ["not-at-temperature", "not-stable", "valid"])
        warms_s = PROBE_TAU_S * log((PROBE_C - released_c) / (PROBE_C - PROBE_WORKS_C))
        self.assertAlmostEqual(seen["not-stable"], car.dew_s + warms_s, delta=3.0)
        self.assertAlmostEqual(seen["valid"] - seen["not-stable"], PROBE_STABLE_S, delta=2.0)

    def test_a_dead_probe_heater_a_dead_unit_and_a_weak_feed_each_set_their_own_code(self) -> None:
        def weak(car: LiveCar) -> None:
            # as much as leaves a heating unit seven tenths of its volts
            car.feed.joints["strip"] = 0.43 * car_of(12, "nox-can-4w").unit_ohms(State(), car.sensor)

        def unheated(car: LiveCar) -> None:
            car.sensor.probe_cold = True

        def dead(car: LiveCar) -> None:
            car.sensor.unit_dead = True

        for strike, code in ((unheated, "P2205"), (dead, "U029D"), (weak, "P220A")):
            car = live_of(12, "nox-can-4w")
            strike(car)
            car.refit(car)
            started(car, car.dew_s + 400.0)
            with self.subTest(code):
                self.assertIn(code, [item.code for item in car.memory.codes])


def probes_of(car: LiveCar) -> list[dict[str, Any]]:
    """What is read at a warm running engine."""
    names = [name for name in car.sensor.terminals if name not in ("address", "trim")]
    ground = {**RUNNING, "black": "battery.negative"}
    probes: list[dict[str, Any]] = [{"measure": "voltage", "red": f"harness.{name}", **ground} for name in names]
    pids = {
        "nox": ("can_messages", "nox_status", "o2", "nox"),
        "switching": ("sensor_voltage", "long_trim", "heater_current", "heater_command", "loop"),
        "titania": ("sensor_voltage", "heater_current", "loop"),
    }.get(car.sensor.kind, ("lambda", "cell_current", "long_trim", "heater_current", "loop"))
    return probes + [{"measure": "scan", "pid": pid} for pid in pids]


#: What may lie between a reading and its own number: in the unit, and as a share.
OFF = {"V": (0.04, 0.012), "A": (0.02, 0.02), "%": (2.5, 0.05), "mA": (0.06, 0.05), "": (0.03, 0.0), "ppm": (2.0, 0.01),
       "ohm": (0.3, 0.02), "kohm": (0.01, 0.02), "Mohm": (0.01, 0.02)}  # fmt: skip
#: Ends of a span move with the phase of the mixture's swing.
SPAN_OFF_V = 0.15


def parted(text: str) -> tuple[list[float], str]:
    """A display's numbers and its unit; none where it shows words."""
    number, _, unit = text.partition(" ")
    bare = number.rstrip("kM")
    try:
        return [float(part) for part in bare.split("..")], number[len(bare) :] + ("ohm" if bare != number else unit)
    except ValueError:
        return [], text


def agree(one: str, other: str) -> bool:
    """Whether two displays are the same but for the instrument's error."""
    (first, unit), (second, same) = parted(one), parted(other)
    if unit != same or not first or not second:
        return one == other
    most, share = OFF[unit]
    most += SPAN_OFF_V if unit == "V" and len(first) + len(second) > 2 else 0.0
    return all(abs(end(first) - end(second)) <= most + share * abs(end(first)) for end in (min, max))


@slow
class Agreement(TestCase):
    """A car in time and the same car frozen show the same."""

    JOBS = 500

    def test_readings_of_500_cars_with_their_faults_agree(self) -> None:
        differ, total = [], 0
        for number in range(self.JOBS):
            random = Random(f"agree/{number}")
            made = yard(random, random.choice([name for name, _ in FAMILIES]))
            live = LiveCar(made.car)
            still, moving = (
                kind(car, Random(number), 8.0, 0.0, 1.0, 1.0, 1.0)
                for kind, car in ((Bench, made.car), (LiveBench, live))
            )
            live.warm_up()
            live.advance(20.0)
            probes = probes_of(live)
            for probe in random.sample(probes, 2):
                shown = [str(bench.read(dict(probe), True)) for bench in (still, moving)]
                total += 1
                if not agree(*shown):
                    differ.append(
                        (number, [fault.name for fault, _ in made.present], probe.get("pid") or probe["red"], *shown)
                    )
        self.assertEqual(total, 2 * self.JOBS)
        self.assertLess(len(differ) / total, 0.01, differ)
