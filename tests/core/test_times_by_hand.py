"""Times, speeds, lamps, margins and priors against figures worked out by hand: the values stand in the rows."""

from typing import Any
from unittest import TestCase

import numpy as np

from dianoia.case.job import job_of
from dianoia.case.setting import Setting
from dianoia.circuit.cells.nox import NoxLoop
from dianoia.circuit.draws import Draws
from dianoia.circuit.heater import HeaterLoop, HeaterVariant
from dianoia.circuit.known import KnownValues
from dianoia.circuit.signal import SignalLoop
from dianoia.diagnosis.faults.hypotheses import listed, traits
from dianoia.readings.circuit_model import ModelRequest
from dianoia.readings.display import Categorical
from dianoia.readings.heater_model import HeaterModel
from dianoia.readings.instruments import displays
from dianoia.readings.instruments.seen import NetworkView
from dianoia.readings.judge import expect, judge
from dianoia.readings.nox_model import NoxModel
from tests.cases import SUPPLY, case, probe

HEATER = HeaterLoop(
    HeaterVariant(KnownValues("switching-4w", feed_live="running", heater_drive="steady"), "low-side", Draws(count=400))
)
SIGNAL = {place: SignalLoop(KnownValues("switching-4w", position=place), Draws(count=400)) for place in (1, 2)}
NOX = NoxLoop(KnownValues("nox-can-4w"), Draws(count=400))


def running(**more: Any) -> Setting:
    return Setting(key="running", **more)


def _weighed(loop: Any, found: Any) -> Any:
    """What is rare is drawn more often than it comes, and weighs less for it."""
    return found * loop.draws.weight / loop.draws.weight.mean()


def _of_heater(setting: Setting) -> Any:
    return _weighed(HEATER, HEATER.command(setting))


