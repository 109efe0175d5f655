"""A reading judged by itself, and what the ledger would say without it."""

from dataclasses import replace
from threading import Thread
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from dianoia.bench.jobs import GROUPS, prepared
from dianoia.bench.vehicle import ModelVehicle
from dianoia.case.job import Job, job_of, read_as
from dianoia.case.measures import Reading
from dianoia.diagnosis.catalogue.offered import engines, offered
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from dianoia.diagnosis.verdict.judging import judge_newest
from tests.cases import BATTERY, ELEMENT, LAMP, LOOKED, STEADY, SUPPLY, case


def grown(job: Job, *readings: Reading) -> Job:
    return job.with_readings([read_as(job, item) for item in readings])


class Judgement(TestCase):
    """``judge_newest`` against the whole verdict."""

    @settings(max_examples=25)
    @given(st.integers(0, len(GROUPS) - 1), st.integers(0, 2**20), st.booleans())
    def test_alone_it_says_what_the_verdict_says_of_it(self, row: int, seed: int, sound: bool) -> None:
        job, random = prepared(row, known=True), np.random.default_rng(seed)
        engine = engines.engine(job)
        hidden = () if sound else engine.space.faults[int(random.integers(1, len(engine.space.faults)))]
        vehicle = ModelVehicle(job, hidden, seed)
        listed = offered(job, engine)
        picked = [listed[int(place)] for place in random.integers(0, len(listed), 2)]
        taken = [reading for item in picked if (reading := vehicle.take(item.probe)) is not None]
        if taken:
            job = grown(job, *taken)
            whole = Diagnosis(job).verdict().judged[-1]
            self.assertEqual(judge_newest(job), replace(whole, warnings=()))

    def test_it_is_the_same_while_the_next_reading_is_being_made_ready(self) -> None:
        job = prepared(GROUPS.index(("P0030", "titania-4w", 1, "heater")), known=False)
        vehicle = ModelVehicle(job, ("heater-open",), 3)
        taken = [
            grown(job, reading)
            for item in offered(job, engines.engine(job))[:12]
            if (reading := vehicle.take(item.probe))
        ]
        alone = [judge_newest(item) for item in taken]
        engines.forget()
        ahead = Thread(target=engines.make_ready, args=(job,))
        ahead.start()
        meanwhile = [judge_newest(item) for item in taken]
        ahead.join()
        self.assertEqual(meanwhile, alone)
        self.assertEqual([judge_newest(item) for item in taken], alone)

    def test_it_works_out_its_own_place_only(self) -> None:
        job = job_of(case(SUPPLY, sensor=STEADY))
        engines.forget()
        self.assertEqual(judge_newest(job).result, "pass")
        (model,) = engines.bare_engine(job).models
        asked = {place.red for _, place in model._solved.answers}  # type: ignore[attr-defined]
        self.assertEqual(asked, {"harness.heater_supply"})

    def test_a_path_to_ground_that_other_consumers_may_make_is_not_clear_until_they_are_unplugged(self) -> None:
        path = {"measure": "resistance", "red": "harness.heater_supply", "black": "chassis", "key": "off", "connector": "unplugged"}  # fmt: skip
        for others, value, result in (
            (None, "1.8 ohm", "unclear"),
            ("unplugged", "1.8 ohm", "fail"),
            (None, "OL", "pass"),
        ):
            reading = {**path, "value": value, **({"others": others} if others else {})}
            judged = judge_newest(job_of(case(reading, sensor=STEADY)))
            self.assertEqual(judged.result, result, f"{others} {value} {judged.expected}")
            self.assertEqual("unplug it" in judged.means, result == "unclear")

    def test_what_it_means_is_the_news_in_the_sentence(self) -> None:
        for why, reading, begins in (
            ("sound", SUPPLY, "Good."), ("bad", ELEMENT, "Points to: the heater element is open"),
            ("seen", LOOKED, ""), ("another part", {**ELEMENT, "of": "B1S1"}, "B1S1 is itself bad"), ("a sound one", {**ELEMENT, "of": "B1S1", "value": "6 ohm"}, "B1S1 reads good"),
            ("the old one on the bench, not replaced yet", {**ELEMENT, "of": "old"}, "Points to: the heater element is open"),
            ("another at work", {**SUPPLY, "of": "B1S1", "value": "0 V"}, "B1S1 has a fault of its own, or shares"),
            ("a known-good one", {**SUPPLY, "of": "known-good", "value": "0 V"}, "Still bad with a known-good sensor"),
            ("struck", {**ELEMENT, "struck": "wrong pin"}, "Struck: wrong pin."),
        ):  # fmt: skip
            judged = judge_newest(job_of(case(reading, sensor=STEADY)))
            with self.subTest(why):
                self.assertTrue(judged.means.startswith(begins), judged.means)
                self.assertIn(judged.means.lower(), judged.says.lower())
                self.assertFalse(judged.means.startswith(f"{reading['value']} "))


class LeftOut(TestCase):
    """The ledger without one of its readings."""

    def test_belief_without_a_reading_is_that_of_a_ledger_that_never_had_it(self) -> None:
        readings = case(BATTERY, SUPPLY, ELEMENT, LAMP, sensor=STEADY).readings
        job = job_of(case(sensor=STEADY))
        seen = Diagnosis(grown(job, *readings[1:]), plan=False)
        for place in range(3):
            kept = [item for item in seen.weighed.taken if item.place != place]
            without = seen.weighed._belief_without(place, kept).posterior()
            never = Diagnosis(
                grown(job, *(item for index, item in enumerate(readings[1:]) if index != place)), plan=False
            ).weighed
            np.testing.assert_allclose(without, never.posterior, atol=0.02)
        before = Diagnosis(grown(job, *readings[1:3]), plan=False).weighed
        self.assertEqual(seen.before(), before.components())

    def test_there_is_nothing_before_the_first_reading(self) -> None:
        job = job_of(case(sensor=STEADY))
        self.assertIsNone(Diagnosis(job, plan=False).before())
