"""What a scan tool may show of a sensor, what may be seen, and what may come of an act: the choices of an entry."""

from dataclasses import dataclass
from typing import get_args

from dianoia.case.job import Job
from dianoia.case.terms import Action, Condition, InspectTarget, Outcome, Pid, Seen
from dianoia.families.tables import FamilyRow
from dianoia.quantities.types import Kind

#: Scan values that are figures, and of what kind.
SCAN_KIND: dict[Pid, Kind] = {
    "heater_current": "current", "heater_resistance": "resistance", "sensor_voltage": "voltage",
    "cell_current": "cell_current", "lambda": "number", "short_trim": "ratio", "long_trim": "ratio",
    "battery_voltage": "voltage", "nox": "number", "o2": "number",
}  # fmt: skip
#: Words that a scan value may be; beside a figure where it has a kind as well.
SCAN_WORDS: dict[Pid, tuple[str, ...]] = {
    "heater_command": ("on", "off"),
    "loop": ("open", "closed"),
    "heater_monitor": ("complete", "incomplete", "unsupported"),
    "nox": ("n/a",),
    "o2": ("n/a",),
    "nox_status": ("supply-out-of-range", "not-at-temperature", "not-stable", "valid"),
    "can_messages": ("present", "absent"),
}
#: What may come of an act; of any other only that it was done.
OUTCOMES: dict[Action, tuple[Outcome, ...]] = {
    "clear-codes": ("returned-at-once", "returned-later", "not-returned"),
    "swap-sensors": ("code-moved", "code-stayed", "not-driven"),
    "wiggle": ("changed", "no-change"),
}
#: What is worth telling apart when something is looked at.
LOOKS: dict[InspectTarget, tuple[Seen, ...]] = {
    "pins": ("ok", "loose", "corroded", "broken"),
    "connector": ("ok", "loose", "corroded", "wet", "melted", "broken", "unplugged"),
    "inline-connector": ("ok", "loose", "corroded", "unplugged"),
    "harness": ("ok", "chafed", "melted", "broken"),
    "fuse": ("ok", "blown", "corroded"),
    "ground": ("ok", "loose", "corroded"),
    "sensor": ("ok", "broken", "melted", "soot", "contaminated", "wrong-part"),
    "exhaust": ("ok", "leak", "soot"),
    "intake": ("ok", "leak"),
}
_UNITS: dict[Pid, str] = {
    "heater_current": "A", "heater_resistance": "Ω", "heater_command": "%", "sensor_voltage": "V", "cell_current": "mA",
    "short_trim": "%", "long_trim": "%", "battery_voltage": "V", "nox": "ppm", "o2": "%",
}  # fmt: skip
_OF_HEATER: tuple[Pid, ...] = ("heater_current", "heater_resistance", "heater_command", "heater_monitor")
_OF_ENGINE: tuple[Pid, ...] = ("short_trim", "long_trim", "loop", "battery_voltage")
_OF_NOX: tuple[Pid, ...] = ("nox_status", "nox", "o2", "can_messages", "battery_voltage")


@dataclass(frozen=True)
class ScanChoice:
    """A scan value. unit: of a figure typed without one; words: where it is words only, which."""

    pid: Pid
    unit: str
    words: tuple[str, ...]


@dataclass(frozen=True)
class Choices:
    """What an entry may be for one sensor. others: other parts and sensors that may be measured, as ``of`` names them;
    conditions: what it may be taken with; looks: target -> seen; acts: action -> outcome.
    """

    scans: tuple[ScanChoice, ...]
    others: tuple[str, ...]
    conditions: tuple[Condition, ...]
    looks: dict[InspectTarget, tuple[Seen, ...]]
    acts: dict[Action, tuple[Outcome, ...]]


def choices(family: FamilyRow, others: tuple[str, ...] = ()) -> Choices:
    """The choices for a sensor of this family. others: see ``others_of``."""
    acts: dict[Action, tuple[Outcome, ...]] = {name: OUTCOMES.get(name, ("done",)) for name in get_args(Action)}
    return Choices(tuple(_scan(pid) for pid in _pids(family)), others, _conditions(family), LOOKS, acts)


def others_of(job: Job) -> tuple[str, ...]:
    """What may be measured instead of the sensor in question: another part in its place, and the vehicle's other sensors."""
    engine = job.case.vehicle.engine
    several = job.family.cell != "nox" and (engine is None or engine.sensor_banks != 1)
    banks = sorted({1, job.bank or 1, *((2,) if several else ())})
    positions = range(1, max(2, job.position or 1) + 1)
    addresses = (f"B{bank}S{position}" for bank in banks for position in positions)
    return ("known-good", "new", *(address for address in addresses if address != job.address))


def _conditions(family: FamilyRow) -> tuple[Condition, ...]:
    if family.cell == "nox":
        return ("fresh-air", "dosing-on", "dosing-off")
    of_heater: tuple[Condition, ...] = ("heater-commanded", "control-grounded") if family.has_heater_terminals else ()
    of_signal: tuple[Condition, ...] = ("signal-grounded",) if "signal" in family.terminals else ()
    return ("rich", "lean", "snap", "fuel-cut", "fresh-air", *of_heater, *of_signal)


def _pids(family: FamilyRow) -> tuple[Pid, ...]:
    if family.cell == "nox":
        return _OF_NOX
    heater = _OF_HEATER if family.has_heater_terminals else ()
    cell: tuple[Pid, ...] = (
        ("sensor_voltage",) if family.cell in ("zirconia", "titania") else ("cell_current", "lambda")
    )
    return (*heater, *cell, *_OF_ENGINE)


def _scan(pid: Pid) -> ScanChoice:
    typed = pid in SCAN_KIND or pid in _UNITS
    return ScanChoice(pid, _UNITS.get(pid, ""), () if typed else SCAN_WORDS[pid])
