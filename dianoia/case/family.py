"""Of which family a sensor is where nobody said so: its heater, its volts, and what the scan tool gives of it tell."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import log

from dianoia.case.observed import Observed
from dianoia.case.sensor import Sensor
from dianoia.families.tables import CellRow, FamilyRow, front_shares
from dianoia.families.types import SIGNAL_TERMINALS
from dianoia.quantities.show import show, show_range
from dianoia.quantities.types import Quantity

#: Volts that only a cell wire held by the module stands at, those of a switching module's bias, and the most that a zirconia
#: cell makes.
HELD_V, BIAS_V, MOST_V = (1.9, 3.9), (0.3, 0.6), 1.2
#: An element of less than this share of a family's least resistance is not of it; of less than so many ohms it is of none.
TOO_LOW, NO_ELEMENT = 0.8, 0.7
#: Log-odds of a sign that a family hardly ever gives, and of a terminal that it does not have.
HARDLY, NEVER = -4.0, -8.0
#: A swing of so many volts below ``MOST_V`` is a switching cell's.
SWINGS_V = 0.3


@dataclass(frozen=True)
class FamilyClue:
    """What a reading tells: which cells hardly ever give it, and in words what it is."""

    against: frozenset[str]
    says: str
    place: int | None = None
    """None for the sensor's own data."""

    @property
    def clause(self) -> str:
        """What it is, with the reading that showed it."""
        return self.says if self.place is None else f"{self.says} (reading {self.place + 1})"


@dataclass(frozen=True)
class ChosenFamily:
    """Which family a sensor is taken for."""

    families: tuple[FamilyRow, ...]
    """The likeliest first."""
    why: str = ""
    """What told, as a clause; empty where the family was given or nothing told."""


def taken_for(
    possible: Sequence[FamilyRow], readings: Sequence[Observed], sensor: Sensor | None, system_v: float
) -> ChosenFamily:
    """The families in the order of how likely each is. possible: those that may be, two and more where it is not known."""
    if len(possible) == 1:
        return ChosenFamily(tuple(possible))
    signs = [*_of_data(possible, sensor, system_v), *_of_readings(possible, readings, system_v)]
    used = {terminal for item in readings for terminal in item.probe.terminals}
    score = {
        row.id: _prior(row, possible) + _lacking(row, used) + sum(HARDLY for sign in signs if row.id in sign.against)
        for row in possible
    }
    ordered = tuple(sorted(possible, key=lambda row: -score[row.id]))
    told = [sign for sign in signs if ordered[0].id not in sign.against and sign.against]
    return ChosenFamily(ordered, told[0].clause if told else "")


def _prior(row: FamilyRow, possible: Sequence[FamilyRow]) -> float:
    shares = front_shares()
    return log(shares[row.id]) if all(item.id in shares for item in possible) else 0.0


def _lacking(row: FamilyRow, used: set[str]) -> float:
    own = {*row.terminals, *row.kind.same_wires, "shell"}
    terminals = used & {*SIGNAL_TERMINALS, "heater_supply", "heater_control"}
    return NEVER * len(terminals - own)


def _of_data(possible: Sequence[FamilyRow], sensor: Sensor | None, system_v: float) -> list[FamilyClue]:
    """The sensor's own data, where they were given."""
    if sensor is None or sensor.heater_ohms_20c is None:
        return []
    low, high = sensor.heater_ohms_20c
    return _of_element(possible, (low * high) ** 0.5, system_v, None)


def _of_readings(possible: Sequence[FamilyRow], readings: Sequence[Observed], system_v: float) -> list[FamilyClue]:
    found: list[FamilyClue] = []
    for place, item in enumerate(readings):
        if item.counts and item.probe.of is None:
            found += _of_reading(possible, place, item, system_v)
    return found


def _of_reading(possible: Sequence[FamilyRow], place: int, item: Observed, system_v: float) -> list[FamilyClue]:
    probe, number = item.probe, item.number
    if probe.across_element and number is not None:
        return _of_element(possible, number, system_v, place)
    if probe.scanned in ("lambda", "cell_current"):
        what = "lambda" if probe.scanned == "lambda" else "a cell current"
        return [FamilyClue(_of_cells(possible, lambda kind: not kind.continuous), f"the scan tool gives {what}", place)]
    shown = [figure.value for _, figure in item.figures if isinstance(figure, Quantity) and figure.kind == "voltage"]
    if shown and probe.scanned == "sensor_voltage":
        return _of_volts(possible, min(shown), max(shown), place)
    at_cell = probe.reads_volts and not probe.loaded and bool(probe.terminals & set(SIGNAL_TERMINALS))
    if shown and at_cell and probe.key in ("on", "running"):
        return _of_volts(possible, min(shown), max(shown), place)
    return []


def _of_element(possible: Sequence[FamilyRow], ohms: float, system_v: float, place: int | None) -> list[FamilyClue]:
    """A high one may be worn or hot; one far below its family's least is another family's."""
    scale = (system_v / 12.0) ** 2
    least = {row.id: scale * row.heater_ohms_20c[0] for row in possible if row.heater_ohms_20c}
    if ohms < NO_ELEMENT * scale:
        return []
    against = frozenset(name for name, low in least.items() if ohms < TOO_LOW * low)
    return [FamilyClue(against, f"its heater measures {show(ohms, 'resistance')}", place)] if against else []


def _of_volts(possible: Sequence[FamilyRow], low: float, high: float, place: int) -> list[FamilyClue]:
    """A wire held by the module, a switching module's bias, or a switching cell at work."""
    if HELD_V[0] <= low and high <= HELD_V[1]:
        return [
            FamilyClue(
                _of_cells(possible, lambda kind: not kind.continuous and not kind.is_resistance),
                f"its signal stands at {show(high, 'voltage')}",
                place,
            )
        ]
    swings = high - low >= SWINGS_V and high <= MOST_V
    if swings or (BIAS_V[0] <= low and high <= BIAS_V[1]):
        return [
            FamilyClue(
                _of_cells(possible, lambda kind: kind.continuous),
                f"its signal shows {show_range(low, high, 'voltage')}",
                place,
            )
        ]
    return []


def _of_cells(possible: Sequence[FamilyRow], wanted: Callable[[CellRow], bool]) -> frozenset[str]:
    return frozenset(row.id for row in possible if wanted(row.kind))
