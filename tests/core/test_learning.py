"""Draws: what is seldom, what was read, and when they are taken anew."""

from typing import Any
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from dianoia.case.job import Job, job_of
from dianoia.circuit.draws import MINOR_DRAWS, REACH, TAIL, Draws
from dianoia.diagnosis.catalogue.offered import engines
from dianoia.diagnosis.faults.subject import subject_of
from dianoia.diagnosis.inference.engine import Engine
from dianoia.diagnosis.inference.learn import BINS, SPREAD, Learnt, learn, standing_draws
from dianoia.diagnosis.inference.resampling import LEARN_AFTER
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from tests.cases import BATTERY, ELEMENT, LAMP, LOADED, STEADY, SUPPLY, case

SHARES = st.lists(st.floats(0.02, 1.0), min_size=2, max_size=BINS)
UNKNOWN = {"family": "switching-4w", "bank": 1, "position": 1}
GOOD = {**ELEMENT, "value": "6.2"}
CURRENT = {"measure": "current", "at": "harness.heater_supply", "key": "running", "connector": "mated",
           "codes_cleared": True, "value": "0.9 A"}  # fmt: skip
ACROSS = {**SUPPLY, "black": "harness.heater_control", "codes_cleared": True, "value": "13.4"}
HIGH_SIDE = [{**SUPPLY, "red": "harness.heater_control", "codes_cleared": True, "value": "12 mV"},
             {**SUPPLY, "connector": "unplugged", "codes_cleared": False, "key": "on", "value": "3 mV"}]  # fmt: skip


def job(*readings: dict[str, Any], **fields: Any) -> Job:
    return job_of(case(*readings, **{"sensor": STEADY, **fields}))


class Sampling(TestCase):
    """Samples drawn otherwise than they come, and weighed for it: every mean stays as it was."""

    @given(st.floats(0.005, 0.4), st.floats(0.05, 0.5))
    def test_what_is_seldom_is_drawn_more_often_and_weighs_less(self, chance: float, drawn: float) -> None:
        draws = Draws(3, 400)
        below = draws.rare("element", chance, drawn) < chance
        self.assertAlmostEqual(float(below.mean()), drawn, delta=0.01)
        self.assertAlmostEqual(float(draws.weight[below].sum()) / 400, chance, delta=0.01 * chance / drawn + 1e-9)

    @given(SHARES)
    def test_options_keep_their_shares(self, weights: list[float]) -> None:
        draws = Draws(3, 2000)
        picked = draws.evened("element", weights)
        kept = np.bincount(picked, weights=draws.weight, minlength=len(weights)) / 2000
        np.testing.assert_allclose(kept, np.array(weights) / sum(weights), atol=0.01)

    @given(SHARES)
    def test_gathered_draws_weigh_as_much_less_as_they_are_more(self, shares: list[float]) -> None:
        share = np.array(shares) / sum(shares)
        plain, gathered = Draws(3, 2000), Draws(3, 2000, {"element": tuple(share)})
        placed = gathered.unit("element")
        counts = np.histogram(placed, np.linspace(0, 1, share.size + 1))[0] / 2000
        np.testing.assert_allclose(counts, share, atol=0.002)
        mean = float((gathered.weight * placed).sum() / gathered.weight.sum())
        self.assertAlmostEqual(mean, float(plain.unit("element").mean()), delta=0.02)

    def test_tails_are_thin_and_short_and_leave_no_range_above_zero(self) -> None:
        values = Draws(3, 5000).uniform("element", 0.1, 4.1)
        beyond = (values < 0.1) | (values > 4.1)
        self.assertTrue(0.0 < float(beyond.mean()) < 2 * TAIL)
        self.assertTrue(values.min() >= 0.05 and values.max() <= 4.1 + 4.0 * REACH + 1e-9)


