"""Simulated instruments against sums on paper, and files that other libraries read back."""

import csv
import tempfile
from itertools import pairwise
from pathlib import Path
from typing import Any, ClassVar
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from dianoia.errors import RefusedInput
from dianoia.instruments.can_recorder import BITRATE, CanRecorder, GasMessage, frame_bits
from dianoia.instruments.plans import PLANS, driven, parse_plan
from dianoia.instruments.recording import record
from dianoia.instruments.scan_tool import REQUESTS_HZ, ScanRecorder
from dianoia.instruments.scope import Lead, Scope, Trigger
from dianoia.instruments.vehicle import SimulatedVehicle, slug
from dianoia.simulated.faults import FAULTS
from dianoia.simulated.sensor import Sensor


def warm(family: Any = "switching-4w", faults: tuple[str, ...] = (), seed: int = 1, **changed: Any) -> SimulatedVehicle:
    """A vehicle that idles warm. changed: of the sensor in question."""
    vehicle = SimulatedVehicle(family, faults, seed)
    for name, value in changed.items():
        setattr(vehicle.sensor, name, value)
    vehicle.live.refit(vehicle.live)
    vehicle.live.warm_up()
    vehicle.wait(10.0)
    return vehicle


class Frames(TestCase):
    """CAN."""

    def test_a_gas_message_as_published(self) -> None:
        # 310 ppm is (310 + 200) / 0.05 = 10200 = 27D8; 8.0 % is (8 + 12) / 0.000514 = 38911 = 97FF; low byte first
        said = GasMessage(310.0, 8.0, True, True, True, True)
        self.assertEqual(said.data().hex().upper(), "D827FF97559FFFFF")
        cold = GasMessage(None, None, True, False, False, False, heater_failure=5)
        self.assertEqual(cold.data().hex().upper(), "FFFFFFFF0185FFFF")

    def test_bits_of_a_frame_counted_by_hand(self) -> None:
        # no data: 39 bits of head, 15 of check sum, 13 of tail and pause are 67 besides the stuffed ones
        self.assertGreaterEqual(frame_bits(0x15555555, b""), 67)
        # all zeros: after each five zeros a one is put in, so that the longest frame is at most a quarter of 118 bits longer
        self.assertGreater(frame_bits(0, bytes(8)), frame_bits(0x15555555, bytes([0x55] * 8)) + 10)

    @given(st.integers(0, 2**29 - 1), st.binary(max_size=8))
    @settings(max_examples=200, deadline=None)
    def test_a_frame_is_between_its_bare_and_its_worst_length(self, can_id: int, data: bytes) -> None:
        bare = 67 + 8 * len(data)
        self.assertTrue(bare <= frame_bits(can_id, data) <= bare + (53 + 8 * len(data)) // 4)

    def test_frames_never_overlap_and_come_at_their_rates(self) -> None:
        vehicle = warm("nox-can-4w")
        found = list(CanRecorder(vehicle).frames(10.0))
        times = [frame.at_s for frame in found]
        bits = [frame_bits(frame.can_id, frame.data) for frame in found]
        gaps = np.diff(times) * BITRATE
        self.assertTrue((gaps >= np.array(bits[1:]) - 0.6).all())
        count = {
            can_id: sum(frame.can_id == can_id for frame in found)
            for can_id in (0x18F00E51, 0x18F00F52, 0x0CF00400, 0x18FECA00)
        }
        self.assertEqual(list(count.values()), [200, 200, 1000, 10])
        last = [frame for frame in found if frame.can_id == 0x18F00E51][-1]
        ppm = int.from_bytes(last.data[:2], "little") * 0.05 - 200
        self.assertAlmostEqual(ppm, vehicle.live.nox["engine"], delta=12.0)

    def test_a_broken_bus_shows_error_frames_a_dead_unit_silence_and_a_key_that_is_off_nothing(self) -> None:
        broken = warm("nox-can-4w")
        broken.live.sensor.shorts.append(("harness.can_high", "harness.can_low", 0.2))
        broken.live.refit(broken.live)
        errors = list(CanRecorder(broken).frames(2.0))
        self.assertTrue(errors and all(frame.error for frame in errors))
        dead = warm("nox-can-4w", ("unit-dead",))
        senders = {frame.can_id & 0xFF for frame in CanRecorder(dead).frames(2.0)}
        own = 0x50 + dead.sensor.position
        self.assertEqual(senders, {0x00, 0x51, 0x52} - {own})
        dead.turn(key="off")
        self.assertEqual(list(CanRecorder(dead).frames(1.0)), [])


class Scopes(TestCase):
    """Waveforms."""

    def test_a_pulsed_heater_has_its_duty_and_frequency_and_falls_by_the_bandwidth(self) -> None:
        vehicle = warm("airfuel-4w", drive="pwm", duty=0.6, pwm_hz=20.0, ramp_s=0.0, switch="low-side", watch=None)
        scope = Scope(vehicle, [Lead("harness.heater_control"), Lead("clamp")], 20_000.0)
        _, (volts, amps) = scope.capture(2.0)
        low = volts < 7.0
        self.assertAlmostEqual(low.mean(), 0.6, delta=0.01)
        self.assertAlmostEqual((low[1:] & ~low[:-1]).sum() / 2.0, 20.0, delta=0.6)
        self.assertAlmostEqual(amps[low].mean() - amps[~low].mean(), amps[low].mean(), delta=0.06)
        # a channel of 100 Hz reaches 63 % of the step 1.6 ms after the edge
        slow = Scope(vehicle, [Lead("harness.heater_control")], 20_000.0, bandwidth_hz=100.0)
        _, (volts,) = slow.capture(1.0)
        falls = np.flatnonzero((volts[1:] < 12.5) & (volts[:-1] >= 12.5))
        edge = int(falls[falls > 400][0])
        span = float(np.median(volts[edge - 200 : edge - 20]))
        after = volts[edge + round(1.59e-3 * 20_000.0)]
        self.assertAlmostEqual(after / span, np.exp(-1), delta=0.06)

    def test_a_trigger_sets_the_zero_at_its_edge(self) -> None:
        vehicle = warm("airfuel-4w", drive="pwm", duty=0.5, pwm_hz=10.0, ramp_s=0.0, switch="low-side")
        scope = Scope(
            vehicle, [Lead("harness.heater_control")], 5_000.0, trigger=Trigger(0, 7.0, rising=False, before_s=0.02)
        )
        times, (volts,) = scope.capture(1.0)
        zero = int(np.argmin(np.abs(times)))
        self.assertAlmostEqual(times[0], -0.02, delta=1e-6)
        self.assertTrue(volts[zero] <= 7.0 < volts[zero - 1])

    def test_what_a_scope_cannot_do_is_refused(self) -> None:
        vehicle = warm()
        for leads, rate, seconds, field in (
            ([], 100.0, 1.0, "leads"), ([Lead("clamp")], 0.0, 1.0, "rate_hz"), ([Lead("clamp")], 1e6, 60.0, "seconds"),
            ([Lead("harness.nothing")], 100.0, 1.0, "red"),
        ):  # fmt: skip
            with self.subTest(field), self.assertRaises(RefusedInput) as refused:
                Scope(vehicle, leads, rate).capture(seconds)
            self.assertEqual(refused.exception.findings[0].field, field)


class Meters(TestCase):
    """Single readings."""

    def test_a_wire_that_leads_nowhere_shows_ghost_volts_and_a_lamp_makes_them_go(self) -> None:
        vehicle = warm("switching-4w", ("fuse-blown-by-age",), 3)
        vehicle.live.feed.consumers.clear()
        vehicle.turn(connector="unplugged")
        probe = {"measure": "voltage", "red": "harness.heater_supply", "black": "battery.negative"}
        ghost = float(vehicle.read(probe).value.split()[0])
        self.assertTrue(0.01 < ghost < 0.6, ghost)
        loaded = float(vehicle.read({**probe, "load": "lamp"}).value.split()[0])
        self.assertLess(loaded, 0.005)

    def test_the_state_comes_with_the_value(self) -> None:
        vehicle = warm()
        shown = vehicle.read({"measure": "scan", "pid": "heater_current"})
        self.assertEqual((shown.state["key"], shown.state["connector"], shown.state["at_s"]), ("running", "mated", 10))
        vehicle.turn(rpm=2500.0, conditions={"rich"})
        self.assertEqual(
            {name: vehicle.read({"measure": "scan", "pid": "loop"}).state[name] for name in ("rpm", "with")},
            {"rpm": 2500, "with": "rich"},
        )
        vehicle.turn(key="off", connector="unplugged")
        ohms = vehicle.read({"measure": "resistance", "red": "sensor.heater_supply", "black": "sensor.heater_control"})
        self.assertEqual(ohms.state, {"key": "off", "connector": "unplugged", "sensor_c": "hot"})
        vehicle.wait(3600.0)
        cold = vehicle.read({"measure": "resistance", "red": "sensor.heater_supply", "black": "sensor.heater_control"})
        self.assertEqual(cold.state["sensor_c"], 20)
        # a hot platinum element reads two to four times its cold ohms
        self.assertTrue(1.5 < float(ohms.value.split()[0]) / float(cold.value.split()[0]) < 5.0)

    def test_what_cannot_be_read_is_refused_by_name(self) -> None:
        vehicle = warm()
        for probe, field in (
            ({"measure": "resistance", "red": "harness.signal", "black": "battery.negative"}, "key"),
            ({"measure": "voltage", "red": "sensor.signal", "black": "battery.negative"}, "connector"),
            ({"measure": "scan", "pid": "nox"}, "pid"),
            ({"measure": "scan", "pid": "loop", "of": "B9S9"}, "of"),
            ({"measure": "sniff"}, "measure"),
        ):
            with self.subTest(probe), self.assertRaises(RefusedInput) as refused:
                vehicle.read(probe)
            self.assertEqual(refused.exception.findings[0].field, field)

    def test_a_repair_of_the_right_part_mends_and_of_another_does_not(self) -> None:
        vehicle = SimulatedVehicle("switching-4w", ("element-open",), 5)
        for component, amps in (("wiring", 0.0), ("sensor", 0.3)):
            vehicle.mend(component)
            vehicle.turn(key="running")
            vehicle.wait(2.0)
            vehicle.clear_codes()
            vehicle.wait(30.0)
            shown = float(vehicle.read({"measure": "scan", "pid": "heater_current"}).value.split()[0])
            self.assertTrue(shown >= amps if amps else shown < 0.02, (component, shown))
            vehicle.turn(key="off")


class ScanTools(TestCase):
    """Streams."""

    def test_values_are_refreshed_in_turn(self) -> None:
        vehicle = warm()
        recorder = ScanRecorder(vehicle, rows_hz=REQUESTS_HZ)
        rows = list(recorder.samples(8.0))
        shape = len(recorder.channels)
        moving = next(place for place, item in enumerate(recorder.channels) if item.signal == "sensor_voltage")
        changes = [
            number for number, (one, other) in enumerate(pairwise(rows)) if one.values[moving] != other.values[moving]
        ]
        # one value at each answer: the same value is new again only a whole round later
        self.assertTrue(min(np.diff(changes)) >= shape - 1, changes)
        self.assertGreater(len(changes), 6)


class Plans(TestCase):
    """What is done while it is recorded."""

    def test_a_loaded_engine_is_hotter_and_one_that_stopped_is_not_loaded(self) -> None:
        found = []
        for load in (0.0, 1.0):
            vehicle = SimulatedVehicle("switching-4w", (), 6)
            vehicle.turn(key="running", load=load)
            vehicle.wait(120.0)
            part = vehicle.live.parts[vehicle.sensor.address]
            found.append((part.exhaust_c, vehicle.live.coolant_c))
        self.assertTrue(found[1][0] > found[0][0] + 50 and found[1][1] > found[0][1] + 10, found)
        vehicle.turn(key="off")
        self.assertEqual(vehicle.live.load, 0.0)

    def test_every_plan_that_ships_can_be_driven_by_every_family_it_suits(self) -> None:
        for name, steps in PLANS.items():
            with self.subTest(name):
                family: Any = "nox-can-4w" if name == "dew-point" else "switching-4w"
                self.assertEqual(len(list(driven(SimulatedVehicle(family, (), 2), steps))), len(steps))

    def test_plans_that_cannot_be_name_the_step(self) -> None:
        for text, field in (
            ("key=off rpm=2000 10s", "plan, step 1: rpm"), ("key=running 5s; with=sparks 2s", "plan, step 2: with"),
            ("key=running 5s; key=running", "plan, step 2"), ("key=running -5s", "plan, step 1"), ("mood=good 5s", "plan, step 1"),
            ("key=on load=0.5 5s", "plan, step 1: load"), ("key=running load=7 5s", "plan, step 1: load"),
            ("rpm=fast 5s", "plan, step 1"), ("", "plan"), ("key=running 5000s; rpm=idle 5000s", "plan"),
        ):  # fmt: skip
            with self.subTest(text), self.assertRaises(RefusedInput) as refused:
                list(driven(SimulatedVehicle("switching-4w", (), 2), parse_plan(text)))
            self.assertEqual(refused.exception.findings[0].field, field)

    def test_every_fault_befalls_some_family(self) -> None:
        families = {"nox": "nox-can-4w", "switching": "switching-3w", "titania": "titania-4w", "current": "airfuel-4w"}
        for fault in FAULTS:
            with self.subTest(fault.name):
                family: Any = families[fault.kinds[0]]
                made = SimulatedVehicle(family, (slug(fault),), 11)
                self.assertEqual(made.yard.truth, {fault.component})
                self.assertIsInstance(made.sensor, Sensor)


class Files(TestCase):
    """What is written is what others read."""

    FOLDER: ClassVar[tempfile.TemporaryDirectory[str]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.FOLDER = tempfile.TemporaryDirectory()
        cls.addClassCleanup(cls.FOLDER.cleanup)

    def written(
        self,
        name: str,
        family: Any = "switching-4w",
        plan: str = "key=on 1s; key=running 10s",
        leads: tuple[Lead, ...] = (),
    ) -> Path:
        path = Path(self.FOLDER.name) / name
        record(SimulatedVehicle(family, (), 4), parse_plan(plan), path, leads, 500.0)
        return path

    def test_values_as_csv_and_mdf_hold_the_same(self) -> None:
        from asammdf import MDF

        rows = list(csv.reader(self.written("a.csv").open(encoding="utf-8")))
        speed = rows[0].index("engine speed [rpm]")
        self.assertGreater(max(float(row[speed] or 0) for row in rows[1:]), 500)
        with MDF(self.written("a.mf4")) as log:
            signal = log.get("engine speed [rpm]")
            read = [float(row[speed]) if row[speed] else None for row in rows[1:]]
            self.assertEqual(
                [None if np.isnan(value) else round(float(value), 3) for value in signal.samples],
                [None if v is None else round(v, 3) for v in read],
            )

    def test_frames_are_read_back_by_a_can_library(self) -> None:
        import can

        for name in ("n.asc", "n.log", "n.blf"):
            with self.subTest(name), can.LogReader(str(self.written(name, "nox-can-4w", "key=on 2s"))) as log:
                found = list(log)
                self.assertTrue(all(message.is_extended_id and len(message.data) == 8 for message in found))
                self.assertGreater(len(found), 150)

    def test_a_scope_capture_has_its_rate(self) -> None:
        rows = list(
            csv.reader(self.written("s.csv", "airfuel-4w", "key=running 2s", (Lead("clamp"),)).open(encoding="utf-8"))
        )
        self.assertEqual((rows[0][1].partition(" ")[2], len(rows)), ("heater current [A]", 1001))

    def test_nothing_is_left_of_what_is_refused(self) -> None:
        for name, plan in (("x.txt", "key=on 1s"), ("x.csv", "key=off rpm=900 1s"), ("x.asc", "key=on rpm=900 1s")):
            with self.subTest(name), self.assertRaises(RefusedInput):
                self.written(name, plan=plan)
            self.assertFalse((Path(self.FOLDER.name) / name).exists())
