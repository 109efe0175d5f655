"""The next reading: what it costs, how far it is looked ahead, what is said of the way, and what the styles change."""

from dataclasses import replace
from typing import Any
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from dianoia.bench.optimum import Optimum, compare, followed
from dianoia.case.job import Job, job_of
from dianoia.case.workshop import Workshop
from dianoia.diagnosis.catalogue.candidates import candidates
from dianoia.diagnosis.catalogue.costs import (
    Position,
    Prices,
    after,
    cost,
    general_minutes,
    hazard,
    position_after,
    prices_of,
)
from dianoia.diagnosis.catalogue.offered import engines, offered
from dianoia.diagnosis.inference.predictions import Predictions
from dianoia.diagnosis.planning.forecast import stop
from dianoia.diagnosis.planning.information import information
from dianoia.diagnosis.planning.lookahead import LookaheadProblem, choose
from dianoia.diagnosis.verdict.diagnose import Diagnosis, diagnose
from tests.cases import BATTERY, ELEMENT, LAMP, LOADED, LOOKED, OPEN_ELEMENT, STEADY, SUPPLY, case, observed
from tests.strategies import problems

BY_ID = {item.id: item for item in candidates()}
TO_THE_END = 50


def job(*readings: dict[str, Any], **fields: Any) -> Job:
    return job_of(case(*readings, **{"sensor": STEADY, **fields}))


class Looking(TestCase):
    """The small problem and its policies."""

    @settings(max_examples=40, deadline=None)
    @given(problems())
    def test_the_optimum_is_least_and_looking_ahead_never_costs_more_than_greed(
        self, drawn: tuple[LookaheadProblem, Any]
    ) -> None:
        problem, chance = drawn
        start = problem.start(chance)
        best = Optimum(problem).minutes(start)
        greedy = problem.minutes(start, TO_THE_END)
        ahead = followed(problem, start, lambda state: choose(problem, state, 9, TO_THE_END))
        self.assertLessEqual(best, ahead + 1e-6)
        self.assertLessEqual(ahead, greedy + 1e-6)

    @settings(max_examples=40, deadline=None)
    @given(problems(), st.integers(0, 3))
    def test_outcomes_share_out_the_belief(self, drawn: tuple[LookaheadProblem, Any], option: int) -> None:
        problem, chance = drawn
        start = problem.start(chance)
        branches = problem.branches(start, option)
        self.assertAlmostEqual(sum(share for share, _ in branches), 1.0)
        mixed = sum(share * later.chance for share, later in branches)
        np.testing.assert_allclose(mixed, start.chance, atol=1e-9)
        self.assertTrue(all(later.used >> option & 1 for _, later in branches))

    def test_a_gate_holds_a_decision_up_until_its_parts_were_spoken_for(self) -> None:
        tables = np.array([[[1.0, 0.0], [0.0, 1.0]], [[1.0, 0.0], [1.0, 0.0]]])
        problem = LookaheadProblem(
            tables, np.array([[0, 0], [1, 1]]), np.ones((3, 2)), np.array([0, 1]), np.array([1, 0]), np.full(2, 0.95)
        )
        [(_, sensor), (_, other)] = problem.branches(problem.start(np.array([0.5, 0.5])), 0)
        self.assertFalse(problem.decided(sensor))
        self.assertTrue(problem.decided(other))
        self.assertEqual(choose(problem, sensor, 2, TO_THE_END), 1)
        [(_, proven)] = problem.branches(sensor, 1)
        self.assertTrue(problem.decided(proven))

    @given(st.integers(0, 2**32), st.lists(st.integers(1, 4), min_size=1, max_size=3))
    def test_information_is_what_knowing_the_group_takes_from_the_doubt_about_the_outcome(
        self, seed: int, groups: list[int]
    ) -> None:
        random = np.random.default_rng(seed)
        questions = [random.random((number, 6)) * (random.random((number, 6)) > 0.3) for number in groups]
        tables = [random.dirichlet(np.ones(outcomes), 6) for outcomes in (2, 5)]
        alike = np.tile(random.dirichlet(np.ones(3)), (6, 1))
        found = information(questions, [*tables, alike])
        np.testing.assert_allclose(found[:, 2], 0.0, atol=1e-9)
        for row, question in enumerate(questions):
            share = question / max(question.sum(), 1e-300)
            for place, table in enumerate(tables):
                each = [share[group].sum() * self.doubt(share[group] @ table) for group in range(len(share))]
                self.assertAlmostEqual(found[row, place], self.doubt(share.sum(axis=0) @ table) - sum(each), places=6)

    def doubt(self, chances: Any) -> float:
        kept = chances[chances > 0] / max(chances.sum(), 1e-300)
        return float(-(kept * np.log2(kept)).sum())

    def test_what_a_loop_shows_tells_as_much_as_what_each_joint_hypothesis_shows(self) -> None:
        whole = job(BATTERY, code="P0134", sensor={"family": "switching-4w", "bank": 1, "position": 1})
        engine = engines.engine(whole)
        predictions = Predictions(
            engine.belief(engine.models_for(whole.readings)), np.arange(0, len(engine.space.faults), 7)
        )
        weight = np.random.default_rng(3).random((5, predictions.rows.size))
        loops = set()
        for item in offered(whole, engine, frozenset(engine.loops)):
            shown, tables = predictions.shown(item.probe), predictions.tables(item.probe)
            if tables:
                loops.add(shown.loop)
                short = information([predictions.gathered(shown.loop, weight)], shown.tables)
                np.testing.assert_allclose(short, information([weight], tables), atol=1e-9, err_msg=item.id)
        self.assertEqual(loops, {"", "signal", "heater"})

    def test_the_planner_comes_within_a_fourteenth_of_the_optimum_and_beats_every_style(self) -> None:
        found = compare()
        self.assertGreaterEqual((found["faults"], found["readings"]), (16, 12))
        self.assertLessEqual(round(found["planner_over_optimum"], 2), 1.07)
        self.assertLessEqual(found["planner_minutes"], 0.8 * min(found["styles_minutes"].values()))


