"""Which simulated vehicle belongs to a case: as its vehicle is known, with a fault that sets its code, mended as its ledger says."""

from collections.abc import Sequence
from dataclasses import asdict
from random import Random
from typing import Any

from dianoia.case.job import job_of, primary_code
from dianoia.case.measures import Reading
from dianoia.case.types import Case
from dianoia.codes.types import Decoded
from dianoia.instruments.vehicle import VehicleRequest, addresses, request_with_fault

#: What a repair of the ledger mends of a vehicle.
MENDS = {
    "replace-sensor": "sensor",
    "repair-wiring": "wiring",
    "replace-fuse": "supply",
    "replace-relay": "supply",
    "replace-module": "module",
    "repair-exhaust": "exhaust",
    "repair-mixture": "mixture",
    "repair-dosing": "dosing",
}
#: What a code's circuit and failure say of the fault, by the second car's own words.
_FAILURES = {
    "slow": "slow", "delayed": "slow", "stuck-lean": "lean", "stuck-low": "lean", "low": "lean", "stuck-rich": "rich",
    "stuck-high": "rich", "high": "rich",
}  # fmt: skip


def mended_by(readings: Sequence[Reading]) -> list[str]:
    """The components that the ledger's repairs have mended, in their order."""
    acts = [getattr(item, "action", None) for item in readings if item.struck is None]
    return [MENDS[act] for act in acts if act in MENDS]


def held_for(case: Case) -> dict[str, Any]:
    """What an adapter is to hold for a case: the vehicle by its seed, with a fault that sets the job's code.

    Raises RefusedInput where no vehicle can be as this one is known.
    """
    assert case.simulated is not None
    job = job_of(case)
    known, vehicle = case.sensor, case.vehicle
    family = job.family.id
    address = job.address if job.address in addresses(family) else None
    request = VehicleRequest(
        family,
        (),
        case.simulated,
        address,
        system_v=None if vehicle.system_voltage is None else float(vehicle.system_voltage),
        heater_switch=known.heater_switch if known else None,
        heater_drive=known.heater_drive if known else None,
        bias_v=known.bias_v if known else None,
        heater_ohms_20c=known.heater_ohms_20c if known else None,
        feed_live=vehicle.feed_live,
        feed_order=vehicle.feed_order,
        sensor_banks=vehicle.engine.sensor_banks if vehicle.engine else None,
    )
    wanted = _fault_kind(primary_code(job.codes), nox=family.startswith("nox"))
    faulty = request_with_fault(request, wanted, Random(f"fault/{case.simulated}"))
    cleared = any(getattr(item, "action", None) == "clear-codes" for item in case.readings if item.struck is None)
    codes = [] if cleared else [{"code": item.code} for item in case.codes]
    return {"request": asdict(faulty), "codes": codes}


def _fault_kind(code: Decoded | None, nox: bool) -> str:
    """What kind of fault sets the code, by the second car's own names."""
    circuit = code.circuit if code else None
    if nox:
        kinds = {"communication": "nox-messages", "heater": "nox-heater", "supply": "nox-supply"}
        return kinds.get(str(circuit), "nox-value")
    if circuit == "heater":
        return "heater"
    return _FAILURES.get(str(code.failure if code else None), "signal")
