"""The second car: closed forms at single parts, conservation laws on whole cars, and jobs that anyone can replay."""

from collections import defaultdict
from math import exp, inf
from random import Random
from typing import Any, ClassVar
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from dianoia.case.load import case_from_plain
from dianoia.diagnosis.verdict.check import check
from dianoia.families.types import Family
from dianoia.simulated.faults import FAULTS, of_sensor
from dianoia.simulated.heat import Drive, Port, settled, warmed
from dianoia.simulated.job import FAMILIES, Job, work
from dianoia.simulated.net import Net
from dianoia.simulated.parts import Element, lamp_ohms
from dianoia.simulated.sensor import Sensor
from dianoia.simulated.state import State
from tests.cars import bench_of, car_of
from tests.tags import slow


def volts_of(text: str) -> float:
    return float(text.split()[0])


class Parts(TestCase):
    """Against sums on paper."""

    def test_a_divider_and_a_bridge(self) -> None:
        net = Net("n")
        net.source("n", "a", 12.0, 2.0)
        net.resistor("a", "b", 4.0)
        net.resistor("b", "n", 6.0)
        self.assertAlmostEqual(net.solve()["b"], 6.0, places=6)  # 12 V over 12 ohm is 1 A; 6 ohm below b
        net.resistor("a", "n", 10.0)  # 10 in parallel with 10 is 5: 12 * 5 / 7 at a, six tenths of it at b
        self.assertAlmostEqual(net.solve()["b"], 12 * 5 / 7 * 0.6, places=6)

    def test_a_heater_without_temperature_coefficient_warms_as_one_minus_e(self) -> None:
        # 12 V on 6 ohm is 24 W; 0.04 W/K takes it 600 K up, with 0.4 J/K in 10 s to 63.2 %
        element = Element(6.0, 0.0, 0.4, 0.04)
        drives = [Drive(1.0, Port(12.0, 0.0))]
        self.assertAlmostEqual(settled(element, drives, 20.0), 620.0, delta=0.5)
        self.assertAlmostEqual(
            warmed(element, lambda at: drives, lambda at: 20.0, 10.0), 20 + 600 * (1 - exp(-1)), delta=4.0
        )

    def test_a_settled_heater_loses_what_it_is_given(self) -> None:
        for seed in range(20):
            car = car_of(seed)
            assert car.sensor.element is not None
            element = car.sensor.element
            celsius = settled(element, [Drive(0.7, Port(13.8, 0.0))], 300.0)
            self.assertAlmostEqual(
                0.7 * 13.8**2 / element.ohms(celsius), element.loss_w_k * (celsius - 300.0), places=2
            )

    def test_a_lamp_takes_its_watts_at_its_volts_and_is_a_short_when_cold(self) -> None:
        self.assertAlmostEqual(13.5**2 / lamp_ohms(13.5, 21.0, 13.5), 21.0, places=6)
        self.assertAlmostEqual(lamp_ohms(0.0, 21.0, 13.5) / lamp_ohms(13.5, 21.0, 13.5), 0.09)


