"""The readings that count, with what each of them says by itself: what the tests behind the gates look at."""

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass

import numpy as np

from dianoia.case.observed import Observed
from dianoia.diagnosis.faults.tables import faults

#: A reading is bad for something, or good, when it alone makes its faults this much likelier, or less likely (log).
TELLS = float(np.log(3.0))
#: A fault explains a reading noticeably better from here on (log).
NOTICED = float(np.log(1.5))
Test = Callable[["Ledger"], tuple[int, ...]]


#: All faults.
_EVERY = tuple(faults())


def _says_nothing(place: int, names: Collection[str]) -> float:
    return 0.0


@dataclass(frozen=True)
class Ledger:
    """Readings that count with their places, in their order."""

    readings: Sequence[tuple[int, Observed]]
    heated: bool
    """Whether the sensor has heater terminals."""
    proven: frozenset[str]
    """The parts that are."""
    position: int = 1
    """Of the sensor on the pipe."""
    fitted: int = -1
    """Places of the last act that replaced the sensor, and of the last that replaced or repaired anything, -1 for
    none: what was read before is history.
    """
    mended: int = -1
    """Places of the last act that replaced the sensor, and of the last that replaced or repaired anything, -1 for
    none: what was read before is history.
    """
    log_ratio: Callable[[int, Collection[str]], float] = _says_nothing
    """How much likelier (log) a reading is with the likeliest of some faults than in a healthy circuit."""
    element_ohms: tuple[float, float] = (0.8, 25.0)
    """What a cold element of the family reads, lowest and highest."""
    system_v: float = 12.0
    """Nominal, in volts."""

    def places(self, test: Callable[[Observed], bool]) -> tuple[int, ...]:
        """The places of readings that pass."""
        return tuple(place for place, item in self.readings if test(item))

    def of_sensor(self, test: Callable[[Observed], bool]) -> tuple[int, ...]:
        """The same, of the sensor that is fitted now."""
        return tuple(place for place in self.places(test) if place > self.fitted)

    def since_mended(self, test: Callable[[Observed], bool]) -> tuple[int, ...]:
        """The same, since anything was last replaced or repaired."""
        return tuple(place for place in self.places(test) if place > self.mended)

    def bad(self, places: Collection[int], faults: Collection[str]) -> tuple[int, ...]:
        """Those of the places where a reading alone points to one of the faults."""
        return tuple(place for place in places if self.log_ratio(place, faults) >= TELLS)

    def good(self, places: Collection[int], faults: Collection[str]) -> tuple[int, ...]:
        """Those of the places where a reading alone speaks against all of the faults."""
        return tuple(place for place in places if self.log_ratio(place, faults) <= -TELLS)

    def sound(self, places: Collection[int]) -> tuple[int, ...]:
        """Those of the places where no fault explains a reading noticeably better than a healthy circuit does."""
        return tuple(place for place in places if self.log_ratio(place, _EVERY) <= NOTICED)

    def at(self, place: int) -> Observed:
        """The reading at a place."""
        return next(item for known, item in self.readings if known == place)
