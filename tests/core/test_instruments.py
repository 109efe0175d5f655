"""What each instrument shows of a circuit whose every figure is known."""

from typing import Any
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from dianoia.case.job import job_of
from dianoia.circuit.draws import Sampling
from dianoia.circuit.known import known_of
from dianoia.diagnosis.faults.hypotheses import traits
from dianoia.quantities.meter import digit
from dianoia.quantities.types import Kind, Quantity
from dianoia.readings.circuit_model import ModelRequest
from dianoia.readings.display import GROSS_ERROR, NEIGHBOURS, THIN, WIDTH, Categorical, Numeric
from dianoia.readings.heater_model import HeaterModel
from dianoia.readings.outcomes import Display, Outcomes
from dianoia.readings.scale import OL_SURE, distance, error_unit, error_units
from tests.cases import ELEMENT, LAMP, SUPPLY, case
from tests.cases import probe as measured

STEADY_6 = {"heater_ohms_20c": [6.0, 6.0], "heater_switch": "low-side", "heater_drive": "steady"}
FAULTS = [(), ("heater-open",), ("wire-open:heater_control",), ("fuse-blown",), ("driver-stuck-on",), ("supply-high",)]
VEHICLE = {"label": "bench", "system_voltage": 12, "feed_live": "running"}
DRIVEN = {"codes_cleared": True}
KINDS: tuple[Kind, ...] = ("voltage", "resistance", "current", "ratio", "number", "time")


def model(**sensor: Any) -> HeaterModel:
    job = job_of(case(code="P0135", sensor={**STEADY_6, **sensor}, vehicle=VEHICLE))
    return HeaterModel(known_of(job), ModelRequest(FAULTS, traits()), Sampling(32))


def shown(probe: dict[str, Any], fault: tuple[str, ...] = (), **sensor: Any) -> Display:
    built = model(**sensor)
    displays = built.displays(measured(**probe))
    assert displays is not None
    display = next(iter(displays.values()))
    row = FAULTS.index(fault)
    if isinstance(display, Categorical):
        return Categorical(
            {word: np.broadcast_to(chance, (len(FAULTS), built.draws))[row] for word, chance in display.chance.items()}
        )
    return Numeric(display.kind, np.broadcast_to(display.shown, (len(FAULTS), built.draws))[row])


def median(display: Display) -> float:
    assert isinstance(display, Numeric)
    return float(np.nanmedian(display.shown))


def likeliest(display: Display) -> str:
    assert isinstance(display, Categorical)
    return max(display.chance, key=lambda word: float(np.mean(display.chance[word])))


