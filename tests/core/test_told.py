"""Names, percentages and costs: every decision and part has its own, and no belief is called certain."""

from dataclasses import replace
from typing import get_args
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from dianoia.case.job import job_of
from dianoia.diagnosis.faults.types import Part
from dianoia.diagnosis.verdict.diagnose import Diagnosis, diagnose
from dianoia.diagnosis.verdict.stands import steps
from dianoia.diagnosis.verdict.told import COSTS, PARTS, TITLES, told
from dianoia.diagnosis.verdict.types import DecisionName
from dianoia.quantities.show import percent
from tests.cases import BATTERY, ELEMENT, LAMP, OPEN_ELEMENT, STEADY, case


class Told(TestCase):
    """What the screens and the paper are given."""

    def test_every_decision_and_part_has_its_words(self) -> None:
        self.assertEqual((set(TITLES), set(PARTS)), (set(get_args(DecisionName)), set(get_args(Part))))
        self.assertLess(set(COSTS), set(TITLES))

    @given(st.floats(0, 1))
    def test_no_belief_is_called_certain_or_impossible(self, share: float) -> None:
        self.assertNotIn(percent(share), ("0 %", "100 %"))

    def test_components_come_with_their_likeliest_faults_and_what_moved_them(self) -> None:
        verdict = diagnose(case(ELEMENT, LAMP, sensor=STEADY))
        found = told(verdict, {"sensor": 0.5, "wiring": 0.2}, ())
        sensor = next(item for item in found.components if item.component == "sensor")
        self.assertEqual(sensor.moved, round(100 * (verdict.by_component["sensor"] - 0.5)))
        self.assertEqual(sensor.faults[0].says, "the heater element is open")
        self.assertTrue(all(len(item.faults) <= 2 for item in found.components))
        by = {item.label: item.by for item in found.parts}
        self.assertEqual((by["supply"], by["control wire"]), ((1,), (1,)))

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
        self.assertEqual(told(verdict, None, ()).title, "Replace the sensor")
        assert verdict.forecast is not None
        for words in (verdict.says, verdict.forecast.says, *verdict.because, *verdict.would_change_it):
            self.assertNotIn("100%", words.replace(" ", ""))
