"""A case made ready to diagnose: pins resolved to terminals, codes decoded, the sensor in question known."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from dianoia.case.points import TERMINALS, around_wire, resolve
from dianoia.case.types import Case, Pin
from dianoia.codes.decode import decode
from dianoia.codes.parse import parse_codes
from dianoia.codes.types import Decoded
from dianoia.families.tables import FamilyRow, families


@dataclass(frozen=True)
class Job:
    """case: with terminals for pin numbers. codes: decoded, in the case's order. primary: the first sensor code.

    families: those the sensor may be of. bank and position: None where neither sensor nor code says.
    """

    case: Case
    codes: tuple[Decoded, ...]
    primary: Decoded | None
    families: tuple[FamilyRow, ...]
    bank: int | None
    position: int | None

    @property
    def family(self) -> FamilyRow:
        """The likeliest family."""
        return self.families[0]

    @property
    def pins(self) -> Mapping[str, Pin]:
        """The pin table; empty where none was given."""
        return pins_of(self.case)

    @property
    def address(self) -> str:
        """``B2S2``, as far as it is known."""
        return f"B{self.bank or '?'}S{self.position or '?'}"


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


def primary_code(codes: tuple[Decoded, ...]) -> Decoded | None:
    """The first code that names a sensor."""
    return next((code for code in codes if code.kind in ("oxygen", "nox")), None)


def possible_families(case: Case, primary: Decoded | None) -> tuple[FamilyRow, ...]:
    """The family given, or those the first sensor code implies."""
    table = families()
    if case.sensor and case.sensor.family:
        return (table[case.sensor.family],)
    if primary and primary.kind == "nox":
        return (table["nox-can-4w"],)
    if primary and primary.circuit in ("reference", "pump", "return", "trim"):
        return (table["airfuel-4w"], table["wideband-6w"])
    return (table["switching-4w"],)


def job_of(case: Case) -> Job:
    """The job of a checked case (see ``dianoia.case.check``)."""
    codes = decoded_codes(case)
    primary = primary_code(codes)
    sensor = case.sensor
    pins = pins_of(case)
    possible = possible_families(case, primary)
    bank = (sensor.bank if sensor else None) or (primary.bank if primary else None)
    position = (sensor.position if sensor else None) or (primary.position if primary else None)
    own = f"B{bank}S{position}"
    readings = (_in_place(resolved(item, pins), possible[0]) for item in case.readings)
    placed = replace(
        case,
        readings=tuple(_of_itself(item, own) for item in readings),
        specs=tuple(resolved(item, pins) for item in case.specs),
    )
    return Job(
        case=placed,
        codes=codes,
        primary=primary,
        families=_likeliest_first(possible, placed),
        bank=bank,
        position=position,
    )


def _likeliest_first(found: tuple[FamilyRow, ...], case: Case) -> tuple[FamilyRow, ...]:
    """The families with those first that have every terminal the readings were taken at."""
    points = [str(getattr(item, name, "") or "") for item in case.readings for name in ("red", "black", "at")]
    used = {point.rpartition(".")[2] for point in points if point.rpartition(".")[2] in TERMINALS}
    return tuple(sorted(found, key=lambda family: len(used - set(family.terminals))))


def _of_itself(reading: Any, own: str) -> Any:
    """A reading ``of`` the sensor in question is one of its own."""
    return replace(reading, of=None) if reading.of == own else reading


def _in_place(probe: Any, family: FamilyRow) -> Any:
    """A lamp in place of the heater stands across the loom's heater terminals, said or not."""
    if probe.measure != "lamp" or probe.in_place_of is None or probe.red or probe.black:
        return probe
    ends = ("heater_supply", "heater_control") if family.has_heater_terminals else ("supply", "ground")
    red, black = (f"harness.{end}" for end in ends)
    return replace(probe, red=red, black=black, connector=probe.connector or "unplugged")


def resolved(probe: Any, pins: Mapping[str, Pin]) -> Any:
    """A probe with terminals for pin numbers, and a clamp where it goes round the wire."""
    changes: dict[str, Any] = {
        name: resolve(getattr(probe, name), pins)
        for name in ("red", "black", "at")
        if isinstance(getattr(probe, name, None), str)
    }
    if probe.measure == "current":
        changes["at"] = around_wire(changes["at"])
    if probe.jumper:
        changes["jumper"] = tuple(resolve(point, pins) for point in probe.jumper)
    changes = {name: value for name, value in changes.items() if value != getattr(probe, name)}
    return replace(probe, **changes) if changes else probe