class Cars(TestCase):
    """Sound ones, and ones with one thing wrong."""

    @settings(max_examples=60, deadline=None)
    @given(st.integers(0, 10_000), st.sampled_from([name for name, _ in FAMILIES]), st.booleans(), st.sampled_from(("off", "on", "running")),
           st.sampled_from(("mated", "unplugged")), st.integers(0, len(FAULTS) - 1))  # fmt: skip
    def test_what_flows_into_a_point_flows_out_of_it(
        self, seed: int, family: Family, driven: bool, key: str, connector: str, number: int
    ) -> None:
        car = car_of(seed, family)
        faults = of_sensor(car.sensor)
        faults[number % len(faults)].strike(car, Random(seed))
        net = car.network(State(key=key, connector=connector), car.sensor, driven, 400.0, 1.0)
        volts = net.solve()
        flows: dict[str, float] = defaultdict(float)
        curved = [(a, b, ohms(volts[a] - volts[b])) for a, b, ohms in net._curved]
        largest = 1e-3
        for a, b, ohms in (*net._resistors, *curved):
            amps = (volts[a] - volts[b]) / ohms
            flows[a] -= amps
            flows[b] += amps
            largest = max(largest, abs(amps))
        for a, b, amps in net._currents:
            flows[a] -= amps
            flows[b] += amps
        del flows[net.reference]
        self.assertLess(max(map(abs, flows.values())), 2e-3 * largest + 1e-4)
        inside = max(car.battery_v("running"), 6.0) + 0.01
        self.assertTrue(all(-1.0 < value < inside for value in volts.values()), volts)

    def test_a_driven_heaters_current_is_volts_over_the_ohms_in_its_way(self) -> None:
        for seed in range(15):
            car = car_of(seed, switch="low-side", drive="steady", duty=1.0)
            car.feed.consumers.clear()
            sensor, joint = car.sensor, car.feed.joints
            assert sensor.element is not None
            volts = car.solved(State(), sensor, True, 500.0)
            amps = (volts["sensor.heater_supply"] - volts["sensor.heater_control"]) / sensor.element.ohms(500.0)
            wires = sum(
                part.near + part.far + part.pin
                for part in (sensor.wires["heater_supply"], sensor.wires["heater_control"])
            )
            way = (car.battery_ohms + sum(joint.values()) + wires + sensor.wires["heater_control"].module_pin
                   + sensor.driver_on + car.module_ground + car.chassis_strap + sensor.element.ohms(500.0))  # fmt: skip
            self.assertAlmostEqual(
                amps * way / car.charging_v, 1.0, delta=0.004
            )  # what the module and cell take besides

    def test_a_meter_on_a_pulsed_wire_shows_the_average_of_its_two_moments(self) -> None:
        for seed in range(12):
            car = car_of(seed, "airfuel-4w", drive="pwm", duty=0.6, ramp_s=0.0, switch="low-side", watch=None)
            probe = {
                "measure": "voltage",
                "red": "harness.heater_control",
                "black": "battery.negative",
                "key": "running",
                "connector": "mated",
            }
            shown = volts_of(bench_of(car).read(probe))
            # 40 % of the time the wire stands at the feed through the element, 60 % at the driver's drop
            self.assertAlmostEqual(shown, 0.4 * car.charging_v, delta=0.09 * car.charging_v)

    def test_a_lamp_and_a_meter_on_a_weak_feed_differ(self) -> None:
        car = car_of(3, switch="low-side")
        car.feed.joints["strip"] = 12.0
        bench = bench_of(car)
        at = {"red": "harness.heater_supply", "black": "battery.negative", "key": "running", "connector": "unplugged"}
        self.assertGreater(volts_of(bench.read({"measure": "voltage", **at})), 13.0)
        loaded = volts_of(bench.read({"measure": "voltage", "load": "lamp", "watts": 21.0, **at}))
        # 21 W at 13.5 V is 8.7 ohm hot, less when dimmer: under half of 14 V is left behind 12 ohm
        self.assertLess(loaded, 6.0)

    def test_ohms_as_on_paper(self) -> None:
        car = car_of(4, "nox-can-4w")
        bus = {
            "measure": "resistance",
            "red": "harness.can_high",
            "black": "harness.can_low",
            "key": "off",
            "connector": "unplugged",
            "battery": "disconnected",
        }
        self.assertAlmostEqual(float(bench_of(car).read(bus).split()[0]), 60.0, delta=1.5)
        car.terminators.pop()
        self.assertAlmostEqual(float(bench_of(car).read(bus).split()[0]), 120.0, delta=3.0)
        heated = car_of(4)
        element = {
            "measure": "resistance",
            "red": "sensor.heater_supply",
            "black": "sensor.heater_control",
            "sensor_c": 20,
        }
        assert heated.sensor.element is not None
        self.assertAlmostEqual(
            float(bench_of(heated).read(element).split()[0]), heated.sensor.element.ohms_20c, delta=0.06
        )
        heated.sensor.element.ohms_20c = 1e9
        self.assertEqual(bench_of(heated).read(element), "OL")

    def test_a_module_that_gave_a_heater_up_drives_it_again_for_a_while(self) -> None:
        car = car_of(5, switch="low-side", drive="steady", duty=1.0)
        assert car.sensor.element is not None
        self.assertEqual(car.duty(State(), car.sensor), 1.0)
        car.sensor.element.ohms_20c = 5e3
        self.assertEqual(
            [car.duty(state, car.sensor) for state in (State(), State(cleared=True), State(cleared=True, at_s=90.0))],
            [0.0, 1.0, 0.0],
        )

    def test_a_relay_that_primes_opens_again(self) -> None:
        car = car_of(6)
        car.feed.live, car.feed.prime_s = "running", 3.0
        on = [
            car.feed_on(State(key=key, at_s=at_s))
            for key, at_s in (("on", 1.0), ("on", 10.0), ("on", None), ("running", None))
        ]
        self.assertEqual(on, [True, False, False, True])

    def test_a_sound_loop_switches_as_fast_as_real_ones_and_trims_what_is_wrong(self) -> None:
        for seed in range(8):
            car = car_of(seed)
            car.engine.base_lean[1] = (0.12, 0.12)
            run = car.running(State(), car.sensor)
            over = run.answer > 0.45
            hertz = (over[1:] != over[:-1]).sum() / 20.0
            self.assertTrue(0.3 < hertz < 4.0, hertz)
            self.assertLess(np.ptp(run.rear_answer), 0.65 * np.ptp(run.answer))
            # lambda one means that the trims make up for the lean mixture
            self.assertAlmostEqual((1 + run.short.mean()) * (1 + run.long), 1.12, delta=0.02)

    def test_a_worn_catalyst_lets_the_front_through_and_air_misleads_the_loop(self) -> None:
        car = car_of(7)
        car.engine.store[1] = 0.02
        worn = car.running(State(), car.sensor)
        self.assertGreater(np.ptp(worn.rear_answer), 0.4)
        car.engine.leak_front[1] = 0.2
        misled = car.running(State(), car.sensor)
        self.assertGreater(misled.long + misled.short.mean(), 0.1)

    def test_a_cell_lights_off_and_stays_cold_behind_a_dead_heater_in_a_cool_exhaust(self) -> None:
        car = car_of(8)
        car.exhaust_c[1] = 240.0
        assert car.sensor.element is not None
        lit = [car.cell_hot(State(at_s=at_s), car.sensor) for at_s in (1.0, 250.0)]
        self.assertEqual(lit, [False, True])
        car.sensor.element.ohms_20c = inf
        self.assertFalse(car.cell_hot(State(), car.sensor))
        self.assertTrue(car.cell_hot(State(rpm=3000.0), car.sensor))  # worked, the exhaust alone is hot enough


