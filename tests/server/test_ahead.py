"""What is worked out between readings, and that it never stands in their way."""

import json
from unittest.mock import patch

from django.test import TestCase

from dianoia.case.job import job_of
from server.jobs import ahead
from tests.cases import SUPPLY, case
from tests.people import AtTheBench


class LookingAhead(AtTheBench, TestCase):
    """The background work after a reading."""

    def test_looking_at_a_job_sets_it_off_with_its_whole_ledger(self) -> None:
        body = {"codes": "P0057", "vehicle": {"label": "Bus 4"}}
        view = self.client.post("/api/jobs", json.dumps(body), content_type="application/json").json()
        self.client.post(f"/api/jobs/{view['id']}/readings", json.dumps(SUPPLY), content_type="application/json")
        with patch("server.jobs.thinking.look_ahead") as looked:
            self.client.get(f"/api/jobs/{view['id']}")
        number, job = looked.call_args.args
        self.assertEqual(number, view["id"])
        self.assertEqual([item.value for item in job.case.readings], [SUPPLY["value"]])

    def test_a_failure_is_told_in_the_log_and_the_next_one_is_still_done(self) -> None:
        done: list[object] = []

        def fails_once(job: object) -> None:
            done.append(job)
            if len(done) == 1:
                raise ValueError("no luck")

        with patch("server.jobs.ahead.engines.make_ready", fails_once), self.assertLogs("server.jobs.ahead", "ERROR"):
            for number in range(2):
                ahead.look_ahead(number, job_of(case(SUPPLY)))
            ahead._worker.submit(lambda: None).result(10)
        self.assertEqual(len(done), 2)
