"""How well a reading fits what an instrument would show."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dianoia.case.measures.figures import Shown
from dianoia.case.observed import COMMANDED, Observed
from dianoia.circuit.network import Array
from dianoia.quantities.show import show
from dianoia.quantities.types import Quantity
from dianoia.readings.display import GROSS_ERROR, WIDTH, Categorical, Numeric
from dianoia.readings.moving import MovingValue
from dianoia.readings.outcomes import Display
from dianoia.readings.scale import distance

#: Chance that one figure of several is astray by itself.
GROSS_ERROR_OF_ONE = 0.01


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
    """Log-likelihood (hypotheses, draws) of a reading, and of it together with its being a gross error."""

    all: Array
    log_gross_error: Array


def fit(reading: Observed, displays: Mapping[str, Display], gross_error: float = GROSS_ERROR) -> Fit | None:
    """How well all figures of a reading fit; None where no figure is on the display.

    gross_error: chance that the reading is a gross error. A scope's or a recording's figures are one reading: they are
    astray together, or (seldom) one of them alone.
    """
    shown = [(item, displays[name]) for name, item in reading.figures if name in displays]
    if not shown:
        return None
    if reading.moves and "moves" in displays:
        shown.append((reading.moves, displays["moves"]))
    if len(shown) == 1:
        fitted = _fit_one(*shown[0], gross_error)
        return Fit(fitted, np.log(gross_error) + np.atleast_2d(_astray_alone(*shown[0])))
    near, log_gross_error = np.zeros(1), np.full(1, np.log(gross_error))
    for item, display in shown:
        own, astray = _fit_of_several(item, display)
        near, log_gross_error = near + own, log_gross_error + astray
    return Fit(np.logaddexp(np.log1p(-gross_error) + near, log_gross_error), log_gross_error)


def _fit_one(shown: Shown, display: Display, gross_error: float) -> Array:
    if isinstance(display, Categorical):
        return display.fit(shown if isinstance(shown, str) else show(shown.value, shown.kind), gross_error)
    if isinstance(shown, Quantity):
        return display.fit(shown, gross_error)
    return _in_words(shown, display).fit(shown, gross_error)


def _in_words(shown: str, display: Numeric | MovingValue) -> Categorical:
    """A number's display where a word is noted for it: ``n/a``, or whether there is any."""
    if shown == "n/a":
        missing = np.isnan(display.shown).astype(float)
        return Categorical({"n/a": missing, "a value": 1.0 - missing})
    on = (display.shown > COMMANDED).astype(float)
    return Categorical({"on": on, "off": 1.0 - on})


def _astray_alone(shown: Shown, display: Display) -> Array | float:
    if isinstance(display, Categorical):
        return display.astray()
    return display.astray(shown) if isinstance(shown, Quantity) else _in_words(str(shown), display).astray()


def _fit_of_several(shown: Shown, display: Display) -> tuple[Array, Array | float]:
    """A figure's log-likelihood by itself, and where the reading as a whole was a gross error."""
    if isinstance(display, Numeric) and isinstance(shown, Quantity):
        return display.fit_and_gross_error(shown, GROSS_ERROR_OF_ONE)
    return _fit_one(shown, display, GROSS_ERROR_OF_ONE), _astray_alone(shown, display)
