"""Vehicles of earlier jobs, offered when a new job starts."""

from dianoia.case.load import from_plain
from dianoia.case.sensor import Sensor
from dianoia.case.types import Vehicle
from dianoia.errors import RefusedInput
from server.jobs.bodies import KnownVehicle
from server.ledger.models import Job


def known_vehicles() -> list[KnownVehicle]:
    """The distinct vehicles of the stored jobs, newest first; no simulated ones."""
    found: dict[str, KnownVehicle] = {}
    for job in Job.objects.all()[:200]:
        if job.header.get("simulated") is not None:
            continue
        try:
            vehicle = from_plain(Vehicle, job.header["vehicle"])
            sensor = from_plain(Sensor, job.header["sensor"]) if "sensor" in job.header else None
        except RefusedInput:  # stored under older rules: its own page says what is wrong with it
            continue
        codes = tuple(item["code"] for item in job.codes)
        found.setdefault(vehicle.label, KnownVehicle(vehicle, sensor, codes, job.pk))
    return list(found.values())
