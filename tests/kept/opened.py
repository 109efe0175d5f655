"""Run in a process of its own on a store of version 0.1: what becomes of its jobs, and of readings that waited in a browser."""

import json
from pathlib import Path

from django.test import Client

from server.jobs.results import worked_out
from server.ledger.models import Job
from tests.people import come_in

WAITED = Path(__file__).parent / "outbox-0.1.json"


def opened() -> str:
    """Decisions of the jobs, and the answers to what waited, as JSON."""
    decisions = {job.pk: worked_out(job).view.verdict.decision for job in Job.objects.order_by("pk")}
    page = Client(headers={"host": "localhost"})
    person = come_in(page)
    answers = []
    for item in json.loads(WAITED.read_text(encoding="utf-8")):
        headers = {"Idempotency-Key": item["key"], "X-Person": str(person.pk)}
        sent = [
            page.post(
                f"/api/jobs/{item['job']}/readings", item["body"], content_type="application/json", headers=headers
            )
            for _ in range(2)
        ]
        answers.append([answer.status_code for answer in sent])
    return json.dumps({"decisions": decisions, "answers": answers, "lines": Job.objects.get(pk=1).lines})