class Costing(TestCase):
    """Minutes: the reading's own, the way, the change of set-up; and what hazards weigh."""

    def prices(self, **fields: Any) -> Prices:
        return prices_of(job(**fields))

    def test_a_reading_next_to_the_last_costs_only_itself(self) -> None:
        prices = self.prices()
        item = BY_ID["supply-live"]
        self.assertEqual(cost(item, position_after([observed(**SUPPLY)]), prices), item.minutes)

    def test_every_change_of_set_up_is_priced(self) -> None:
        prices = self.prices()
        here = Position("plug", BY_ID["supply-live"].probe.setting, warm=True)
        for why, wanted, changes in (
            ("codes cleared", "control-live-cleared", ("codes_cleared",)),
            ("plug apart", "supply-loaded", ("connector",)),
            ("plug apart, key off, a cold element", "element", ("connector", "key", "cooling")),
            ("the module's connector, battery off", "control-wire-ohms",
             ("connector", "key", "module_connector", "battery")),
        ):  # fmt: skip
            with self.subTest(why):
                item = BY_ID[wanted]
                way = 0.0 if item.at == "plug" else prices.places[item.at]
                expected = item.minutes + way + sum(prices.changes[name] for name in changes)
                self.assertAlmostEqual(cost(item, here, prices), expected)

    def test_a_cold_element_is_free_before_the_engine_ran(self) -> None:
        prices = self.prices()
        cold, warm = (position_after([observed(**ELEMENT), *first]) for first in ([], [observed(**BATTERY)]))
        self.assertLess(cost(BY_ID["element"], cold, prices), cost(BY_ID["element"], warm, prices))
        assert warm is not None
        self.assertTrue(after(BY_ID["element"], warm).warm)

    def test_a_sensor_behind_the_catalyst_and_the_vehicles_own_access_change_the_way(self) -> None:
        front, behind = (self.prices(code=code).places["plug"] for code in ("P0135", "P0141"))
        self.assertGreater(behind, front)
        own = self.prices(vehicle={"label": "Plough 2", "access": {"plug": 17, "cooling": 0}})
        self.assertEqual((own.places["plug"], own.changes["cooling"]), (17, 0))

    def test_the_workshops_minutes_win_over_the_general_ones_and_the_vehicles_over_both(self) -> None:
        workshop = {"minutes": {"plug": 9, "battery_off": 5, "module": 1}}
        prices = self.prices(workshop=workshop, code="P0135", vehicle={"label": "Bus", "access": {"module": 30}})
        self.assertEqual((prices.places["plug"], prices.changes["battery"], prices.places["module"]), (9, 5, 30))
        self.assertEqual(general_minutes()["battery_off"], self.prices().changes["battery"])

    def test_enrichment_weighs_more_than_leaning_out(self) -> None:
        rich, lean = (hazard(BY_ID[f"scan-sensor_voltage-{how}"], self.prices()) for how in ("rich", "lean"))
        self.assertGreater(rich, lean + 3)


