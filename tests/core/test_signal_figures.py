"""Figures of signals whose formula is known: each within the error it states, or not told."""

import math
from unittest import TestCase

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from dianoia.signals.answer import figures_plain
from dianoia.signals.crossings import crossings
from dianoia.signals.figures.figure import Figure
from dianoia.signals.levels import MOST_POINTS, levels_of, packed
from dianoia.signals.measure import measure
from dianoia.signals.recording import Event, Recording, Samples, Trace

FEW = settings(max_examples=60, deadline=None)


def trace(at_s: Samples, values: Samples, signal: str = "sensor_voltage", of: str | None = "B1S1") -> Trace:
    return Trace(signal, signal, of, at_s, values)


def figures(*traces: Trace, marks: tuple[Event, ...] = (), place: int = 0) -> dict[str, Figure]:
    found = measure(Recording(traces, len(traces[0].at_s), marks=marks))
    return {figure.name: figure for figure in found.traces[place].figures}


class Told(TestCase):
    """A figure is within the error that it states, or it is not told."""

    def within(self, figure: Figure, expected: float, also: float = 0.0) -> None:
        if not figure.told:
            return
        assert figure.value is not None and figure.error is not None, figure
        self.assertLessEqual(abs(figure.value - expected), figure.error * 1.01 + also + 1e-9, (figure, expected))


class Switching(Told):
    """A switching sensor's voltage."""

    @FEW
    @given(
        st.floats(0.1, 2.0), st.sampled_from([1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0]), st.floats(0.2, 0.44),
        st.sampled_from([0.0, 0.002, 0.01]), st.floats(0, 6.28), st.integers(0, 5),
    )  # fmt: skip
    def test_sine(self, hertz: float, rate: float, amplitude: float, noise: float, phase: float, seed: int) -> None:
        at_s = np.arange(0.0, 60.0, 1.0 / rate)
        moved = 0.45 + amplitude * np.sin(2 * math.pi * hertz * at_s + phase)
        found = figures(trace(at_s, moved + np.random.default_rng(seed).normal(0, noise, len(at_s))))
        if hertz <= rate / 4:
            self.within(found["max"], 0.45 + amplitude, 5 * noise)
            self.within(found["min"], 0.45 - amplitude, 5 * noise)
        if amplitude < 0.16 + 5 * noise:
            return
        self.within(found["switches_per_min"], 120.0 * hertz)
        crossing = 2 * math.asin(0.15 / amplitude) / (2 * math.pi * hertz)
        slope = 2 * math.pi * hertz * amplitude * math.cos(math.asin(0.15 / amplitude))
        for name in ("rise_s", "fall_s"):
            self.within(found[name], crossing, 6 * noise / max(slope, 1e-6))
        if hertz <= rate / 4:
            self.within(found["rich_share"], 0.5, 0.01)

    def test_what_sampling_cannot_tell_is_no_number(self) -> None:
        at_s = np.arange(0.0, 60.0, 1.0)
        found = figures(trace(at_s, 0.45 + 0.4 * np.sin(2 * math.pi * 0.4 * at_s + 1)))
        for name in ("switches_per_min", "rise_s", "fall_s"):
            self.assertIsNone(found[name].value, name)
            self.assertEqual(found[name].reason, "sampled too coarsely", name)

    def test_values_repeated_by_the_tool_are_no_samples(self) -> None:
        """A tool that stores ten rows a second and refreshes one value a second tells no more than one row a second."""
        slow = np.arange(0.0, 60.0, 1.0)
        held = np.repeat(0.45 + 0.4 * np.sin(2 * math.pi * 0.4 * slow + 1), 10)
        found = figures(trace(np.arange(len(held)) / 10, held))
        self.assertFalse(found["switches_per_min"].told)
        self.assertFalse(found["rise_s"].told)

    @FEW
    @given(st.floats(5, 100), st.floats(0.0, 0.9), st.booleans())
    def test_first_activity_and_flat_spell(self, active_s: float, initial: float, gap: bool) -> None:
        """A bias, then a square wave of 1 Hz; the engine starts at 3 s."""
        at_s = np.arange(0.0, 160.0, 0.1)
        if gap:
            at_s = at_s[(at_s < active_s - 3) | (at_s > active_s - 1)]
        wave = np.where(np.sin(2 * math.pi * (at_s - active_s)) >= 0, 0.8, 0.1)
        if initial > 0.6:
            wave = 0.9 - wave  # it leaves from above
        assume(not 0.29 < initial < 0.31 and not 0.59 < initial < 0.61)
        volts = trace(at_s, np.where(at_s < active_s, initial, wave))
        speed = trace(at_s, np.where(at_s < 3.0, 0.0, 700.0), "engine_speed", None)
        found = figures(volts, speed)
        self.within(found["first_activity_s"], active_s - 3.0, 0.1)
        self.within(found["switches_per_min"], 120.0)
        self.within(found["flat_s"], active_s, 2.0 if gap else 0.0)

    def test_a_dead_sensor_is_never_active(self) -> None:
        at_s = np.arange(0.0, 60.0, 0.1)
        found = figures(trace(at_s, np.full(len(at_s), 0.45)))
        activity = found["first_activity_s"]
        self.assertTrue(activity.told)
        self.assertIsNone(activity.value)
        self.assertEqual(found["switches_per_min"].value, 0.0)
        self.assertAlmostEqual(found["bias_s"].value or 0, 60.0, delta=0.2)

    def test_a_cold_cell_that_drifts_is_not_active(self) -> None:
        at_s = np.arange(0.0, 240.0, 0.3)
        found = figures(trace(at_s, np.linspace(0.40, 0.16, len(at_s))))
        self.assertIsNone(found["first_activity_s"].value)
        self.assertTrue(found["first_activity_s"].told)

    @FEW
    @given(st.floats(0.05, 8.0), st.sampled_from([5.0, 20.0, 100.0]))
    def test_answer_to_a_mark(self, delay_s: float, rate: float) -> None:
        at_s = np.arange(0.0, 60.0, 1.0 / rate)
        volts = np.where(at_s < 20.0 + delay_s, 0.2, 0.85)
        marks = (Event(20.0, "rich"), Event(40.0, "lean"))
        found = figures(trace(at_s, volts), marks=marks)
        self.within(found["rich_delay_s"], delay_s)
        self.assertEqual(found["rich_peak"].value, 0.85)
        self.assertTrue(found["lean_delay_s"].told)
        self.assertIsNone(found["lean_delay_s"].value, "it never answers")