@slow
class Jobs(TestCase):
    """What people make of them."""

    JOBS: ClassVar[list[Job]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.JOBS = [work(7, number)[0] for number in range(80)]

    def test_every_job_is_a_case_that_anyone_can_replay(self) -> None:
        for job in self.JOBS:
            with self.subTest(job.number):
                check(case_from_plain(job.case))
                self.assertTrue(0 < job.first <= len(job.case["readings"]))
        again = work(7, 3)[0]
        self.assertEqual((again.case, again.truth), (self.JOBS[3].case, self.JOBS[3].truth))

    def test_styles_families_and_outcomes_differ(self) -> None:
        self.assertEqual(len({job.style for job in self.JOBS}), 4)
        self.assertGreater(len({job.family for job in self.JOBS}), 6)
        self.assertGreater(len({job.faults for job in self.JOBS}), 20)
        ohms_first = [
            job
            for job in self.JOBS
            if job.style == "ohms-first"
            and job.family.startswith("switching")
            and job.case["readings"][0]["measure"] == "resistance"
        ]
        self.assertTrue(ohms_first)
        self.assertGreater(sum(job.right_at_the_end for job in self.JOBS), 45)

    def test_every_fault_is_felt_by_some_reading(self) -> None:
        for number, fault in enumerate(FAULTS):
            if fault.name in ("heaters crosswise", "ammonia slips"):
                continue
            family: Family = {
                "nox": "nox-can-4w",
                "switching": "switching-4w",
                "titania": "titania-4w",
                "current": "airfuel-4w",
            }[fault.kinds[0]]  # type: ignore[assignment]
            before, after = (car_of(40 + number, family, switch="low-side", watch=None) for _ in range(2))
            for car in (before, after):
                if fault.positions == (2,):
                    car.sensor, car.twins = car.twins["B1S2"], {"B1S1": car.sensor}
            fault.strike(after, Random(1))
            probes = _battery_of(before.sensor)
            shown = [[bench_of(car).read(dict(probe), True) for probe in probes] for car in (before, after)]
            with self.subTest(fault.name):
                self.assertNotEqual(*shown)


def _battery_of(sensor: Sensor) -> list[dict[str, Any]]:
    """A battery of readings that would show most things."""
    run = {"key": "running", "connector": "mated", "black": "battery.negative"}
    names = [name for name in sensor.terminals if name not in ("address", "trim")]
    probes: list[dict[str, Any]] = [{"measure": "voltage", "red": f"harness.{name}", **run} for name in names]
    probes += [{"measure": "resistance", "red": f"harness.{name}", "black": "battery.negative"} for name in names]
    probes += [{**probe, "key": "on", "connector": "unplugged"} for probe in probes[: len(names)]]
    if sensor.kind == "nox":
        pids = ("can_messages", "nox_status", "nox", "o2")
        return probes + [{"measure": "scan", "pid": pid, "at_s": 900} for pid in pids]
    probes.append(
        {"measure": "resistance", "red": "sensor.heater_supply", "black": "sensor.heater_control", "sensor_c": 20}
    )
    pid = "sensor_voltage" if sensor.kind in ("switching", "titania") else "lambda"
    probes += [{"measure": "scan", "pid": name} for name in ("heater_current", "long_trim", pid)]
    probes.append({"measure": "scan", "pid": "heater_current", "at_s": 2.0})  # a cold element takes most
    return probes + [{"measure": "scan", "pid": pid, "with": condition} for condition in ("rich", "lean", "snap")]
