"""How far a shown value may be from the true one: a workshop multimeter's accuracy.

Percent of reading plus a number of last digits, as meters of the 3,999 to 6,000 count class state it.
"""

import math

from dianoia.quantities.types import Kind, Quantity

#: (share of the reading, last digits, floor in the base unit) for each kind.
ACCURACY: dict[Kind, tuple[float, float, float]] = {
    "voltage": (0.008, 2, 0.004),
    "resistance": (0.01, 3, 0.1),
    "current": (0.02, 3, 0.01),
    "ratio": (0.02, 1, 0.01),
    "frequency": (0.02, 1, 0.1),
    "temperature": (0.02, 1, 2.0),
    "time": (0.02, 1, 0.01),
    "power": (0.02, 1, 0.1),
    "number": (0.03, 1, 0.0),
    "cell_current": (0.03, 1, 2e-5),
    "lambda": (0.01, 1, 0.005),
    "ppm": (0.05, 1, 5.0),
    "oxygen": (0.02, 1, 0.2),
}
#: A reading is seldom noted finer than this share of itself, however many digits were typed.
_COARSEST_DIGIT = 0.02


def uncertainty(quantity: Quantity) -> float:
    """Half-width in the base unit within which the true value lies; infinite for ``OL``."""
    if quantity.over_limit:
        return math.inf
    share, digits, floor = ACCURACY[quantity.kind]
    return max(share * abs(quantity.value) + digits * digit(quantity), floor)


def digit(quantity: Quantity) -> float:
    """The last digit of a reading in the base unit, as far as it was noted at all: ``13 V`` and ``0`` leave some out."""
    return min(quantity.resolution, _COARSEST_DIGIT * abs(quantity.value))
