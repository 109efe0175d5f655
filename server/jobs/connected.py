"""A job that is connected to a simulated vehicle: what is done to it and read of it."""

from dataclasses import asdict

from dianoia.case.load import from_plain, to_plain
from dianoia.errors import Finding, RefusedInput, refuse
from dianoia.instruments.case_vehicle import held_for, mended_by
from dianoia.instruments.orders import VehicleLook
from server.adapters.vehicles import AdapterGone, adapters
from server.jobs.bodies import VehicleOrder
from server.jobs.stored import case_of
from server.ledger.models import Job


def look_at(job: Job, order: VehicleOrder) -> VehicleLook:
    """Do what an order says to the job's vehicle, and what is seen then. Raises RefusedInput."""
    case = case_of(job)
    if case.simulated is None:
        raise refuse("simulated", "a job that is connected to a simulated vehicle", "one of a real vehicle")
    plain = {name: value for name, value in asdict(order).items() if name != "probe" and value is not None}
    plain["mended"] = mended_by(case.readings)
    if order.probe is not None:
        plain["probe"] = to_plain(order.probe)
    try:
        answer = adapters.ask(job.pk, lambda: held_for(case), plain)
    except AdapterGone as problem:
        found = Finding("", "the simulated vehicle's process to answer", "none: try again")
        raise RefusedInput([found]) from problem
    if "refused" in answer:
        raise RefusedInput([Finding(**item) for item in answer["refused"]])
    look: VehicleLook = from_plain(VehicleLook, answer["look"])
    return look


def leave(job: Job) -> None:
    """The page is closed: its vehicle's process ends."""
    adapters.end(job.pk)
