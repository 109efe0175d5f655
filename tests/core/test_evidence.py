"""What readings do to belief: together, past repairs, of other parts, and in looking."""

from typing import Any
from unittest import TestCase

import numpy as np

from dianoia.bench.figures import calibration, share
from dianoia.bench.jobs import GROUPS, prepared, simulated
from dianoia.bench.vehicle import ModelVehicle
from dianoia.case.job import job_of
from dianoia.case.observed import Observed, observe
from dianoia.circuit.draws import BEYOND, REACH, Draws, WideDraws
from dianoia.circuit.network import Array
from dianoia.diagnosis.catalogue.candidates import candidates
from dianoia.diagnosis.catalogue.offered import engines
from dianoia.diagnosis.decision.assessment import Assessment
from dianoia.diagnosis.faults.elsewhere import counterpart
from dianoia.diagnosis.faults.observations import chances, log_factor, observation
from dianoia.diagnosis.faults.space import JointSpace
from dianoia.diagnosis.inference.engine import known_battery
from dianoia.diagnosis.inference.evidence import gross_error_chances, gross_errors, weigh
from dianoia.diagnosis.verdict.diagnose import Diagnosis, diagnose
from dianoia.quantities.parse import parse
from dianoia.quantities.types import Quantity
from dianoia.readings.display import GROSS_ERROR_TWICE, NEIGHBOURS, Numeric
from tests.cases import BATTERY, ELEMENT, LAMP, LOADED, STEADY, SUPPLY, case, observed, probe
from tests.tags import slow

REPLACED = {"measure": "act", "action": "replace-sensor", "value": "done"}
UNKNOWN = {"family": "switching-4w", "bank": 1, "position": 1}
FLAT_ZERO = {"measure": "voltage", "red": "harness.signal", "black": "battery.negative", "key": "on",
             "connector": "unplugged", "value": "2 mV"}  # fmt: skip
RECORDED = {"measure": "trace", "signal": "sensor_voltage", "key": "running"}


def found(*readings: dict[str, Any], **fields: Any) -> Assessment:
    return Diagnosis(job_of(case(*readings, **{"sensor": STEADY, **fields})), plan=False).weighed


