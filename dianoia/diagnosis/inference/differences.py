"""What two readings of one meter differ by: known far better than either of them.

A module holds the two wires of a continuous cell at volts of its maker's own choice, and what the cell does shows in hundredths of a volt. A reading by itself hardly tells, the step from the one before it does.
"""

from collections.abc import Sequence

import numpy as np

from dianoia.case.observed import Observed
from dianoia.case.setting import Setting
from dianoia.circuit.network import Array
from dianoia.families.types import HELD
from dianoia.readings.display import Numeric
from dianoia.readings.model import LoopModel
from dianoia.readings.moving import MovingValue

#: Error of a difference on one meter: in V, and as a share of what is predicted, for the draws are coarse.
FLOOR_V, SHARE = 0.006, 0.1
#: Volts over which a difference may lie where a reading is a gross error.
ANYTHING_V = 1.0


def comparable(place: int, readings: Sequence[Observed]) -> Observed | None:
    """The reading that one is to be compared with: the last before it on a held wire, in the same state but for a stimulus."""
    reading = readings[place]
    if not _held(reading):
        return None
    earlier = (readings[at] for at in range(place - 1, -1, -1))
    return next((other for other in earlier if _held(other) and _alike(reading, other)), None)


def _held(reading: Observed) -> bool:
    probe = reading.probe
    return (
        reading.counts
        and probe.reads_volts
        and not probe.loaded
        and reading.number is not None
        and probe.points[0].rpartition(".")[2] in HELD
    )


def _alike(one: Observed, other: Observed) -> bool:
    mine, its = one.probe, other.probe
    differs = mine.shows != its.shows
    return (
        differs
        and mine.points[1] == its.points[1]
        and mine.of == its.of
        and _state(mine.setting) == _state(its.setting)
    )


def _state(setting: Setting) -> tuple[object, ...]:
    return setting.key, setting.connector, setting.module_connector, setting.battery


def fit_of_difference(model: LoopModel, reading: Observed, other: Observed) -> Array | None:
    """Likelihood (hypotheses, draws) of the difference, over that where a reading is a gross error; None where none is predicted."""
    shown = [_predicted(model, item) for item in (reading, other)]
    if shown[0] is None or shown[1] is None or reading.number is None or other.number is None:
        return None
    predicted = shown[0] - shown[1]
    width = np.sqrt(FLOOR_V**2 + (SHARE * predicted) ** 2)
    apart = (reading.number - other.number - predicted) / width
    near = np.exp(-0.5 * apart**2) / (width * np.sqrt(2.0 * np.pi)) * ANYTHING_V
    found: Array = np.nan_to_num(near)
    return found


def _predicted(model: LoopModel, reading: Observed) -> Array | None:
    display = (model.displays(reading.probe) or {}).get("value")
    return display.shown if isinstance(display, Numeric | MovingValue) else None