class Proposing(TestCase):
    """What is offered, in which order, and when it ends."""

    def test_tools_that_are_not_at_hand_are_not_proposed(self) -> None:
        for why, fields, gone in (
            ("only meter and lamp", {"workshop": {"tools": ["meter", "lamp"]}}, {"scan", "scope", "current", "trace"}),
            ("basic kit", {"style": "basic-kit"}, {"scan", "scope", "current", "trace"}),
            ("no lamp", {"workshop": {"tools": ["meter", "scan"]}}, {"lamp", "scope", "current"}),
        ):
            with self.subTest(why):
                left = offered(job(**fields), engines.engine(job(**fields)))
                self.assertFalse(gone & {item.probe.measure for item in left})
                self.assertTrue(left)

    def test_a_workshop_that_brings_a_scope_has_it_in_every_style(self) -> None:
        wanted = job(style="basic-kit", workshop={"tools": ["meter", "scope"]})
        self.assertIn("scope", {item.probe.measure for item in offered(wanted, engines.engine(wanted))})

    def test_a_reading_that_fits_nothing_is_asked_for_once_more_and_no_third_time(self) -> None:
        gross_error = {**SUPPLY, "value": "1.38 V"}
        sound: list[dict[str, Any]] = [
            BATTERY,
            {**SUPPLY, "red": "fuse.out", "connector": "mated"},
            LOADED,
            LAMP,
            {**ELEMENT, "value": "5.6"},
        ]
        diagnosis = Diagnosis(job(*sound, gross_error))
        ids = [item.candidate.id for item in diagnosis.ranked()]
        self.assertIn("supply-live", ids)
        again = Diagnosis(job(*sound, gross_error, gross_error))
        self.assertNotIn("supply-live", [item.candidate.id for item in again.ranked()])

    def test_a_dead_driver_is_got_round_by_a_bridge_at_the_module(self) -> None:
        dead = {**SUPPLY, "red": "module.heater_control", "codes_cleared": True, "value": "13.8 V"}
        offered = Diagnosis(job(BATTERY, SUPPLY, dead)).offered()
        bridged = next(item for item in offered if item.id == "lamp-through-wires")
        self.assertEqual(bridged.probe.jumper, ("module.heater_control", "battery.negative"))
        proof = {**LAMP, "jumper": ["module.heater_control", "battery.negative"]}
        states = Diagnosis(job(BATTERY, dead, {**dead, "red": "harness.heater_control"}, proof)).weighed.states
        self.assertTrue(states["control"].proven)

    def test_another_loop_is_searched_like_the_codes_own_once_it_is_suspected(self) -> None:
        zirconia = {"family": "switching-4w", "bank": 1, "position": 1, **STEADY}
        flat = {"measure": "scan", "pid": "sensor_voltage", "key": "running", "value": "0.12 V"}
        dead = {**SUPPLY, "value": "0.0 V"}
        before, then = (
            {item.id for item in Diagnosis(job(*taken, code="P0131", sensor=zirconia)).offered()}
            for taken in ([flat], [flat, dead])
        )
        self.assertNotIn("relay-in", before)
        self.assertIn("relay-in", then)

    def test_where_every_reading_left_may_stay_blank_there_is_a_way_all_the_same(self) -> None:
        # a silent unit shows no status: that nothing is shown is an outcome, too
        at = {"key": "running", "connector": "mated", "black": "battery.negative"}
        verdict = diagnose(case(
            {"measure": "scan", "pid": "can_messages", "key": "running", "value": "absent"},
            {"measure": "voltage", "red": "harness.supply", **at, "value": "14.1 V"},
            {"measure": "voltage", "red": "harness.ground", **at, "value": "0.00 V"},
            {"measure": "lamp", "red": "harness.supply", "black": "harness.ground", "watts": 21, "key": "running",
             "connector": "unplugged", "value": "bright"},
            LOOKED,
            {"measure": "resistance", "red": "harness.can_high", "black": "harness.can_low", "key": "off",
             "connector": "unplugged", "battery": "disconnected", "value": "60.7"},
            *({"measure": "voltage", "red": f"harness.{wire}", **at, "key": "on", "connector": "unplugged", "value": volts}
              for wire, volts in (("can_high", "2.7"), ("can_low", "2.3"))),
            {"measure": "scan", "pid": "can_messages", "key": "running", "of": "B1S2", "value": "present"},
            code="U029D",
        ))  # fmt: skip
        self.assertEqual(verdict.suspects[0].fault, "unit-dead")
        assert verdict.forecast is not None and verdict.next is not None
        self.assertEqual(verdict.forecast.steps[0].id, verdict.next.id)

    def test_the_forecast_names_the_proposed_reading_first_and_shrinks_as_readings_come_in(self) -> None:
        start = diagnose(case(sensor=STEADY))
        later = diagnose(case(BATTERY, SUPPLY, ELEMENT, sensor=STEADY))
        assert start.forecast and start.next and later.forecast
        self.assertEqual(start.forecast.steps[0].id, start.next.id)
        assert start.forecast.expected_minutes and later.forecast.expected_minutes
        self.assertLess(later.forecast.expected_minutes, start.forecast.expected_minutes)
        done = diagnose(case(*OPEN_ELEMENT, sensor=STEADY)).forecast
        assert done
        self.assertEqual((done.steps, done.expected_minutes), ((), None))
        self.assertIn("No further reading is needed", done.says)

    def test_certainty_is_weighed_against_part_and_risk(self) -> None:
        money = Workshop(labour_per_hour=90, part_price=60, wrong_call_cost=200, currency="€")
        for why, minutes, sensor, pays in (
            ("short way, open question", 10.0, 0.5, True),
            ("long way, nearly certain", 90.0, 0.98, False),
            ("long way, but the sensor hardly is it", 90.0, 0.02, True),
        ):
            with self.subTest(why):
                found = stop(minutes, sensor, money)
                assert found
                self.assertEqual(found.pays, pays)
                self.assertAlmostEqual(found.certainty_cost, 90 * minutes / 60)
                self.assertIn(f"{found.certainty_cost:.0f} €", found.says)
        self.assertIsNone(stop(10.0, 0.5, replace(money, part_price=None)))
