"""What is worked out between readings, and that it never stands in their way."""

import json
from unittest.mock import patch

from django.test import TestCase

from dianoia.case.job import job_of
from dianoia.case.workshop import Workshop
from server.jobs.start import start_job
from server.jobs.workshop import set_workshop
from server.work import diagnosis_tasks, precompute
from tests.cases import BATTERY, SUPPLY, case
from tests.people import AtTheBench, author


class LookingAhead(AtTheBench, TestCase):
    """The background work after a reading."""

    def test_looking_at_a_job_sets_it_off_with_its_whole_ledger(self) -> None:
        body = {"codes": "P0057", "vehicle": {"label": "Bus 4"}}
        view = self.client.post("/api/jobs", json.dumps(body), content_type="application/json").json()
        self.client.post(f"/api/jobs/{view['id']}/readings", json.dumps(SUPPLY), content_type="application/json")
        with patch("server.work.diagnosis_tasks.look_ahead") as looked:
            self.client.get(f"/api/jobs/{view['id']}")
        number, job = looked.call_args.args[:2]
        self.assertEqual(number, view["id"])
        self.assertEqual([item.value for item in job.case.readings], [SUPPLY["value"]])

    def test_a_failure_is_told_in_the_log_and_the_next_one_is_still_done(self) -> None:
        done: list[object] = []
        precompute._worker.submit(lambda: None).result(60)  # what other tests have set off is done

        def fails_once(job: object) -> None:
            done.append(job)
            if len(done) == 1:
                raise ValueError("no luck")

        with (
            patch("server.work.precompute.engines.make_ready", fails_once),
            self.assertLogs("server.work.precompute", "ERROR"),
        ):
            for number in range(2):
                precompute.look_ahead(number, job_of(case(SUPPLY)))
            precompute._worker.submit(lambda: None).result(10)
        self.assertEqual(len(done), 2)


class AsShown(AtTheBench, TestCase):
    """A job is worked out once for each state of it."""

    def test_opening_a_job_again_works_nothing_out_until_something_changes(self) -> None:
        job = start_job(case(SUPPLY), by=author("Ana")).job
        path = f"/api/jobs/{job.pk}"

        def works_out() -> bool:
            with patch("server.jobs.results.concluded", side_effect=diagnosis_tasks.concluded) as asked:
                self.answer = self.client.get(path).content
            return bool(asked.called)

        with patch("server.work.diagnosis_tasks.look_ahead") as looked:
            self.assertEqual([works_out(), works_out()], [True, False])
        first = self.answer
        worked_out, opened = looked.call_args_list
        for asked in (worked_out, opened):
            self.assertEqual(asked.args[0], job.pk)
            self.assertIn(False, (*asked.args[2:], *asked.kwargs.values()))  # no decision stands: it does not rest
        for why, change in (
            ("a reading", lambda: self.client.post(f"{path}/readings", json.dumps(BATTERY), content_type="application/json")),
            ("the workshop's prices", lambda: set_workshop(Workshop(labour_per_hour=60.0))),
            ("another version", lambda: patch("server.work.kept_views.program", return_value="newer").start()),
        ):  # fmt: skip
            change()
            with self.subTest(why):
                self.assertEqual([works_out(), works_out()], [True, False])
        patch.stopall()
        self.assertNotEqual(json.loads(self.answer)["entries"], json.loads(first)["entries"])
