"""How well a reading fits what an instrument would show."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dianoia.case.observed import COMMANDED, Observed, Shown
from dianoia.circuit.network import Array
from dianoia.quantities.show import show
from dianoia.quantities.types import Quantity
from dianoia.readings.display import SLIP, SLIP_RANGE, WIDTH, Display, Figure, Words
from dianoia.readings.scale import distance

#: Chance that one figure of several is astray by itself.
SLIP_OF_ONE = 0.01


def agree(one: Observed, other: Observed) -> bool:
    """Whether two readings of the same show the same, as far as instrument and hand allow."""
    names = [[name for name, _ in reading.figures] for reading in (one, other)]
    if sorted(names[0]) != sorted(names[1]):
        return False
    return all(_alike(shown, other.figure(name)) for name, shown in one.figures)


def _alike(one: Shown, other: Shown | None) -> bool:
    if not isinstance(one, Quantity) or not isinstance(other, Quantity):
        return one == other
    if one.over_limit or other.over_limit:
        return one.over_limit == other.over_limit
    return float(distance(one.value, np.array(other.value), one.kind)) < 2.0 * WIDTH


@dataclass(frozen=True)
class Fit:
    """Log-likelihood (hypotheses, draws) of a reading, and of it together with its being a slip of the hand."""

    all: Array
    slipped: Array


def fit(reading: Observed, displays: Mapping[str, Display], slip: float = SLIP) -> Fit | None:
    """How well all figures of a reading fit; None where no figure is on the display.

    slip: chance that the reading is a slip of the hand. A scope's or a recording's figures are one reading: they are
    astray together, or (seldom) one of them alone.
    """
    shown = [(item, displays[name]) for name, item in reading.figures if name in displays]
    if not shown:
        return None
    if len(shown) == 1:
        fitted = _fit_one(*shown[0], slip)
        return Fit(fitted, np.full((1, 1), np.log(slip) + _astray_alone(shown[0][1])))
    near, slipped = np.zeros(1), np.full(1, np.log(slip))
    for item, display in shown:
        own, astray = _fit_of_several(item, display)
        near, slipped = near + own, slipped + astray
    return Fit(np.logaddexp(np.log1p(-slip) + near, slipped), slipped)


def _fit_one(shown: Shown, display: Display, slip: float) -> Array:
    if isinstance(display, Words):
        return display.fit(shown if isinstance(shown, str) else show(shown.value, shown.kind), slip)
    if isinstance(shown, Quantity):
        return display.fit(shown, slip)
    return _in_words(shown, display).fit(shown, slip)


def _in_words(shown: str, display: Figure) -> Words:
    """A number's display where a word is noted for it: ``n/a``, or whether there is any."""
    if shown == "n/a":
        missing = np.isnan(display.shown).astype(float)
        return Words({"n/a": missing, "a value": 1.0 - missing})
    on = (display.shown > COMMANDED).astype(float)
    return Words({"on": on, "off": 1.0 - on})


def _astray_alone(display: Display) -> float:
    return display.astray() if isinstance(display, Words) else -float(np.log(SLIP_RANGE))


def _fit_of_several(shown: Shown, display: Display) -> tuple[Array, Array | float]:
    """A figure's log-likelihood by itself, and where the reading as a whole was a slip."""
    if isinstance(display, Figure) and isinstance(shown, Quantity):
        return display.fit_and_astray(shown, SLIP_OF_ONE)
    return _fit_one(shown, display, SLIP_OF_ONE), _astray_alone(display)