class Learning(TestCase):
    """What a ledger's first readings say about where draws are needed."""

    def test_draws_gather_where_the_readings_put_the_element(self) -> None:
        told = job(GOOD, BATTERY, CURRENT, ACROSS, sensor=UNKNOWN, code="P0135")
        diagnosis = Diagnosis(told, plan=False)
        learnt = learn(diagnosis.weighed.belief, diagnosis.weighed.posterior)
        share = np.array(learnt.density["heater"]["nominal"])
        place = np.log(6.2 / 2.5) / np.log(16.0 / 2.5)  # of the family's range
        self.assertAlmostEqual(float(share.sum()), 1.0, places=9)
        self.assertLessEqual(abs(int(share.argmax()) - int(place * BINS)), 1)
        self.assertGreaterEqual(float(share.min()), SPREAD / BINS - 1e-12)

    def test_belief_stays_where_it_was_when_the_draws_are_taken_anew(self) -> None:
        readings = [GOOD, BATTERY, CURRENT, ACROSS, SUPPLY]
        told = job(*readings, sensor=UNKNOWN, code="P0135")
        plain = Diagnosis(told.with_readings(told.readings[:LEARN_AFTER]), plan=False)
        learnt = learn(plain.weighed.belief, plain.weighed.posterior)
        anew = Engine(subject_of(told), learnt)
        first = anew.belief(anew.models)
        np.testing.assert_allclose(first.posterior(), anew.space.prior, atol=1e-9)
        self.assertTrue(all(np.isclose(model.draws_before.sum(axis=1), 1.0).all() for model in anew.models))

    def test_a_side_that_is_believed_in_gets_the_draws(self) -> None:
        diagnosis = Diagnosis(job(*HIGH_SIDE, sensor=UNKNOWN, code="P0135"), plan=False)
        learnt = learn(diagnosis.weighed.belief, diagnosis.weighed.posterior)
        assert learnt.high_side is not None
        self.assertGreater(learnt.high_side, 0.12)
        for chance, wanted in ((None, MINOR_DRAWS), (0.0, MINOR_DRAWS), (1.0, 100 - MINOR_DRAWS), (0.5, 50)):
            self.assertEqual(Learnt({}, chance).minor_draws(100), wanted)

    def test_precise_readings_wear_the_draws_out(self) -> None:
        few, more = (Diagnosis(job(*taken, sensor=UNKNOWN, code="P0135"), plan=False)
                     for taken in ([BATTERY], [BATTERY, GOOD, CURRENT]))  # fmt: skip
        stand = [standing_draws(item.weighed.belief, item.weighed.posterior, "heater") for item in (few, more)]
        self.assertLess(stand[1], 0.5 * stand[0])


class TakenAnew(TestCase):
    """Which engine a ledger is weighed with."""

    #: A heater driven in pulses: every figure depends on the same few unknowns.
    READINGS = (
        {"measure": "scan", "pid": "heater_resistance", "key": "running", "codes_cleared": True, "value": "8.24 ohm"},
        {"measure": "scan", "pid": "heater_current", "key": "running", "codes_cleared": True, "value": "0.31 A"},
        {**ACROSS, "value": "2.32 V"},
        {**SUPPLY, "red": "harness.heater_control", "codes_cleared": True, "value": "10.8 V"},
        BATTERY,
    )

    def ledger(self, count: int, **changes: Any) -> Job:
        return job(*self.READINGS[:count], sensor=UNKNOWN, code="P0135", **changes)

    def test_a_worn_ledger_gets_an_engine_of_its_own_and_a_short_one_does_not(self) -> None:
        engines.forget()
        base = engines.engine(self.ledger(0))
        self.assertIs(engines.engine(self.ledger(LEARN_AFTER)), base)
        self.assertIsNot(engines.engine(self.ledger(LEARN_AFTER + 1)), base)

    def test_a_decision_rests_on_draws_that_stand(self) -> None:
        live = {"measure": "voltage", "key": "running", "connector": "mated", "black": "battery.negative"}
        told = job(
            {"measure": "scan", "pid": "heater_current", "key": "running", "codes_cleared": True, "value": "0.615 A"},
            {**ACROSS, "value": "6.48 V"}, {**live, "red": "harness.heater_control", "value": "1.23 V"},
            {**live, "red": "harness.heater_control", "value": "1.25 V"},
            {**live, "red": "harness.heater_supply", "value": "7.67 V"},
            sensor={"family": "wideband-5w", "bank": 1, "position": 1, "heater_switch": "low-side"}, code="P0032",
        )  # fmt: skip
        diagnosis = Diagnosis(told, plan=False)
        chance = {name: float(diagnosis.weighed.posterior[diagnosis.weighed.engine.partition.has_fault[name]].sum())
                  for name in ("supply-high", "wire-high:heater_supply")}  # fmt: skip
        # nothing read yet tells the feed's two halves apart: few draws of one would have decided between them
        self.assertLess(max(chance.values()), 4 * min(chance.values()))

    def test_the_newest_reading_does_not_choose_the_engine(self) -> None:
        one, other = (job(*self.READINGS[:LEARN_AFTER], last, sensor=UNKNOWN, code="P0135") for last in (BATTERY, LAMP))
        self.assertIs(engines.engine(one), engines.engine(other))

    def test_what_is_made_ready_is_what_the_next_reading_finds(self) -> None:
        engines.forget()
        base = engines.engine(self.ledger(0))
        engines.make_ready(self.ledger(LEARN_AFTER))
        kept = [item for item in engines.kept if item is not base]
        self.assertIn(engines.engine(self.ledger(LEARN_AFTER + 1)), kept)

    def test_a_struck_reading_teaches_nothing(self) -> None:
        struck = {**LOADED, "struck": "wrong pin"}
        with_it = job(struck, *self.READINGS[: LEARN_AFTER + 1], sensor=UNKNOWN, code="P0135")
        self.assertIs(engines.engine(with_it), engines.engine(self.ledger(LEARN_AFTER + 1)))
