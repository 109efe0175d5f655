"""What a scan tool may show of a sensor, what may be seen, and what may come of an act: the choices of an entry."""

from dataclasses import dataclass
from typing import get_args

from dianoia.case.answers import LOOKS, OF_DOSING, OUTCOMES, REPAIRS, SCAN_KIND, SCAN_WORDS
from dianoia.case.applies import START, Measure, ReachedApart, StartState, StateRule, reached_apart, state_rules
from dianoia.case.job import Job
from dianoia.case.lamps import Lamp, lamps
from dianoia.case.live import Movable, movable
from dianoia.case.points import in_place_of_heater
from dianoia.case.spoken import all_spoken
from dianoia.case.terms import (
    Action,
    Check,
    CodeStatus,
    Condition,
    ExhaustPlace,
    FigureName,
    History,
    InspectTarget,
    LampLight,
    Outcome,
    Pid,
    Seen,
    Style,
    Symptom,
)
from dianoia.case.types import Sensor
from dianoia.families.tables import FamilyRow
from dianoia.families.types import HEATER_TERMINALS, Terminal

_UNITS: dict[Pid, str] = {
    "heater_current": "A", "heater_resistance": "Ω", "heater_command": "%", "sensor_voltage": "V", "cell_current": "mA",
    "short_trim": "%", "long_trim": "%", "battery_voltage": "V", "nox": "ppm", "o2": "%",
}  # fmt: skip
#: Unit of a number typed without one, by what a meter is set to.
METER_UNITS: dict[Measure, str] = {"voltage": "V", "resistance": "Ω", "current": "A"}
#: What is done to the heater, and where it shows; what else is done shows at the cell's wires.
OF_HEATER: tuple[Condition, ...] = ("heater-commanded", "control-grounded")
_OF_HEATER: tuple[Pid, ...] = ("heater_current", "heater_resistance", "heater_command", "heater_monitor")
_OF_ENGINE: tuple[Pid, ...] = ("short_trim", "long_trim", "loop", "battery_voltage")
_OF_NOX: tuple[Pid, ...] = ("nox_status", "nox", "o2", "can_messages", "battery_voltage")


#: Figures that are read off a recording of a scan value; of any other none.
_RECORDED: dict[Pid, tuple[FigureName, ...]] = {
    "sensor_voltage": ("min", "max", "switches_per_min", "first_activity_s", "rise_s"),
    "cell_current": ("min", "max", "delay_s", "first_activity_s"),
    "lambda": ("min", "max", "delay_s", "first_activity_s"),
    "short_trim": ("min", "max"), "nox": ("min", "max"), "o2": ("min", "max"),
}  # fmt: skip


@dataclass(frozen=True)
class RecordingChoice:
    """A scan value that may be recorded. unit: of its lowest and highest; figures: what is read off the recording."""

    signal: Pid
    unit: str
    figures: tuple[FigureName, ...]


@dataclass(frozen=True)
class ScanChoice:
    """A scan value. unit: of a figure typed without one; words: where it is words only, which."""

    pid: Pid
    unit: str
    words: tuple[str, ...]


@dataclass(frozen=True)
class Choices:
    """What an entry may be for one sensor. recordings: the cell's own signal first. others: other parts and sensors that may be measured, as ``of`` names them;
    conditions: what it may be taken with, of_heater: those that show at the heater_terminals; in_place: the points of a lamp that stands in place of the heater; looks: target -> seen; places: target -> where, if it is looked at in places;
    acts: action -> outcome; repairs: those that mend something; state: which state each measurement has; lamps: their sizes, and the
    usual one's; lights: what a lamp may do; units: of
    what a meter measures; start: what a measurement begins with; apart: points behind a plug; words: all of
    these as they are said.
    """

    scans: tuple[ScanChoice, ...]
    recordings: tuple[RecordingChoice, ...]
    others: tuple[str, ...]
    conditions: tuple[Condition, ...]
    of_heater: tuple[Condition, ...]
    heater_terminals: tuple[Terminal, ...]
    in_place: tuple[str, str]
    checks: tuple[Check, ...]
    looks: dict[InspectTarget, tuple[Seen, ...]]
    places: dict[InspectTarget, tuple[ExhaustPlace, ...]]
    acts: dict[Action, tuple[Outcome, ...]]
    repairs: tuple[Action, ...]
    state: tuple[StateRule, ...]
    lamps: tuple[Lamp, ...]
    lights: tuple[LampLight, ...]
    units: dict[Measure, str]
    usual_watts: float
    start: tuple[StartState, ...]
    apart: ReachedApart
    styles: tuple[Style, ...]
    live: Movable
    code_statuses: tuple[CodeStatus, ...]
    symptoms: tuple[Symptom, ...]
    history: tuple[History, ...]
    words: dict[str, str]


