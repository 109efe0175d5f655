"""A measured quantity: a number in the base unit of its kind, and how finely it was shown."""

import math
from dataclasses import dataclass
from typing import Literal

Kind = Literal[
    "voltage",
    "resistance",
    "current",
    "ratio",
    "frequency",
    "temperature",
    "time",
    "power",
    "number",
    "cell_current",
    "lambda",
    "ppm",
    "oxygen",
]

#: Unit of each kind (oxygen in per cent of the gas; cell currents are shown in mA and kept in A), as it is written for people.
UNIT: dict[Kind, str] = {
    "voltage": "V",
    "resistance": "ohm",
    "current": "A",
    "ratio": "%",
    "frequency": "Hz",
    "temperature": "°C",
    "time": "s",
    "power": "W",
    "number": "",
    "cell_current": "mA",
    "lambda": "",
    "ppm": "ppm",
    "oxygen": "%",
}


@dataclass(frozen=True)
class Quantity:
    """A measured quantity as typed."""

    kind: Kind
    value: float
    """In the kind's base unit (ratio: 0.6 for 60 %); ``math.inf`` for ``OL``."""
    resolution: float = 0.0
    """The last shown digit, in the base unit; 0 for ``OL``."""

    @property
    def over_limit(self) -> bool:
        """True when the meter showed OL."""
        return math.isinf(self.value)


@dataclass(frozen=True)
class Span:
    """What a live value ran through while it was watched, from its lowest to its highest."""

    low: Quantity
    high: Quantity
