"""Whatever a hurried person notes, in any order: it is taken, weighed and said, and nothing falls over."""

import json
from typing import Any, get_args
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from dianoia.case.check import check
from dianoia.case.job import job_of
from dianoia.case.load import case_from_json, case_from_plain, to_plain
from dianoia.diagnosis.decision.decide import DecisionName
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from dianoia.drawings.circuit import drawing
from dianoia.drawings.plug import plug
from dianoia.families.tables import families
from tests.cases import plain_case
from tests.strategies import ledgers
from tests.tags import slow

CODES = {"zirconia": "P0135", "titania": "P0130", "limiting-current": "P2237", "two-cell": "P2243", "nox": "P229E"}
FAMILIES = ("switching-1w", "switching-4w", "titania-4w", "airfuel-4w", "wideband-6w", "nox-can-4w")


@st.composite
def noted(draw: st.DrawFn) -> dict[str, Any]:
    """A plain case of any family with any ledger."""
    row = families()[draw(st.sampled_from(FAMILIES))]
    sensor = {"family": row.id, "bank": 1, "position": draw(st.sampled_from((1, 2)))}
    code = "P0130" if row.id == "switching-1w" else CODES[row.cell]
    return plain_case(*draw(ledgers(row)), code=code, sensor=sensor)


@slow
class AnyLedger(TestCase):
    """Properties of the whole core."""

    @settings(max_examples=200, deadline=None)
    @given(noted())
    def test_it_is_taken_as_noted_and_comes_back_from_its_file(self, plain: dict[str, Any]) -> None:
        case = case_from_plain(plain)
        check(case)
        self.assertEqual(case_from_json(json.dumps(to_plain(case))), case)

    @settings(max_examples=40, deadline=None)
    @given(noted())
    def test_belief_stays_a_belief_and_every_reading_is_judged(self, plain: dict[str, Any]) -> None:
        job = job_of(case_from_plain(plain))
        diagnosis = Diagnosis(job)
        verdict = diagnosis.verdict()
        self.assertIn(verdict.decision, get_args(DecisionName))
        shares = [item.probability for item in verdict.suspects] + list(verdict.by_component.values())
        self.assertTrue(all(0.0 <= share <= 1.0 + 1e-6 for share in shares), shares)
        self.assertAlmostEqual(float(diagnosis.weighed.posterior.sum()), 1.0, places=6)
        self.assertEqual([item.reading for item in verdict.judged], list(range(len(job.readings))))
        self.assertTrue(all(item.says and item.expected is not None for item in verdict.judged))
        for words in (
            verdict.says,
            *verdict.because,
            *verdict.would_change_it,
            *(item.says for item in verdict.warnings),
        ):
            self.assertNotRegex(words, r"\bnan\b|None|\binf\b|\{|_")
        if verdict.decision == "keep-testing":
            self.assertTrue(verdict.next)
        self.assertTrue(drawing(job, verdict).points and plug(job).cavities)
        json.dumps(to_plain(verdict))
