"""Draws: what is seldom, and where readings have them gathered."""

from typing import Any
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from dianoia.case.job import Job, job_of
from dianoia.circuit.draws import AS_THEY_COME, MINOR_DRAWS, REACH, TAIL, Draws
from dianoia.circuit.gathering import DrawStrategy
from dianoia.circuit.network import Array
from dianoia.diagnosis.inference.learn import BINS, SPREAD, LearnedProposal, learn
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from tests.cases import BATTERY, ELEMENT, STEADY, SUPPLY, case

SHARES = st.lists(st.floats(0.02, 1.0), min_size=2, max_size=BINS)
UNKNOWN = {"family": "switching-4w", "bank": 1, "position": 1}
GOOD = {**ELEMENT, "value": "6.2"}
CURRENT = {"measure": "current", "at": "harness.heater_supply", "key": "running", "connector": "mated",
           "codes_cleared": True, "value": "0.9 A"}  # fmt: skip
ACROSS = {**SUPPLY, "black": "harness.heater_control", "codes_cleared": True, "value": "13.4"}
HIGH_SIDE: list[dict[str, Any]] = [{**SUPPLY, "red": "harness.heater_control", "codes_cleared": True, "value": "12 mV"},
             {**SUPPLY, "connector": "unplugged", "codes_cleared": False, "key": "on", "value": "3 mV"}]  # fmt: skip


def job(*readings: dict[str, Any], **fields: Any) -> Job:
    return job_of(case(*readings, **{"sensor": STEADY, **fields}))


def share(listed: list[float]) -> Array:
    return np.array(listed) / np.sum(listed)


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

    @given(SHARES, SHARES, st.floats(0.1, 0.9))
    def test_gathered_draws_weigh_as_much_less_as_they_are_more(
        self, one: list[float], other: list[float], chance: float
    ) -> None:
        ways = (
            DrawStrategy(chance, {"element": share(one)}),
            DrawStrategy(1.0 - chance, {"element": share(other), "nominal": share(one)}),
        )
        plain, gathered = Draws(3, 4000), Draws(3, 4000, ways)
        weight = gathered.weight / gathered.weight.sum()
        self.assertLess(float(gathered.weight.max()), 1.0 / AS_THEY_COME + 1e-9)
        for name in ("element", "nominal", "duty"):
            for power in (1, 2):
                mean = float((weight * gathered.unit(name) ** power).sum())
                self.assertAlmostEqual(mean, float((plain.unit(name) ** power).mean()), delta=0.03)

    def test_more_draws_lie_where_more_are_wanted(self) -> None:
        draws = Draws(3, 4000, (DrawStrategy(1.0, {"element": np.array((0.1, 0.1, 0.7, 0.1))}),))
        there = np.histogram(draws.unit("element"), np.linspace(0, 1, 5))[0] / 4000
        wanted = (1.0 - AS_THEY_COME) * np.array((0.1, 0.1, 0.7, 0.1)) + AS_THEY_COME / 4
        np.testing.assert_allclose(there, wanted, atol=0.02)

    def test_tails_are_thin_and_short_and_leave_no_range_above_zero(self) -> None:
        values = Draws(3, 5000).uniform("element", 0.1, 4.1)
        beyond = (values < 0.1) | (values > 4.1)
        self.assertTrue(0.0 < float(beyond.mean()) < 2 * TAIL)
        self.assertTrue(values.min() >= 0.05 and values.max() <= 4.1 + 4.0 * REACH + 1e-9)


class Learning(TestCase):
    """What a ledger's first readings say about where draws are needed."""

    def test_draws_gather_where_the_readings_put_the_element(self) -> None:
        told = job(GOOD, BATTERY, CURRENT, ACROSS, sensor=UNKNOWN, code="P0135")
        found = Diagnosis(told, plan=False).weighed.converged.found
        place = np.log(6.2 / 2.5) / np.log(16.0 / 2.5)  # of the family's range
        share = np.array(learn(found.belief, found.posterior).ways["heater"][0].shares["nominal"])
        self.assertAlmostEqual(float(share.sum()), 1.0, places=9)
        self.assertLessEqual(abs(int(share.argmax()) - int(place * BINS)), BINS // 16)
        self.assertGreaterEqual(float(share.min()), SPREAD / BINS - 1e-12)

    def test_a_side_that_is_believed_in_gets_the_draws(self) -> None:
        found = Diagnosis(job(*HIGH_SIDE, sensor=UNKNOWN, code="P0135"), plan=False).weighed.converged.found
        learnt = learn(found.belief, found.posterior)
        assert learnt.high_side is not None
        self.assertGreater(learnt.high_side, 0.12)
        for chance, wanted in ((None, MINOR_DRAWS), (0.0, MINOR_DRAWS), (1.0, 120 - MINOR_DRAWS), (0.5, 60)):
            self.assertEqual(LearnedProposal({}, chance).minor_draws(120), wanted)
