"""Recordings that a job's simulated instrument makes by itself."""

from dianoia.errors import refuse
from dianoia.instruments.case_vehicle import held_for, mended_by
from dianoia.signals.captures import capture_named, marks_of
from server.jobs.recordings import import_order
from server.jobs.stored import case_of
from server.ledger.models import Job
from server.work.imports import Import, imports


def record_capture(job: Job, name: str) -> Import:
    """Let the simulated instrument record what is worth recording. Raises RefusedInput."""
    case, capture = case_of(job), capture_named(name)
    if case.simulated is None:
        raise refuse("simulated", "a job that is connected to a simulated vehicle", "one of a real vehicle")
    order = {**held_for(case), "mended": mended_by(case.readings), "plan": capture.plan, "leads": list(capture.leads)}
    return imports.record(job.pk, order, import_order(job), marks_of(capture))
