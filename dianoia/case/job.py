"""A case made ready to diagnose: readings parsed, pins resolved to terminals, codes decoded, the sensor in question known."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from dianoia.case.family import taken_for
from dianoia.case.measures import Reading
from dianoia.case.observed import Observed, ParsedRange, observe, published
from dianoia.case.placed import PlacingContext, renamed, resolved
from dianoia.case.same import in_order, without_copies
from dianoia.case.sensor import Pin
from dianoia.case.swapped import followed, is_swapped, met, own_when_taken_out
from dianoia.case.types import Case
from dianoia.codes.decode import decode
from dianoia.codes.parse import parse_codes
from dianoia.codes.types import Decoded
from dianoia.families.tables import FamilyRow, families, front_shares

#: Nominal volts of most vehicles; and the volts that only one of 24 V gives, charging or not.
NOMINAL_V, ONLY_ON_24_V = 12.0, (18.0, 31.0)


@dataclass(frozen=True)
class Job:
    """A case, parsed and ready to be worked on."""

    case: Case
    """As it was noted."""
    readings: tuple[Observed, ...]
    """The ledger, parsed, terminals for pin numbers."""
    specs: tuple[ParsedRange, ...]
    """The vehicle's own ranges, parsed."""
    codes: tuple[Decoded, ...]
    """Decoded, in the case's order."""
    primary: Decoded | None
    """The first sensor code."""
    families: tuple[FamilyRow, ...]
    """Families that the sensor may be of, the likeliest first."""
    bank: int | None
    """None where neither sensor nor code says."""
    position: int | None
    """None where neither sensor nor code says."""
    taken_for: str = ""
    """What told it, empty where it was given or nothing told."""

    @property
    def family(self) -> FamilyRow:
        """The likeliest family."""
        return self.families[0]

    @property
    def counted(self) -> tuple[Observed, ...]:
        """The readings that count."""
        return tuple(item for item in self.readings if item.counts)

    @property
    def in_order(self) -> "Job":
        """The same job with the readings that count in an order that does not depend on how they were taken between acts."""
        return self.with_readings(in_order(self.readings))

    def with_readings(self, readings: Sequence[Observed]) -> "Job":
        """The same job with another ledger."""
        return replace(self, readings=tuple(readings))

    @property
    def system_v(self) -> float:
        """Nominal, in volts; where neither the vehicle's data nor a reading says, 12."""
        return nominal_v(self.case, self.readings)

    @property
    def asks_voltage(self) -> bool:
        """Whether it may be a vehicle of 24 V, and nobody said so: a diesel, or one with a NOx sensor or a J1939 code."""
        vehicle = self.case.vehicle
        if vehicle.system_voltage is not None or self.system_v > NOMINAL_V:
            return False
        heavy = any(code.source_address is not None or code.code.startswith("SPN") for code in self.codes)
        return heavy or vehicle.fuel == "diesel" or self.family.kind.unit

    @property
    def pins(self) -> Mapping[str, Pin]:
        """The pin table; empty where none was given."""
        return pins_of(self.case)

    @property
    def sits_at(self) -> str | None:
        """Where the sensor in question is after a swap; None while it is in its own place."""
        return twin_of(self.bank, self.position) if is_swapped(self.readings) else None

    @property
    def address(self) -> str:
        """``B2S2``, as far as it is known."""
        return f"B{self.bank or '?'}S{self.position or '?'}"


def nominal_v(case: Case, readings: Iterable[Observed]) -> float:
    """Nominal voltage: as it is said, else by a reading that only a vehicle of 24 V gives, else 12 V."""
    if case.vehicle.system_voltage:
        return float(case.vehicle.system_voltage)
    low, high = ONLY_ON_24_V
    volts = (item.number for item in readings if item.counts and item.probe.reads_volts)
    return 2.0 * NOMINAL_V if any(value is not None and low < abs(value) < high for value in volts) else NOMINAL_V


def pins_of(case: Case) -> Mapping[str, Pin]:
    """The case's pin table."""
    return (case.sensor.pins if case.sensor else None) or {}


def decoded_codes(case: Case) -> tuple[Decoded, ...]:
    """The case's codes, decoded, with the status the list gives. Raises RefusedInput naming the code."""
    found = []
    for index, listed in enumerate(case.codes):
        for text in parse_codes(listed.code, f"codes[{index}].code"):
            answer = decode(text)
            found.append(replace(answer, status=listed.status or answer.status))
    return tuple(found)


def primary_code(codes: Sequence[Decoded]) -> Decoded | None:
    """The first code that names a sensor."""
    return next((code for code in codes if code.kind in ("oxygen", "nox")), None)


def possible_families(case: Case, codes: Sequence[Decoded]) -> tuple[FamilyRow, ...]:
    """The family given, or those the first sensor code implies; behind a code of the SCR alone a NOx sensor."""
    primary = primary_code(codes)
    table = families()
    if case.sensor and case.sensor.family:
        return (table[case.sensor.family],)
    of_scr = primary is None and any(code.relation == "scr" for code in codes)
    if of_scr or (primary and primary.kind == "nox"):
        return (table["nox-can-4w"],)
    if primary and primary.circuit in ("reference", "pump", "return", "trim"):
        return (table["airfuel-4w"], table["wideband-6w"])
    position = (case.sensor.position if case.sensor else None) or (primary.position if primary else None)
    return tuple(table[name] for name in front_shares()) if position == 1 else (table["switching-4w"],)


def job_of(case: Case) -> Job:
    """The job of a checked case (see ``dianoia.case.check``)."""
    codes = decoded_codes(case)
    primary = primary_code(codes)
    sensor = case.sensor
    pins = pins_of(case)
    possible = possible_families(case, codes)
    bank = (sensor.bank if sensor else None) or (primary.bank if primary else None)
    position = (sensor.position if sensor else None) or (primary.position if primary else None)
    around = PlacingContext(pins, possible[0], f"B{bank}S{position}")
    noted = [observe(around.placed(item)) for item in case.readings]
    taken = taken_for(possible, noted, sensor, nominal_v(case, noted))
    same = taken.families[0].kind.same_wires if len(possible) > 1 else {}
    named = [replace(item, probe=renamed(item.probe, same)) for item in noted] if same else noted
    readings = followed(own_when_taken_out(without_copies(named)), twin_of(bank, position))
    return Job(
        case=case,
        readings=readings,
        specs=tuple(published(renamed(resolved(item, pins), same)) for item in case.specs),
        codes=codes,
        primary=primary,
        families=taken.families,
        taken_for=taken.why,
        bank=bank,
        position=position,
    )


def read_as(job: Job, reading: Reading) -> Observed:
    """A checked reading as the job's ledger would hold it."""
    found = observe(PlacingContext(job.pins, job.family, job.address).placed(reading))
    if len(job.families) > 1:
        found = replace(found, probe=renamed(found.probe, job.family.kind.same_wires))
    return met(found, twin_of(job.bank, job.position)) if is_swapped(job.readings) else found


def twin_of(bank: int | None, position: int | None) -> str | None:
    """Address of the sensor in the same position on the other bank."""
    return f"B{3 - bank}S{position}" if bank and position else None