class Belief(TestCase):
    """Weights over hypotheses and draws."""

    def test_what_was_measured_of_other_parts_outlives_a_repair(self) -> None:
        before = found(BATTERY, SUPPLY, ELEMENT, LAMP, LOADED)
        after = found(BATTERY, SUPPLY, ELEMENT, LAMP, LOADED, REPLACED)
        for part in ("supply", "control"):
            self.assertTrue(before.states[part].proven and after.states[part].proven, part)
        self.assertTrue(before.states["heater"].failed)
        self.assertFalse(after.states["heater"].proven or after.states["heater"].failed)

    def test_a_contact_that_a_hand_moved_is_at_fault_though_it_reads_good(self) -> None:
        """By hand, of one contact: 2 % of good ones change when moved, 50 % of bad ones, 25 times as many; that each good reading
        met a bad contact while it held has the chance 0.5.
        """
        moved = {
            "measure": "act",
            "action": "wiggle",
            "at": "harness.heater_control",
            "key": "running",
            "value": "changed",
        }
        good = {
            "measure": "current",
            "at": "harness.heater_supply",
            "key": "running",
            "connector": "mated",
            "value": "1.1 A",
        }

        def odds(*readings: dict[str, Any], fault: str = "pin-open:heater_control") -> float:
            held = found(*readings)
            index = held.engine.space.row_of
            times = held.belief.posterior() / held.engine.space.prior
            return float(times[index[frozenset((fault,))]] / times[index[frozenset()]])

        self.assertAlmostEqual(odds(moved), 25.0, places=3)
        self.assertLess(odds(good), 0.1)
        self.assertGreater(odds(good, moved), 0.45 * 25.0)
        self.assertAlmostEqual(
            odds(good, moved, fault="pin-open:heater_supply"), odds(good, fault="pin-open:heater_supply"), places=3
        )
        mended = {"measure": "act", "action": "repair-wiring", "of_fault": "pin-open:heater_control", "value": "done"}
        self.assertLess(odds(good, moved, mended, good), 0.1)

    def test_a_repair_starts_what_it_renews_anew(self) -> None:
        diagnosis = found(BATTERY, ELEMENT, REPLACED)
        index, said = diagnosis.engine.space.row_of, diagnosis.belief.measured()
        repaired = said[index[frozenset(("heater-open",))]] - said[index[frozenset()]]
        self.assertAlmostEqual(float(repaired), 0.0, places=6)

    def test_the_same_reading_many_times_does_not_wear_a_rare_kind_of_module_down(self) -> None:
        once, often = (found(*[FLAT_ZERO] * count, code="P0134", sensor=UNKNOWN) for count in (1, 8))
        share = [item.posterior[item.engine.partition.has_fault["bias-missing"]].sum() for item in (once, often)]
        self.assertLess(share[1], 2 * share[0] + 0.05)

    def test_a_recording_misread_as_a_whole_is_one_slip_and_no_slow_sensor(self) -> None:
        lively: dict[str, Any] = {"min": "0.12 V", "max": "0.85 V", "mean": "0.47 V", "switches_per_min": 70, "first_activity_s": 25,
                  "rise_s": 0.06, "fall_s": 0.07, "delay_s": 0.12}  # fmt: skip
        timed = ("first_activity_s", "rise_s", "fall_s", "delay_s")
        tenfold = {**lively, **{name: 10 * lively[name] for name in timed}, "switches_per_min": 7}
        right, wrong = ({**RECORDED, "value": value} for value in (lively, tenfold))
        for taken, astray in (([right], ()), ([wrong], ()), ([right, wrong], (1,)), ([wrong, right], (0,))):
            doubt = gross_errors(
                (seen := found(*taken, code="P0133", sensor=UNKNOWN)).belief, seen.taken, seen.posterior
            )
            self.assertEqual({place for place, chance in doubt.items() if chance > 0.5}, set(astray))
            slow = float(seen.posterior[seen.engine.partition.has_fault["cell-slow"]].sum())
            self.assertEqual(slow > 0.9, taken == [wrong])

    def test_the_last_draw_of_a_group_does_not_reach_for_the_next_group(self) -> None:
        shown = np.array([[0.0] * (NEIGHBOURS + 2) + [9.0] * (NEIGHBOURS + 2)])
        fit = Numeric("voltage", shown).fit(Quantity("voltage", 0.0, 0.001))
        self.assertAlmostEqual(float(np.ptp(fit[0, : NEIGHBOURS + 2])), 0.0, places=9)

    def test_a_slip_on_the_battery_is_no_anchor(self) -> None:
        for text, conditioned in (("14.1 V", True), ("7 V", False), ("141 V", False)):
            battery_v = known_battery([observed(**{**BATTERY, "value": text})], 12.0)
            self.assertEqual(bool(battery_v), conditioned, text)

    def test_a_reading_taken_again_and_alike_is_hardly_a_slip(self) -> None:
        sound, other, again = {**ELEMENT, "value": "5.8"}, {**ELEMENT, "value": "41k"}, {**ELEMENT, "value": "40k"}
        for why, taken, wanted in (
            ("one odd reading", [sound, other], (0, 0)), ("the odd one again", [other, again], (1, 1)),
            ("two of three", [other, sound, again], (1, 0, 1)),
            ("the other one struck", [other, {**again, "struck": "wrong pin"}], (0,)),
            ("another place", [sound, {**sound, "red": "harness.heater_supply"}], (0, 0)),
        ):  # fmt: skip
            with self.subTest(why):
                readings = job_of(case(*taken, sensor=STEADY)).readings
                chances = [
                    chance for chance, item in zip(gross_error_chances(readings), readings, strict=True) if item.counts
                ]
                self.assertEqual(tuple(chance == GROSS_ERROR_TWICE for chance in chances), tuple(map(bool, wanted)))

    def test_a_floating_wire_is_told_loosely(self) -> None:
        diagnosis = found()
        floating = probe(**{**SUPPLY, "red": "harness.heater_control", "connector": "unplugged"})
        model = diagnosis.belief.models["heater"]
        display = (model.displays(floating) or {})["value"]
        assert isinstance(display, Numeric) and display.stray is not None
        row = list(model.hypotheses).index(())
        self.assertGreater(float(np.max(display.stray[row])), 5.0)

    def test_a_fault_that_only_one_wiring_can_have_is_weighed_in_that_wiring(self) -> None:
        engine = engines.engine(job_of(case(sensor=UNKNOWN, code="P0135")))
        model = next(item for item in engine.models if item.name == "heater")
        row = list(model.hypotheses).index(("wire-short-battery:heater_supply",))
        self.assertEqual(float(model.draws_before[row][~model.high_side].sum()), 0.0)  # type: ignore[attr-defined]


