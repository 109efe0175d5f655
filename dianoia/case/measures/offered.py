"""What an entry may be for one sensor: the choices that a bench offers."""

from dataclasses import dataclass
from typing import get_args

from dianoia.case.job import Job
from dianoia.case.lamps import Lamp, lamps
from dianoia.case.measures import Measure
from dianoia.case.measures.act import CAUTIONS, acts_of, repairs_of
from dianoia.case.measures.check_context import may_be_grounded
from dianoia.case.measures.inspect import looks_of
from dianoia.case.measures.scan import MOVING_PIDS, ScanChoice, pids_of, scan_choice
from dianoia.case.measures.state_rules import START, ReachedApart, StartState, StateRule, reached_apart, state_rules
from dianoia.case.measures.trace import RecordingChoice, recordings_of
from dianoia.case.points import in_place_of_heater
from dianoia.case.sensor import Sensor
from dianoia.case.terms import (
    Action,
    Condition,
    ExhaustPlace,
    InspectTarget,
    Moves,
    Outcome,
    Pid,
    Seen,
)
from dianoia.families.tables import FamilyRow
from dianoia.families.types import HEATER_TERMINALS, SIGNAL_TERMINALS, Terminal

#: Unit of a number typed without one, by what a meter is set to.
METER_UNITS: dict[Measure, str] = {"voltage": "V", "resistance": "Ω", "current": "A"}
#: What is done to the heater, and where it shows; what else is done shows at the cell's wires.
OF_HEATER: tuple[Condition, ...] = ("heater-commanded", "control-grounded")


@dataclass(frozen=True)
class Movable:
    """What may be a span, or be said to stand still, drift or switch: these scan values, and volts at these terminals."""

    pids: tuple[Pid, ...]
    terminals: tuple[str, ...]
    moves: tuple[Moves, ...]


def movable() -> Movable:
    """For an entry to offer it."""
    return Movable(tuple(sorted(MOVING_PIDS)), tuple(sorted(SIGNAL_TERMINALS)), get_args(Moves))


@dataclass(frozen=True)
class Choices:
    """What an entry may be for one sensor; what is the same for all is in the vocabulary."""

    scans: tuple[ScanChoice, ...]
    """Scan values, the cell's own signal first."""
    recordings: tuple[RecordingChoice, ...]
    """Scan values, the cell's own signal first."""
    others: tuple[str, ...]
    """Other parts and sensors that may be measured, as ``of`` names them."""
    conditions: tuple[Condition, ...]
    """Conditions that a reading may be taken with."""
    of_heater: tuple[Condition, ...]
    """Of the conditions those that show at the heater_terminals."""
    heater_terminals: tuple[Terminal, ...]
    in_place: tuple[str, str]
    """The points of a lamp that stands in place of the heater."""
    looks: dict[InspectTarget, tuple[Seen, ...]]
    """Target -> seen."""
    places: dict[InspectTarget, tuple[ExhaustPlace, ...]]
    """Target -> where, if it is looked at in places."""
    acts: dict[Action, tuple[Outcome, ...]]
    """Action -> outcome."""
    repairs: tuple[Action, ...]
    """Actions that mend something."""
    act_cautions: dict[Action, str]
    """What is said beside some."""
    state: tuple[StateRule, ...]
    """Which state each measurement has."""
    lamps: tuple[Lamp, ...]
    """Their sizes, and the usual one's."""
    usual_watts: float
    start: tuple[StartState, ...]
    """What it begins with."""
    apart: ReachedApart
    """Points behind a plug."""
    live: Movable
    """What may be a span."""


def choices(family: FamilyRow, others: tuple[str, ...] = (), sensor: Sensor | None = None) -> Choices:
    """The choices for a sensor of this family. others: see ``others_of``; sensor: what is known of it."""
    return Choices(
        scans=tuple(scan_choice(pid) for pid in pids_of(family)),
        recordings=recordings_of(family),
        others=others,
        conditions=_conditions(family, sensor),
        of_heater=OF_HEATER,
        heater_terminals=HEATER_TERMINALS,
        in_place=in_place_of_heater(family),
        looks=looks_of(family),
        places={"exhaust": get_args(ExhaustPlace)},
        acts=acts_of(family),
        repairs=repairs_of(family),
        act_cautions=CAUTIONS,
        state=state_rules(family),
        lamps=lamps().lamps,
        usual_watts=lamps().usual_watts,
        start=START,
        apart=reached_apart(family),
        live=movable(),
    )


def others_of(job: Job) -> tuple[str, ...]:
    """What may be measured instead of the sensor in question: another part in its place, and the vehicle's other sensors."""
    engine = job.case.vehicle.engine
    several = not job.family.kind.unit and (engine is None or engine.sensor_banks != 1)
    banks = sorted({1, job.bank or 1, *((2,) if several else ())})
    positions = range(1, max(2, job.position or 1) + 1)
    addresses = (f"B{bank}S{position}" for bank in banks for position in positions)
    return ("known-good", "new", "old", *(address for address in addresses if address != job.address))


def _conditions(family: FamilyRow, sensor: Sensor | None) -> tuple[Condition, ...]:
    commanded: tuple[Condition, ...] = ("heater-commanded",) if family.has_heater_terminals else ()
    if family.kind.unit:
        return ("fresh-air", "heater-commanded", "dosing-on", "dosing-off")
    by_hand = family.has_heater_terminals and not (sensor and not may_be_grounded(sensor))
    grounded: tuple[Condition, ...] = ("control-grounded",) if by_hand else ()
    of_signal: tuple[Condition, ...] = ("signal-grounded",) if "signal" in family.terminals else ()
    fed: tuple[Condition, ...] = ("signal-fed",) if family.kind.may_be_fed else ()
    return ("rich", "lean", "snap", "fuel-cut", "fresh-air", *commanded, *of_signal, *fed, *grounded)