class Others(Told):
    """Air-fuel sensors, heaters, scopes, twins."""

    @FEW
    @given(st.floats(0.1, 2.0), st.floats(0.1, 2.0), st.sampled_from([-0.8, 0.6]), st.sampled_from([20.0, 100.0]))
    def test_step_of_an_air_fuel_sensor(self, delay_s: float, tau_s: float, change_ma: float, rate: float) -> None:
        at_s = np.arange(0.0, 60.0, 1.0 / rate)
        since = np.maximum(at_s - 20.0 - delay_s, 0.0)
        current = change_ma * (1 - np.exp(-since / tau_s))
        found = figures(trace(at_s, current, "cell_current"), marks=(Event(20.0, "rich"),))
        self.within(found["rich_change"], change_ma / 1000, abs(change_ma) * 2e-5)
        self.within(found["rich_delay_s"], delay_s - tau_s * math.log(0.9))
        self.within(found["rich_t63_s"], tau_s * (math.log(0.9) - math.log(0.368)), 0.01)

    def test_no_answer_of_an_air_fuel_sensor(self) -> None:
        at_s = np.arange(0.0, 60.0, 0.1)
        noise = np.random.default_rng(1).normal(0, 0.005, len(at_s))
        found = figures(trace(at_s, 0.1 + noise, "cell_current"), marks=(Event(20.0, "rich"),))
        self.assertTrue(found["rich_delay_s"].told)
        self.assertIsNone(found["rich_delay_s"].value)

    def test_heater(self) -> None:
        """Inrush 2.2 A, settled 0.8 A at 60 % of 14 V: 10.5 ohm; latched off 90 s after the start at 5 s."""
        at_s = np.arange(0.0, 200.0, 0.2)
        driven = (at_s >= 10.0) & (at_s < 95.0)
        amps = np.where(driven, 0.8 + 1.4 * np.exp(-(at_s - 10.0) / 5.0), 0.0)
        found = figures(
            trace(at_s, amps, "heater_current"), trace(at_s, np.full(len(at_s), 14.0), "battery_voltage", None),
            trace(at_s, np.where(driven, 60.0, 0.0), "heater_command"), trace(at_s, np.where(at_s < 5.0, 0.0, 700.0), "engine_speed", None),
        )  # fmt: skip
        self.within(found["inrush"], 2.2)
        self.within(found["settled"], 0.8, 1e-5)
        self.within(found["ohms"], 10.5)
        self.within(found["latched_off_s"], 90.0)

    def test_a_heater_that_is_switched_off_with_the_engine_has_not_latched(self) -> None:
        at_s = np.arange(0.0, 200.0, 0.2)
        amps = trace(at_s, np.where((at_s > 10) & (at_s < 150), 0.8, 0.0), "heater_current")
        speed = trace(at_s, np.where((at_s > 5) & (at_s < 150), 700.0, 0.0), "engine_speed", None)
        self.assertIsNone(figures(amps, speed)["latched_off_s"].value)

    @FEW
    @given(st.floats(2.0, 300.0), st.floats(0.05, 0.95), st.sampled_from([500.0, 2000.0, 20_000.0]), st.floats(0, 0.2))
    def test_pulses(self, hertz: float, duty: float, rate: float, noise: float) -> None:
        at_s = np.arange(0.0, 6.0, 1.0 / rate)
        low = (at_s * hertz) % 1.0 >= 1.0 - duty
        volts = np.where(low, 0.3, 13.8) + np.random.default_rng(3).normal(0, noise, len(at_s))
        found = figures(trace(at_s, volts, "volts", "harness.heater_control"))
        assume(duty * rate / hertz > 2 and (1 - duty) * rate / hertz > 2)
        self.within(found["duty_low"], duty)
        self.within(found["frequency"], hertz)
        self.within(found["high"], 13.8, noise)
        self.within(found["low"], 0.3, noise)

    def test_duty_that_ramps(self) -> None:
        at_s = np.arange(0.0, 20.0, 0.0005)
        duty = 0.2 + 0.6 * at_s / 20.0
        found = figures(
            trace(at_s, np.where((at_s * 10) % 1.0 >= 1.0 - duty, 0.3, 13.8), "volts", "harness.heater_control")
        )
        self.assertAlmostEqual(found["duty_low_first"].value or 0, 0.2375, delta=0.01)
        self.assertAlmostEqual(found["duty_low_last"].value or 0, 0.7625, delta=0.01)

    def test_supply_that_drops_under_load(self) -> None:
        at_s = np.arange(0.0, 2.0, 0.0005)
        low = (at_s * 10) % 1.0 >= 0.5
        supply = trace(at_s, np.where(low, 10.6, 13.8), "volts", "harness.heater_supply")
        control = trace(at_s, np.where(low, 0.3, 13.8), "volts", "harness.heater_control")
        self.within(figures(supply, control)["drop_under_load"], 3.2)

    @FEW
    @given(st.floats(-2.0, 2.0), st.floats(0.3, 1.0))
    def test_twins(self, delay_s: float, ratio: float) -> None:
        """The second bank's sensor shows the same pulses later and smaller."""
        at_s = np.arange(0.0, 60.0, 0.05)

        def moved(shift: float, share: float) -> Samples:
            pulses = sum(np.exp(-(((at_s - centre - shift) / 0.8) ** 2)) for centre in (8.0, 19.0, 33.0, 51.0))
            return np.asarray(0.1 + 0.8 * share * pulses)

        found = figures(trace(at_s, moved(0.0, 1.0)), trace(at_s, moved(delay_s, ratio), of="B2S1"), place=1)
        self.within(found["twin_delay_s"], delay_s)
        self.within(found["twin_ratio"], ratio)

    def test_rear_sensor_passes_on_a_share_of_the_swing(self) -> None:
        at_s = np.arange(0.0, 60.0, 0.05)
        front, rear = (0.45 + part * np.sin(2 * math.pi * at_s) for part in (0.4, 0.1))
        found = figures(trace(at_s, front), trace(at_s, rear, of="B1S2"), place=1)
        self.within(found["passed_on"], 0.25)

    def test_nox(self) -> None:
        at_s = np.arange(0.0, 300.0, 1.0)
        speed = trace(at_s, np.where(at_s < 10, 0.0, 700.0), "engine_speed", None)
        status = [trace(at_s, np.where(at_s < 100, 1.0, 3.0), "nox_status", of) for of in ("B1S1", "B1S2")]
        values = [trace(at_s, np.full(len(at_s), ppm), "nox", of) for ppm, of in ((400.0, "B1S1"), (60.0, "B1S2"))]
        recording = speed, *status, *values
        self.within(figures(*recording, place=1)["valid_s"], 90.0)
        self.within(figures(*recording, place=4)["passed_on"], 0.15)

    def test_answer_follows_the_format(self) -> None:
        at_s = np.arange(0.0, 60.0, 1.0)
        recording = Recording(
            (trace(at_s, 0.45 + 0.4 * np.sin(at_s * 2.5)),), 60, ("Vehicle speed",), (Event(5.0, "rich"),)
        )
        plain = figures_plain(measure(recording), "log.csv")
        self.assertEqual(
            (plain["format"], plain["rows"], plain["unknown_columns"]), ("dianoia-figures/1", 60, ["Vehicle speed"])
        )
        (signal,) = plain["signals"]
        self.assertEqual(
            (signal["signal"], signal["of"], signal["unit"], signal["rate_hz"]), ("sensor_voltage", "B1S1", "V", 1.0)
        )
        self.assertIn("rise_s", signal["cannot_tell"])
        self.assertIsNone(signal["figures"]["rise_s"])
        self.assertEqual(plain["events"], [{"at_s": 5.0, "event": "rich"}])