class FeedOrder(TestCase):
    """Where it is not known whether the relay or the fuse comes first, the readings tell; where it is, they are held against it."""

    def test_a_live_fuse_before_a_dead_relay_means_what_the_order_makes_of_it(self) -> None:
        loaded: dict[str, Any] = {
            "measure": "voltage",
            "black": "battery.negative",
            "key": "running",
            "load": "lamp",
            "watts": 5,
        }
        readings = [
            BATTERY,
            *({**loaded, "red": red, "value": value} for red, value in (("fuse.in", "13.8 V"), ("fuse.out", "0 V"), ("relay.in", "0 V"), ("relay.out", "0 V"))),
        ]  # fmt: skip
        for order, blown in ((None, True), ("fuse-relay", True), ("relay-fuse", False)):
            vehicle = {"label": "Van 3", "feed_live": "running", **({"feed_order": order} if order else {})}
            suspects = diagnose(case(*readings, sensor=STEADY, vehicle=vehicle)).suspects
            chance = {item.fault: item.probability for item in suspects}.get("fuse-blown", 0.0)
            self.assertEqual(chance > 0.7, blown, f"{order} {chance}")


class OtherParts(TestCase):
    """Readings of a known-good sensor or of another place."""

    def test_which_faults_another_part_meets(self) -> None:
        off = probe(**{**ELEMENT, "of": "known-good"})
        plugged = probe(**{**LAMP, "of": "known-good"})
        twin, behind = (probe(**{**SUPPLY, "of": place}) for place in ("B2S1", "B1S2"))
        for why, at, faults, met in (
            ("this sensor", probe(**SUPPLY), ("heater-open",), ("heater-open",)),
            ("a good part on the bench meets nothing", off, ("heater-open", "fuse-blown"), ()),
            ("plugged in it meets the wiring", plugged, ("heater-open", "wire-open:heater_control"), ("wire-open:heater_control",)),
            ("another place shares the feed", twin, ("fuse-blown",), ("fuse-blown",)),
            ("and not the wires", twin, ("wire-open:heater_supply",), ()),
            ("a short to ground blows the fuse for all", twin, ("wire-short-ground:heater_supply",), ("fuse-blown",)),
            ("behind a leak the pipe is rich", behind, ("exhaust-leak",), ("engine-rich",)),
            ("beside it nothing is felt", twin, ("exhaust-leak",), ()),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertEqual(counterpart(faults, at), met)

    def test_a_good_elements_figure_tells_a_high_one_where_no_specification_does(self) -> None:
        high = {**ELEMENT, "value": "21"}
        alone = diagnose(case(high, sensor={**UNKNOWN, "family": "switching-4w"}, code="P0135"))
        compared = diagnose(case(high, {**ELEMENT, "value": "6", "of": "known-good"}, sensor=UNKNOWN, code="P0135"))
        first, then = (
            {item.fault: item.probability for item in verdict.suspects}["heater-high"] for verdict in (alone, compared)
        )
        self.assertGreater(then, first + 0.1)

    def test_a_twin_without_bias_clears_the_module(self) -> None:
        twin = {**FLAT_ZERO, "of": "B1S2"}
        alone, compared = (
            {item.fault: item.probability for item in diagnose(case(*taken, sensor=UNKNOWN, code="P0134")).suspects}
            for taken in ([FLAT_ZERO], [FLAT_ZERO, twin])
        )
        self.assertLess(compared["bias-missing"], 0.5 * alone["bias-missing"])


class Looks(TestCase):
    """What is seen and done, as factors on every hypothesis."""

    SPACE = JointSpace(
        [(), ("pin-open:signal",), ("cell-open",), ("pin-open:signal", "cell-open")], {}, np.full(4, 0.25)
    )

    def test_the_strongest_explanation_counts_and_only_a_hypothesis_that_has_none_is_lowered(self) -> None:
        for target, value, raised in (
            ("pins", "loose", [False, True, False, True]),
            ("connector", "unplugged", [False, True, False, True]),
        ):
            self.assertEqual((self._odds(target, value) > 0).tolist(), raised, target)
        self.assertEqual((self._odds("pins", "ok") < 0).tolist(), [False, True, False, True])

    def test_a_look_at_the_exhaust_counts_for_the_leaks_that_lie_there(self) -> None:
        """Position, where it was looked, what was seen -> the leak ahead of this sensor is likelier (1), less likely (-1), neither."""
        for position, place, value, way in (
            (1, None, "ok", -1), (1, "before-front", "ok", -1), (1, "between", "ok", 0), (1, "between", "leak", 0),
            (2, "before-front", "ok", -1), (2, "between", "ok", -1), (2, "after-rear", "ok", 0), (2, "between", "leak", 1),
            (2, "after-rear", "leak", 0), (3, "between", "leak", 1),
        ):  # fmt: skip
            space = JointSpace([(), ("exhaust-leak",)], {}, np.full(2, 0.5), position)
            self.assertEqual(np.sign(self._odds("exhaust", value, space, place)[1]), way, (position, place, value))
        partly = [
            self._odds("exhaust", "ok", JointSpace([("exhaust-leak",)], {}, np.ones(1), 2), place)[0]
            for place in ("before-front", "between", None)
        ]
        self.assertEqual(partly, sorted(partly, reverse=True))

    def _odds(self, target: str, value: str, space: JointSpace = SPACE, place: str | None = None) -> Array:
        looked = probe(measure="inspect", target=target, **({"at": place} if place else {}))
        seen = observation(looked, value)  # type: ignore[arg-type]
        assert seen is not None
        return log_factor(seen, looked, space)  # type: ignore[arg-type]

    def test_every_usual_outcome_has_a_chance_and_they_sum_to_one(self) -> None:
        for target in ("pins", "connector", "exhaust"):
            table = chances(probe(measure="inspect", target=target), self.SPACE)  # type: ignore[arg-type]
            assert table is not None
            np.testing.assert_allclose(table.sum(axis=1), 1.0)
            self.assertTrue((table > 0).all())

    def test_a_code_does_not_come_back_where_nothing_is_wrong(self) -> None:
        table = chances(probe(measure="act", action="clear-codes", value="returned-later"), self.SPACE)  # type: ignore[arg-type]
        assert table is not None
        self.assertGreater(table[0, 2], 0.9)  # not-returned
        self.assertLess(table[2, 2], 0.2)


def middle(item: Observed) -> float:
    """Of what was noted: one figure, or a span."""
    found = [shown.value for _, shown in item.figures if isinstance(shown, Quantity)]
    return sum(found) / len(found)


@slow
class Benchmark(TestCase):
    """The simulated vehicles and the figures drawn from them."""

    def test_every_family_is_simulated_and_a_seed_gives_the_same_jobs(self) -> None:
        first, again = (list(simulated(len(GROUPS), 3)) for _ in range(2))
        self.assertEqual([item.hidden for item in first], [item.hidden for item in again])
        self.assertEqual(len({item.job.family.id for item in first}), 10)

    def test_simulated_tolerances_are_wider_than_the_engines(self) -> None:
        narrow, wide = Draws(3, 2000).uniform("element", 2.0, 4.0), WideDraws(3, 2000).uniform("element", 2.0, 4.0)
        self.assertLess(float(np.mean((narrow < 2.0) | (narrow > 4.0))), 0.08)
        self.assertTrue(narrow.min() >= 2.0 - 2.0 * REACH and narrow.max() <= 4.0 + 2.0 * REACH)
        self.assertTrue(wide.min() < narrow.min() and wide.max() > narrow.max())
        self.assertLessEqual(wide.max(), 4.0 + 2.0 * BEYOND + 1e-9)

    def test_a_vehicle_shows_behind_a_leak_what_the_engine_expects_there(self) -> None:
        behind = probe(measure="scan", pid="sensor_voltage", key="running", of="B1S2", value="0 V")
        # over a leak the module makes the engine rich; a lean engine is lean there where the trims cannot make up for it
        for hidden, low, high in (("exhaust-leak", 0.0, 0.2), ("engine-lean", 0.2, 0.6)):
            wanted = job_of(case(sensor=UNKNOWN, code="P0131"))
            shown = [ModelVehicle(wanted, (hidden,), seed).take(behind) for seed in range(40)]
            lean = float(np.mean([middle(observe(item)) < 0.4 for item in shown if item]))
            self.assertTrue(low <= lean <= high, (hidden, lean))

    def test_a_rusted_shell_shows_where_a_heater_shares_the_plug(self) -> None:
        told = prepared([row[:2] for row in GROUPS].index(("P0132", "switching-3w")), known=False)
        shell = probe(
            measure="resistance", red="sensor.shell", black="battery.negative", connector="unplugged", value="1"
        )
        for hidden, rusted in (((), False), (("shell-ground-high",), True)):
            with self.subTest(hidden=hidden):
                taken: Any = ModelVehicle(told, hidden, seed=3).take(shell)
                self.assertEqual(parse(taken.value, "resistance").value > 1e4, rusted)

    def test_as_many_readings_slip_as_was_asked_for(self) -> None:
        job = job_of(case(sensor=STEADY))
        element = next(item.probe for item in candidates() if item.id == "element")
        values = [ModelVehicle(job, (), seed, gross_errors=0.5).take(element) for seed in range(120)]
        texts = [item.value for item in values if item is not None]  # type: ignore[union-attr]
        off = sum(text == "OL" or not 2.5 < float(str(text).split()[0]) < 11 or "k" in str(text) for text in texts)
        self.assertTrue(20 < off < 85, off)

    def test_shares_have_their_bounds_and_calibration_its_error(self) -> None:
        self.assertEqual(share(0, 0), {"share": 0.0, "low": 0.0, "high": 1.0})
        found = share(98, 100)
        self.assertTrue(found["low"] < 0.98 < found["high"])
        perfect = calibration([(0.75, index < 75) for index in range(100)])
        self.assertAlmostEqual(perfect["expected_error"], 0.0)
        self.assertAlmostEqual(calibration([(0.9, False)] * 10)["expected_error"], 0.9)


class Mechanisms(TestCase):
    """What a reading says by itself, against sums by hand."""

    def odds(self, reading: dict[str, Any], code: str, **fields: Any) -> dict[str, float]:
        """Fault alone -> how many times likelier it makes the reading than a healthy circuit does."""
        job = job_of(case(reading, code=code, **fields))
        engine = engines.engine(job)
        item = weigh(engine.belief(engine.models_for(job.readings)), 0, job.readings[0])
        assert item is not None
        healthy = item.odds[engine.space.row_of[frozenset()]]
        return {
            next(iter(names)): float(np.exp(item.odds[row] - healthy))
            for names, row in engine.space.row_of.items()
            if len(names) == 1
        }

    def test_nonsense_is_fifty_times_likelier_than_a_gross_error(self) -> None:
        """6 % of oxygen in fresh air fits no healthy probe: it takes a gross error, 2 in 100 readings. Of a probe that reads nonsense every
        reading is such: 1 / 0.02 = 50. A true 20.9 % lies within 0.3 + 0.03 * 21 = 0.9 of every healthy one.
        """
        air = {"measure": "scan", "pid": "o2", "key": "running", "at_s": 900, "with": "fresh-air"}
        sensor = {"family": "nox-can-4w", "bank": 1, "position": 1}
        wrong = self.odds({**air, "value": "6 %"}, "P2201", sensor=sensor)
        self.assertAlmostEqual(wrong["probe-nonsense"], 50.0, delta=8.0)
        self.assertLess(self.odds({**air, "value": "20.9 %"}, "P2201", sensor=sensor)["probe-nonsense"], 0.2)

    def test_two_mixture_faults_in_five_are_of_one_bank(self) -> None:
        """The other bank's trim far to the lean side: three in five of the mixture faults reach it, ln 0.6 below what is read of this bank."""
        trim = {"measure": "scan", "pid": "long_trim", "key": "running", "value": "24 %"}
        vehicle = {"label": "Bus 4", "engine": {"cylinders": 6, "sensor_banks": 2}}
        own, other = (
            self.odds({**trim, **of}, "P0131", vehicle=vehicle, sensor=UNKNOWN)["engine-lean"]
            for of in ({}, {"of": "B2S1"})
        )
        self.assertAlmostEqual(float(np.log(other / own)), float(np.log(0.6)), delta=0.25)

    def test_a_monitor_speaks_against_what_it_tests(self) -> None:
        """Six opens in a hundred pass the module's test, four resistances in ten."""
        done = {"measure": "scan", "pid": "heater_monitor", "key": "running", "value": "complete"}
        told = self.odds(done, "P0135", sensor=STEADY)
        for fault, times in (("heater-open", 0.06), ("driver-open", 0.06), ("heater-high", 0.4), ("supply-high", 0.4)):
            self.assertAlmostEqual(told[fault], times, places=6, msg=fault)