class Times(TestCase):
    """Seconds and engine speeds at which something changes."""

    def test_the_coolant_tells_how_long_an_engine_has_run_unless_the_clock_does(self) -> None:
        """15 s a degree from 20 °C on: 40 °C after 300 s. Above 80 °C it tells no more than a quarter of an hour."""
        for coolant_c, key, at_s, ran_s in (
            (15, "running", None, 0), (40, "running", None, 300), (95, "running", None, 900), (40, "on", None, None), (40, "running", 60, 60),
        ):  # fmt: skip
            found = probe(**{**SUPPLY, "key": key, "coolant_c": coolant_c, "at_s": at_s})
            self.assertEqual((found.ran_s, found.setting.at_s), (ran_s, ran_s))

    def test_shares_of_vehicles(self) -> None:
        for why, found, low, high in (
            ("a pump relay primes for 2 s after key on", HEATER.feed_is_on(Setting(key="on", at_s=1.9)), 1.0, 1.0),
            ("and lets go after it", HEATER.feed_is_on(Setting(key="on", at_s=2.1)), 0.0, 0.0),
            ("forced, seven feeds of ten follow", HEATER.feed_is_on(Setting(key="on", at_s=9, conditions=frozenset(("heater-commanded",)))), 0.67, 0.73),
            ("idling, freshly cleared, all but one in a hundred heat", _of_heater(running(codes_cleared=True)), 0.98, 1.0),
            ("idling, 97 of 100", _of_heater(running()), 0.955, 0.985),
            ("just below 3000 / min the same", _of_heater(running(rpm=2950.0)), 0.955, 0.985),
            ("above it 0.6 * 97 of 100", _of_heater(running(rpm=3100.0)), 0.555, 0.61),
            ("key on, a third", _of_heater(Setting(key="on")), 0.32, 0.38),
            ("cranking, a tenth", _of_heater(Setting(key="cranking")), 0.08, 0.12),
            ("module unplugged, none", _of_heater(running(module_connector="unplugged")), 0.0, 0.0),
            ("a cell is cold 10 s after the start: light-off takes 12 to 70 s", SIGNAL[1].hot(running(at_s=10.0)), 0.0, 0.05),
            ("half are hot in the middle, at 41 s", SIGNAL[1].hot(running(at_s=41.0)), 0.46, 0.54),
            ("all by 77 s", SIGNAL[1].hot(running(at_s=77.0)), 1.0, 1.0),
            ("no time noted: 99 of 100 by their heater", _weighed(SIGNAL[1], SIGNAL[1].hot(running())), 0.98, 1.0),
            ("behind the catalyst 98 of 100", _weighed(SIGNAL[2], SIGNAL[2].hot(running())), 0.97, 0.99),
            ("a cell measured at 300 °C is cold", SIGNAL[1].hot(Setting(sensor_c=300.0)), 0.0, 0.0),
            ("at 340 °C it works", SIGNAL[1].hot(Setting(sensor_c=340.0)), 1.0, 1.0),
            ("no exhaust is dry 35 s after the start", NOX.dew_point_passed(running(at_s=35.0)), 0.0, 0.03),
            ("half are at the square root of 40 * 420 = 130 s", NOX.dew_point_passed(running(at_s=130.0)), 0.46, 0.54),
            ("all are after 9 minutes", NOX.dew_point_passed(running(at_s=540.0)), 1.0, 1.0),
            ("a warm engine with no time noted: 85 of 100", NOX.dew_point_passed(running()), 0.83, 0.87),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertTrue(low <= float(np.mean(found)) <= high, float(np.mean(found)))

    def test_an_element_comes_to_its_heat_within_half_a_minute(self) -> None:
        settled = float(np.median(HEATER.element_c(running())))
        for at_s, share in ((0.0, 0.35), (15.0, 0.675), (30.0, 1.0), (90.0, 1.0)):
            self.assertAlmostEqual(float(np.median(HEATER.element_c(running(at_s=at_s)))) / settled, share, places=6)
        self.assertTrue(420 <= settled <= 780)

    def test_a_module_that_gave_up_tries_again_after_clearing_and_gives_up_again(self) -> None:
        known = KnownValues("switching-4w", heater_switch="low-side", heater_drive="steady")
        model = HeaterModel(known, ModelRequest([(), ("heater-open",)], traits()))
        for why, setting, healthy, broken in (
            ("code stored: 12 of 100 healthy ones stay off, half of the open ones", running(), 0.12, 0.5),
            ("the plug apart adds 20", running(connector="unplugged"), 0.32, 0.7),
            ("just cleared: none", running(codes_cleared=True, at_s=10.0), 0.0, 0.0),
            ("44 s after clearing: none", running(codes_cleared=True, at_s=44.0), 0.0, 0.0),
            ("46 s: six of ten of them", running(codes_cleared=True, at_s=46.0), 0.072, 0.3),
        ):
            with self.subTest(why):
                shut_off = model.latched(setting).mean(axis=1)
                np.testing.assert_allclose(shut_off, [healthy, broken], atol=0.02)


class Feeds(TestCase):
    """When the feed is live, by key position."""

    def test_a_nox_sensors_feed(self) -> None:
        at = {
            "measure": "voltage",
            "red": "harness.supply",
            "black": "battery.negative",
            "connector": "unplugged",
            "value": "1",
        }
        for live, key, low, high in (
            ("always", "off", 12.0, 12.9), ("always", "running", 13.1, 14.8), ("key-on", "off", -0.1, 0.1), ("key-on", "on", 11.5, 12.7),
            ("running", "off", -0.1, 0.1), ("running", "running", 13.1, 14.8),
        ):  # fmt: skip
            model = NoxModel(KnownValues("nox-can-4w", feed_live=live), ModelRequest([()], traits()))  # type: ignore[arg-type]
            figure: Any = (model.displays(probe(**at, key=key)) or {})["value"]
            with self.subTest(live, key=key):
                self.assertTrue(low < float(np.median(figure.shown[0])) < high, float(np.median(figure.shown[0])))


class Lamps(TestCase):
    """What a lamp does behind a resistance. A lamp of W watts at V volts has (1.1 * V)^2 / W ohm. So 5 W at 12 V = 34.8 ohm,
    21 W = 8.3 ohm, 5 W at 24 V = 139 ohm; an LED takes 15 mA at 12 V: 800 ohm.
    """

    def test_what_is_seen(self) -> None:
        for watts, kind, system_v, ohms, level, sees in (
            (5, None, 12, 3.0, "13 * 34.8 / 37.8 = 12 V of 12", "bright"), (5, None, 12, 25.0, "13 * 34.8 / 59.8 = 7.6 V: 63 %", "dim"),
            (5, None, 12, 300.0, "13 * 34.8 / 335 = 1.4 V: 11 %", "off"), (21, None, 12, 1.0, "13 * 8.3 / 9.3 = 11.6 V", "bright"),
            (21, None, 12, 10.0, "13 * 8.3 / 18.3 = 5.9 V: 49 %", "dim"), (21, None, 12, 70.0, "13 * 8.3 / 78 = 1.4 V: 11 %", "off"),
            (5, None, 24, 20.0, "26 * 139 / 159 = 22.7 V: 95 %", "bright"), (5, None, 24, 150.0, "26 * 139 / 289 = 12.5 V: 52 %", "dim"),
            (5, "led", 12, 300.0, "13 * 800 / 1100 = 9.5 V: 79 %", "bright"), (5, "led", 12, 4000.0, "13 * 800 / 4800 = 2.2 V: 18 %", "dim"),
            (5, "led", 12, 60000.0, "13 * 800 / 60800 = 0.17 V", "off"),
        ):  # fmt: skip
            with self.subTest(level, watts=watts, kind=kind, ohms=ohms):
                self.assertEqual(self.seen(13.0 * system_v / 12, ohms, system_v, watts=watts, kind=kind), sees)

    def test_a_pulsed_lamp_flashes_where_the_pulses_are_slow_and_glows_by_their_power_where_they_are_fast(self) -> None:
        for flicker, duty, sees in (
            (1.0, 0.5, "flashing"),
            (0.0, 0.4, "dim"),
            (0.0, 0.7, "bright"),
            (0.0, 0.02, "off"),
            (1.0, 0.99, "bright"),
        ):
            self.assertEqual(
                self.seen(13.0, 0.5, 12, flicker=flicker, duty=duty, watts=5, kind=None), sees, (flicker, duty)
            )

    def seen(
        self, volts: float, ohms: float, system_v: int, flicker: float = 0.0, duty: float = 1.0, **lamp: Any
    ) -> str:
        one = np.ones((1, 1))
        shown = displays(
            probe(measure="lamp", red="battery.positive", black="chassis", key="on", value="off", **lamp),
            NetworkView({"on": (volts * one,), "off": (0.0 * one,)}, {"on": (ohms * one,), "off": (ohms * one,)},
                 {"on": duty * one, "off": (1.0 - duty) * one}, float(system_v), np.zeros(1), flicker * one),
        )["value"]  # fmt: skip
        assert isinstance(shown, Categorical)
        return max(shown.chance, key=lambda word: float(shown.chance[word].mean()))


class Margins(TestCase):
    """How far out of a published range a meter's own error leaves open: 0.8 % and two digits of volts, 2 % and three of amperes."""

    def test_at_the_ends_of_a_range(self) -> None:
        volts = {name: SUPPLY[name] for name in SUPPLY if name != "value"}
        amps = {"measure": "current", "at": "harness.heater_supply", "key": "running", "connector": "mated"}
        for at, bounds, value, wanted, why in (
            (volts, ["12.0", "15.0"], "11.89", "unclear", "0.008 * 11.89 + 2 * 0.01 = 0.115: up to 12.005"),
            (volts, ["12.0", "15.0"], "11.87", "fail", "0.115: up to 11.985"),
            (volts, ["12.0", "15.0"], "15.13", "unclear", "0.008 * 15.13 + 0.02 = 0.141: down to 14.989"),
            (volts, ["12.0", "15.0"], "15.15", "fail", "0.141: down to 15.009"),
            (volts, ["12.0", "15.0"], "11.7", "unclear", "one decimal: 0.094 + 2 * 0.1 = 0.294: up to 11.994, 0.006 short, and no more"),
            (amps, ["0.8", "1.2"], "0.76", "unclear", "0.02 * 0.76 + 3 * 0.01 = 0.045: up to 0.805"),
            (amps, ["0.8", "1.2"], "0.75", "fail", "0.045: up to 0.795"),
            (amps, ["0.8", "1.2"], "1.25", "unclear", "0.025 + 0.03 = 0.055: down to 1.195"),
            (amps, ["0.8", "1.2"], "1.26", "fail", "0.055: down to 1.205"),
        ):  # fmt: skip
            with self.subTest(value, why=why):
                job = job_of(case({**at, "value": value}, specs=[{**at, "range": bounds, "source": "the sheet"}]))
                found = judge(job.readings[0], expect(job.readings[0].probe, job, None, None))[0]
                self.assertEqual(found, "fail" if "and no more" in why else wanted)


class Priors(TestCase):
    """Faults by their weights: 9 for none, each its own, two at once 0.196 of the product over the sum."""

    def test_two_faults_of_one_loop(self) -> None:
        hypotheses, prior = listed({"heater-open": 30.0, "fuse-blown": 8.0, "heater-high": 6.0})
        pairs: dict[tuple[str, ...], float] = {
            ("heater-open", "fuse-blown"): 0.196 * 30 * 8 / 44,
            ("fuse-blown", "heater-high"): 0.196 * 8 * 6 / 44,
        }
        total = 9 + 30 + 8 + 6 + sum(pairs.values())  # an element is not open and high at once
        wanted: dict[tuple[str, ...], float] = {
            (): 9,
            ("heater-open",): 30,
            ("fuse-blown",): 8,
            ("heater-high",): 6,
            **pairs,
        }
        self.assertEqual(set(hypotheses), set(wanted))
        for names, chance in zip(hypotheses, prior, strict=True):
            self.assertAlmostEqual(float(chance), wanted[names] / total, places=9)