class Drawing(TestCase):
    """Levels and crossings."""

    @FEW
    @given(st.integers(2, 60_000), st.floats(0, 1), st.floats(0, 1), st.integers(2, MOST_POINTS))
    def test_levels_hold_every_peak_of_the_stretch(self, count: int, one: float, other: float, points: int) -> None:
        rng = np.random.default_rng(count)
        whole = trace(np.sort(rng.uniform(0, 100, count)), rng.normal(size=count))
        from_s, to_s = sorted((100 * one, 100 * other))
        drawn, part = levels_of(whole, from_s, to_s, points), whole.between(from_s, to_s)
        self.assertLessEqual(len(drawn.at_s) * (2 if drawn.joined else 1), max(points, 4) + 2)
        if len(part.values):
            self.assertLessEqual(drawn.lowest.min(), part.values.min())
            self.assertGreaterEqual(drawn.highest.max(), part.values.max())
        self.assertTrue((np.diff(drawn.at_s) >= 0).all())
        self.assertEqual(len(packed(drawn)), 12 * len(drawn.at_s))

    def test_crossings_do_not_depend_on_where_blocks_end(self) -> None:
        """A wave whose changes lie across the ends of the blocks is counted like one change after the other."""
        values = np.where((np.arange(300_000) // 32_768) % 2 == 0, 0.1, 0.9)
        values[65_530:65_540] = 0.45
        found = crossings(values, 0.3, 0.6)
        self.assertEqual(len(found.after), 9)
        self.assertEqual(int(found.before[1]), 65_529)
        self.assertEqual(int(found.after[1]), 65_540)
