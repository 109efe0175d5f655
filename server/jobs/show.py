"""Opens a job: its kept view, or a new one."""

import json

from dianoia.case.load import adapter
from server.jobs.results import worked_out
from server.jobs.stored import case_of
from server.jobs.workshop import in_workshop
from server.ledger.models import Job
from server.work import diagnosis_tasks
from server.work.kept_views import keep_view, kept_view, key_of
from server.work.processes import pool
from server.work.view_types import JobView


def show_job(job: Job) -> bytes:
    """The job's view as JSON. If it was kept, the predictions for the next reading are computed in the background."""
    key = key_of(job)
    body = kept_view(job, key)
    if body is not None:
        pool.tell(job.pk, "slow", diagnosis_tasks.prepared, job.pk, in_workshop(case_of(job)), _is_decided(body))
        return body
    view: JobView = worked_out(job).view
    body = adapter(JobView).dump_json(view, by_alias=True)
    keep_view(job, key, body)
    return body


def _is_decided(body: bytes) -> bool:
    """Whether a view has a decision."""
    return bool(json.loads(body)["verdict"]["decision"] != "keep-testing")