def choices(family: FamilyRow, others: tuple[str, ...] = (), sensor: Sensor | None = None) -> Choices:
    """The choices for a sensor of this family. others: see ``others_of``; sensor: what is known of it."""
    dosed = family.cell == "nox"
    acts: dict[Action, tuple[Outcome, ...]] = {
        name: OUTCOMES.get(name, ("done",)) for name in get_args(Action) if dosed or name not in OF_DOSING
    }
    return Choices(
        scans=tuple(_scan(pid) for pid in _pids(family)),
        recordings=tuple(
            RecordingChoice(pid, _UNITS.get(pid, ""), _RECORDED[pid]) for pid in _pids(family) if pid in _RECORDED
        ),
        others=others,
        conditions=_conditions(family, sensor),
        of_heater=OF_HEATER,
        heater_terminals=HEATER_TERMINALS,
        in_place=in_place_of_heater(family),
        checks=get_args(Check),
        looks={target: values for target, values in LOOKS.items() if dosed or target != "urea"},
        places={"exhaust": get_args(ExhaustPlace)},
        acts=acts,
        repairs=tuple(name for name in REPAIRS if dosed or name not in OF_DOSING),
        state=state_rules(family),
        lamps=lamps().lamps,
        lights=get_args(LampLight),
        units=METER_UNITS,
        usual_watts=lamps().usual_watts,
        start=START,
        apart=reached_apart(family),
        styles=get_args(Style),
        live=movable(),
        code_statuses=get_args(CodeStatus),
        symptoms=get_args(Symptom),
        history=get_args(History),
        words=all_spoken(others),
    )


def others_of(job: Job) -> tuple[str, ...]:
    """What may be measured instead of the sensor in question: another part in its place, and the vehicle's other sensors."""
    engine = job.case.vehicle.engine
    several = job.family.cell != "nox" and (engine is None or engine.sensor_banks != 1)
    banks = sorted({1, job.bank or 1, *((2,) if several else ())})
    positions = range(1, max(2, job.position or 1) + 1)
    addresses = (f"B{bank}S{position}" for bank in banks for position in positions)
    return ("known-good", "new", "old", *(address for address in addresses if address != job.address))


def _conditions(family: FamilyRow, sensor: Sensor | None) -> tuple[Condition, ...]:
    commanded: tuple[Condition, ...] = ("heater-commanded",) if family.has_heater_terminals else ()
    if family.cell == "nox":
        return ("fresh-air", "heater-commanded", "dosing-on", "dosing-off")
    by_hand = family.has_heater_terminals and not (sensor and not may_be_grounded(sensor))
    grounded: tuple[Condition, ...] = ("control-grounded",) if by_hand else ()
    of_signal: tuple[Condition, ...] = ("signal-grounded",) if "signal" in family.terminals else ()
    fed: tuple[Condition, ...] = ("signal-fed",) if family.cell == "zirconia" else ()
    return ("rich", "lean", "snap", "fuel-cut", "fresh-air", *commanded, *of_signal, *fed, *grounded)


def may_be_grounded(sensor: Sensor) -> bool:
    """Whether the heater's control may be grounded by hand: never a pulsed heater, and only the ground side."""
    return sensor.heater_switch != "high-side" and sensor.heater_drive != "pwm"


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
