"""What was found at another sensor of the vehicle while a job was worked on, and the job that it becomes."""

from collections.abc import Sequence
from dataclasses import dataclass
from re import fullmatch
from typing import Any

from dianoia.case.job import Job, decoded_codes
from dianoia.case.load import case_from_plain, to_plain
from dianoia.case.types import Case
from dianoia.diagnosis.verdict.types import Judged
from dianoia.errors import refuse
from dianoia.repair.follow_ups import measured_of, read_bad

#: Across these points every sensor of the vehicle reads the same.
_BATTERY = {"battery.positive", "battery.negative"}


@dataclass(frozen=True)
class OtherFound:
    """A finding at another sensor."""

    address: str
    """``B2S1``."""
    says: str
    """What was found, as a sentence."""
    why: str
    """What was read."""
    readings: tuple[int, ...]
    """Their places."""


def found_at_others(job: Job, judged: Sequence[Judged]) -> tuple[OtherFound, ...]:
    """Other sensors that do not read as they should. judged: the job's readings, by place."""
    return tuple(
        OtherFound(
            address, f"{address} does not read as it should. It is not this job's sensor: open a job for it.",
            measured_of(job, address, judged),
            tuple(place for place, item in enumerate(job.readings) if item.counts and item.probe.of == address),
        )
        for address in read_bad(job, judged)
    )  # fmt: skip


def case_of_other(case: Case, address: str) -> Case:
    """The case of another sensor of the same vehicle, with the readings that speak of it and of the battery, and its own codes.

    Raises RefusedInput where the case has no reading of it.
    """
    plain = to_plain(case)
    read = any(item.get("of") == address for item in plain.get("readings", []))
    if not read or not fullmatch("B[12]S[123]", address):  # a part that is none of the vehicle's sensors has no job
        raise refuse("address", "a sensor that was read in this job, such as B2S1", address)
    readings = [moved for item in plain.get("readings", []) if (moved := _moved(item, address)) is not None]
    own = {code.code for code in decoded_codes(case) if address in code.sensors}
    return case_from_plain(
        {
            "format": plain["format"], "style": plain.get("style", "live-first"), "vehicle": plain["vehicle"],
            "title": "", "sensor": {"bank": int(address[1]), "position": int(address[3])},
            "codes": [item for item in plain.get("codes", []) if item["code"] in own], "readings": readings,
        }
    )  # fmt: skip


def _moved(reading: dict[str, Any], address: str) -> dict[str, Any] | None:
    """A reading as the other sensor's job has it; None for one that does not speak of it."""
    if reading.get("struck"):
        return None
    if reading.get("of") == address:
        return {name: value for name, value in reading.items() if name != "of"}
    at_battery = {reading.get("red"), reading.get("black")} == _BATTERY
    return reading if at_battery else None
