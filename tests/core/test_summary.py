"""Names, percentages and costs: every decision and part has its own, and no belief is called certain."""

from dataclasses import replace
from math import log
from typing import get_args
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from dianoia.case.job import job_of
from dianoia.diagnosis.catalogue.offered import named
from dianoia.diagnosis.decision.decide import DecisionName
from dianoia.diagnosis.faults.types import Part
from dianoia.diagnosis.inference.evidence import Evidence
from dianoia.diagnosis.verdict.diagnose import Diagnosis, diagnose
from dianoia.diagnosis.verdict.speaking import ReadingWeight, log_ratios, why
from dianoia.diagnosis.verdict.stands import steps
from dianoia.diagnosis.verdict.summary import COSTS, TITLES, summarise
from dianoia.diagnosis.verdict.vocabulary import PARTS
from dianoia.diagnosis.verdict.why import why_next
from dianoia.quantities.show import percent
from tests.cases import BATTERY, ELEMENT, LAMP, OPEN_ELEMENT, STEADY, case, observed


class Told(TestCase):
    """What the screens and the paper are given."""

    def test_every_decision_and_part_has_its_words(self) -> None:
        self.assertEqual((set(TITLES), set(PARTS)), (set(get_args(DecisionName)), set(get_args(Part))))
        self.assertLess(set(COSTS), set(TITLES))

    @given(st.floats(0, 1))
    def test_no_belief_is_called_certain_or_impossible(self, share: float) -> None:
        self.assertNotIn(percent(share), ("0 %", "100 %"))

    def test_components_come_with_their_likeliest_faults_what_moved_them_and_why(self) -> None:
        diagnosis = Diagnosis(job_of(case(ELEMENT, LAMP, sensor=STEADY)))
        verdict = diagnosis.verdict()
        found = summarise(verdict, diagnosis.weighed, diagnosis.before())
        sensor = next(item for item in found.components if item.component == "sensor")
        before = Diagnosis(job_of(case(ELEMENT, sensor=STEADY))).verdict().by_component["sensor"]
        self.assertAlmostEqual(sensor.moved / 100, verdict.by_component["sensor"] - before, delta=0.05)
        self.assertEqual(sensor.faults[0].says, "the heater element is open")
        self.assertTrue(all(len(item.faults) <= 2 for item in found.components))
        by = {item.label: item.by for item in found.parts}
        self.assertEqual((by["supply"], by["control wire"]), ((1,), (1,)))
        strongest = sensor.faults[0].why.readings[0]
        self.assertEqual((strongest.place, strongest.speaks_for), (0, True))
        supply = next(item for item in found.components if item.component == "supply")
        self.assertEqual([(item.place, item.speaks_for) for item in supply.why.readings], [(1, False), (0, False)])

    def test_a_suspect_of_the_other_loop_leaves_what_a_sound_one_shows(self) -> None:
        job = job_of(case(BATTERY, code="P0133", sensor={**STEADY, "family": "switching-4w"}))
        seen = Diagnosis(job, plan=False)
        element = named(job, "element")
        assert element is not None
        sound, broken = why_next(element, seen.weighed, seen.standing).split("; ")
        self.assertRegex(sound, r"^[34]\.\d+ to [78]\.?\d* ohm if the cell is slow")
        self.assertRegex(broken, r"or far more if the heater element is open\.$")

    def test_a_likelihood_ratio_pools_hypotheses_by_their_base_rates(self) -> None:
        """Three hypotheses, 0.2, 0.3, 0.5; a reading 0.9, 0.4, 0.1 likely under them: for the first two
        (0.2 * 0.9 + 0.3 * 0.4) / 0.5 = 0.6, against the last 0.1, 6 to 1.
        """
        prior, likely = np.array([0.2, 0.3, 0.5]), np.log([0.9, 0.4, 0.1])
        item = Evidence(4, observed(**BATTERY), "", likely, None)
        rows = np.array([True, True, False])
        self.assertAlmostEqual(log_ratios([item], rows, prior)[0], log(6.0))
        found = why([item], ~rows, prior)
        self.assertEqual(
            (found.before, found.readings),
            ("50 % before any reading", (ReadingWeight(4, False, "6 times likelier without it"),)),
        )

    def test_where_a_job_stands(self) -> None:
        repaired = {"measure": "act", "action": "replace-sensor", "value": "done"}
        for told_of, now in (
            ((), "place"), ((BATTERY,), "measure"), ((BATTERY, ELEMENT, repaired), "prove"),
        ):  # fmt: skip
            job = job_of(case(*told_of))
            found = steps(Diagnosis(job).verdict(), job.counted)
            self.assertEqual([item.name for item in found if item.state == "now"], [now])
            before = [item.state for item in found]
            self.assertEqual(before, sorted(before, key=["done", "now", "ahead"].index))
        decided = replace(diagnose(case()), decision="replace-sensor")
        self.assertEqual([item.name for item in steps(decided, ()) if item.state == "now"], ["mend"])
        over = replace(decided, decision="no-fault-now")
        self.assertEqual([item.name for item in steps(over, ()) if item.state == "now"], ["hand-over"])

    def test_no_sentence_of_a_decision_says_a_hundred(self) -> None:
        verdict = diagnose(case(*OPEN_ELEMENT, sensor=STEADY))
        self.assertEqual(TITLES[verdict.decision], "Replace the sensor")
        assert verdict.forecast is not None
        for words in (verdict.says, verdict.forecast.says, *verdict.because, *verdict.would_change_it):
            self.assertNotIn("100%", words.replace(" ", ""))