class Meters(TestCase):
    """Multimeter, clamp and ohmmeter."""

    def test_volts_ohms_and_amps(self) -> None:
        control = {**SUPPLY, **DRIVEN, "red": "harness.heater_control"}
        clamp = {
            "measure": "current",
            "at": "harness.heater_supply",
            "key": "running",
            "connector": "mated",
            **DRIVEN,
            "value": "1",
        }
        apart = {**SUPPLY, "connector": "unplugged"}
        for why, probe, fault, low, high in (
            ("battery reaches the plug", SUPPLY, (), 12.9, 14.7),
            ("the driver pulls the control low", control, (), 0.0, 0.6),
            ("nobody pulls it: battery through the element", control, ("wire-open:heater_control",), 12.9, 14.7),
            ("no fuse, no volts", apart, ("fuse-blown",), -0.1, 0.3),
            ("a corroded feed passes voltage to a meter", apart, ("supply-high",), 12.0, 14.7),
            ("and not to a lamp", {**apart, "load": "lamp"}, ("supply-high",), 4.0, 13.6),
            ("a cold element", ELEMENT, (), 5.7, 6.8),
            ("current settled and hot", clamp, (), 0.45, 1.2),
            ("no current through an open element", clamp, ("heater-open",), 0.0, 0.01),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertTrue(low <= median(shown(probe, fault)) <= high, median(shown(probe, fault)))

    def test_an_open_element_is_kilohms_or_more(self) -> None:
        self.assertGreater(median(shown(ELEMENT, ("heater-open",))), 1e4)

    def test_a_hot_element_reads_two_to_four_times_its_cold_value(self) -> None:
        hot = median(shown({**ELEMENT, "sensor_c": 600}))
        self.assertTrue(2.0 < hot / median(shown(ELEMENT)) < 4.2)

    def test_known_leads_are_taken_into_the_figure(self) -> None:
        self.assertAlmostEqual(
            median(shown({**ELEMENT, "leads": "2 ohm"})) - median(shown({**ELEMENT, "leads": "0 ohm"})), 2.0, places=3
        )

    def test_an_ohmmeter_on_a_live_wire_lies(self) -> None:
        live = {**ELEMENT, "red": "harness.heater_supply", "black": "battery.negative", "key": "running", "value": "1"}
        self.assertGreater(median(shown(live)), 1e3)


class Lamps(TestCase):
    """A bulb loads; a diode tester hardly does."""

    def test_words(self) -> None:
        led = {**LAMP, "kind": "led", "in_place_of": None, "black": "battery.negative"}
        for why, probe, fault, word in (
            ("in place of the heater, driver on", LAMP, (), "bright"),
            ("control wire open", LAMP, ("wire-open:heater_control",), "off"),
            ("no fuse", LAMP, ("fuse-blown",), "off"),
            ("a diode is fooled by a corroded feed", led, ("supply-high",), "bright"),
        ):
            with self.subTest(why):
                self.assertEqual(likeliest(shown(probe, fault)), word)

    def test_a_bigger_lamp_shows_a_weak_feed_that_a_small_one_hides(self) -> None:
        def bright(watts: float) -> float:
            display = shown({**LAMP, "watts": watts}, ("supply-high",))
            assert isinstance(display, Categorical)
            return float(np.mean(display.chance["bright"]))

        self.assertLess(bright(21), bright(5))

    @given(st.sampled_from([5.0, 21.0]), st.sampled_from(FAULTS))
    def test_the_words_chances_sum_to_one(self, watts: float, fault: tuple[str, ...]) -> None:
        display = shown({**LAMP, "watts": watts}, fault)
        assert isinstance(display, Categorical)
        np.testing.assert_allclose(sum(display.chance.values()), 1.0, atol=1e-6)


class ScanAndScope(TestCase):
    """The module's own figures, and the picture of a pulsed wire."""

    def test_a_pulsed_wire_on_the_scope_and_on_the_scan_tool(self) -> None:
        scope = {"measure": "scope", "red": "harness.heater_control", "black": "battery.negative", "key": "running",
                 "connector": "mated", **DRIVEN, "value": {"high": "14"}}  # fmt: skip
        displays = model(heater_drive="pwm").displays(measured(**scope))
        assert displays is not None
        high, low, duty = (displays[name] for name in ("high", "low", "duty_low"))
        assert isinstance(high, Numeric) and isinstance(low, Numeric) and isinstance(duty, Numeric)
        self.assertGreater(float(np.nanmedian(high.shown[0])), 12.5)
        self.assertLess(float(np.nanmedian(low.shown[0])), 1.0)
        self.assertTrue(0.2 < float(np.nanmedian(duty.shown[0])) < 0.95)
        command = {"measure": "scan", "pid": "heater_command", "key": "running", **DRIVEN, "value": "50 %"}
        self.assertAlmostEqual(
            median(shown(command, heater_drive="pwm")), float(np.nanmedian(duty.shown[0])), delta=0.1
        )

    def test_the_modules_own_resistance_goes_through_the_wire(self) -> None:
        resistance = {"measure": "scan", "pid": "heater_resistance", "key": "running", **DRIVEN, "value": "18"}
        self.assertTrue(12 < median(shown(resistance)) < 28)
        self.assertGreater(median(shown(resistance, ("wire-open:heater_control",))), 1e4)


class Fitting(TestCase):
    """How well a reading fits a display, on a scale of error units."""

    @given(st.sampled_from(KINDS), st.floats(0.0, 1e5), st.floats(0.0, 1e5))
    def test_the_scale_keeps_order_and_nothing_lies_nearer_than_itself(self, kind: Kind, a: float, b: float) -> None:
        if abs(a - b) > 1e-6 * max(a, b):
            self.assertEqual(error_units(a, kind) < error_units(b, kind), a < b)
        self.assertEqual(float(distance(a, np.array([a]), kind)[0]), 0.0)
        self.assertGreater(error_unit(a, kind), 0.0)

    def test_the_scale_in_figures(self) -> None:
        for kind, value, place, unit, why in (
            ("voltage", 13.8, 156.24, 0.1956, "log(1 + 0.012 / 0.03 * 13.8) / 0.012; 0.03 + 0.012 * 13.8"),
            ("resistance", 6.2, 39.13, 0.464, "log(1 + 0.07 / 0.03 * 6.2) / 0.07"), ("current", 0.74, 18.17, 0.062, "log(1 + 2 * 0.74) / 0.05"),
            ("ratio", 0.6, 26.28, 0.033, "log(1 + 2 * 0.6) / 0.03"), ("lambda", 1.0, 162.41, 0.011, "log(1 + 8 / 3) / 0.008"), ("number", 70.0, 213.13, 1.42, "log(1 + 70) / 0.02"),
            ("time", 0.1, 2.877, 0.04, "log(1 + 0.1 / 0.03 * 0.1) / 0.1"), ("frequency", 10.0, 9.242, 2.0, "log(1 + 0.3 * 10) / 0.15"),
            ("cell_current", 4e-4, 14.28, 4.7e-5, "log(1 + 0.08 / 1.5e-5 * 4e-4) / 0.08"), ("voltage", -0.45, -13.79, 0.0354, "the same below zero"),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertAlmostEqual(float(error_units(value, kind)), place, delta=0.006)  # type: ignore[arg-type]
                self.assertAlmostEqual(error_unit(value, kind), unit, delta=0.001 * unit)  # type: ignore[arg-type]

    def test_a_likelihood_in_figures(self) -> None:
        """All draws alike: the width is 2.2 units, and 0.4 of the last digit."""
        figure, words = (
            Numeric("voltage", np.full((1, 16), 13.8)),
            Categorical({word: np.full((1, 16), 0.9 if word == "a" else 0.1 / 3) for word in "abcd"}),
        )
        for why, found, wanted in (
            ("met: width 2.2095, density 0.18056; log(0.98 * 0.18056 + 0.02 * 0.5 / 120)", figure.fit(Quantity("voltage", 13.8, 0.1)), -1.7314),
            ("5.276 units off at width 2.2108: density 0.010463", figure.fit(Quantity("voltage", 12.8, 0.1)), -4.5721),
            ("far off only the gross error is left, half of them anything: log(0.02 * 0.5 / 120)", figure.fit(Quantity("voltage", 1.0, 0.1)), -9.3927),
            ("seldom one: log(0.004 * 0.5 / 120)", figure.fit(Quantity("voltage", 1.0, 0.1), 0.004), -11.0021),
            ("a word of chance 0.9: log(0.98 * 0.9 + 0.02 / 4)", words.fit("a"), -0.1199),
            ("one of 0.0333: log(0.98 * 0.0333 + 0.005)", words.fit("b"), -3.2790),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertAlmostEqual(float(np.max(found)), wanted, delta=0.003)

    def test_ol_fits_anything_a_meter_cannot_reach(self) -> None:
        far = distance(float("inf"), np.array([1e3, 3e6, OL_SURE]), "resistance")
        self.assertTrue(far[0] > far[1] > far[2] == 0.0)

    def test_a_gross_error_is_never_impossible_and_a_match_beats_it(self) -> None:
        figure = Numeric("voltage", np.full((1, 16), 13.8))
        near, far = (float(figure.fit(Quantity("voltage", volts, 0.1)).max()) for volts in (13.8, 1.38))
        self.assertGreater(near, far + 3)
        self.assertTrue(np.isfinite(far))

    def test_what_cannot_be_measured_there_speaks_against_a_hypothesis(self) -> None:
        fit = Numeric("voltage", np.array([[13.8] * 8, [np.nan] * 8])).fit(Quantity("voltage", 13.8, 0.1))
        self.assertGreater(float(fit[0].max()), float(fit[1].max()) + 3)

    @given(st.lists(st.floats(0.0, 20.0), min_size=3, max_size=14), st.floats(0.0, 20.0))
    def test_a_draw_reaches_as_far_as_the_shortest_stretch_that_holds_it_and_its_neighbours(
        self, shown: list[float], volts: float
    ) -> None:
        placed = np.sort(error_units(np.array(shown), "voltage"))
        size = min(NEIGHBOURS, len(placed) - 1) + 1
        stretches = [placed[first : first + size] for first in range(len(placed) - size + 1)]
        own = error_units(np.array(shown), "voltage")
        spans = [min(item[-1] - item[0] for item in stretches if item[0] <= place <= item[-1]) for place in own]
        noted = Quantity("voltage", volts, 0.01)
        width = np.hypot(
            np.hypot(WIDTH, THIN * np.minimum(spans, 200.0)), 0.4 * digit(noted) / error_unit(volts, "voltage")
        )

        def near(value: float) -> Any:
            return np.exp(-0.5 * ((error_units(value, "voltage") - own) / width) ** 2) / (width * np.sqrt(2 * np.pi))

        # half of the gross errors are misread by a factor of 2 or of 10, the rest is anything over 120 units
        astray = 0.5 * sum(near(volts / factor) for factor in (0.1, 0.5, 2.0, 10.0)) / 4 + 0.5 / 120
        expected = np.log((1 - GROSS_ERROR) * near(volts) + GROSS_ERROR * astray)
        fitted = Numeric("voltage", np.array([shown])).fit(noted)
        np.testing.assert_allclose(fitted[0], expected, atol=2e-3)

    @given(st.lists(st.floats(0.01, 1.0), min_size=12, max_size=12))
    def test_outcomes_keep_all_of_the_draws_chances(self, weights: list[float]) -> None:
        draws = np.array(weights).reshape(2, 6)
        draws /= draws.sum(axis=1, keepdims=True)
        outcomes = Outcomes(Numeric("voltage", np.array([[0.0, 1, 2, 6, 9, 13], [13.0] * 6])), (2, 6))
        table = outcomes.chances(draws, np.array([0, 1]))
        np.testing.assert_allclose(table.sum(axis=1), 1.0)
        self.assertAlmostEqual(float(table[1].max()), 1.0)
