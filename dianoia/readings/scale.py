"""Readings on a scale of error units, on which every instrument's error is about 1.

A predicted and a shown value are compared there: linear for small volts, by ratio for large ones and for ohms.
"""

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.network import Array
from dianoia.quantities.types import Kind

#: (absolute error in the base unit near zero, relative error) of a noted reading: meter, leads, hand and model together.
ERROR_UNITS: dict[Kind, tuple[float, float]] = {
    "voltage": (0.03, 0.012),
    "current": (0.025, 0.05),
    "resistance": (0.03, 0.07),
    "ratio": (0.015, 0.03),
    "frequency": (0.5, 0.15),
    "number": (0.02, 0.02),
    "time": (0.03, 0.1),
    "cell_current": (1.5e-5, 0.08),
    "lambda": (0.003, 0.008),
    "ppm": (5.0, 0.08),
    "oxygen": (0.3, 0.03),
}
#: Above this many ohms a workshop meter shows OL; meters differ between the two.
OL_FROM, OL_SURE = 4e6, 6e7


def error_units(value: Array | float, kind: Kind) -> Array:
    """Where a value stands on the scale. Resistances end at ``OL_SURE``; NaN stays NaN."""
    floor, share = ERROR_UNITS[kind]
    size = np.abs(value)
    if kind == "resistance":
        size = np.minimum(size, OL_SURE)
    placed: Array = np.sign(value) * np.log1p(share / floor * size) / share
    return placed


def error_unit(value: float, kind: Kind) -> float:
    """One step, in the base unit, at a value."""
    floor, share = ERROR_UNITS[kind]
    return floor + share * abs(value)


def distance(shown: float, predicted: Array, kind: Kind) -> NDArray[np.float64]:
    """Steps between a shown value (``inf`` for OL) and predicted ones."""
    if np.isinf(shown):
        return np.maximum(error_units(OL_FROM, kind) - error_units(predicted, kind), 0.0)
    return np.abs(error_units(shown, kind) - error_units(predicted, kind))
