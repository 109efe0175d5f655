"""Whether something was read a second time."""

from dianoia.case.observed import Observed
from dianoia.diagnosis.decision.ledger import Ledger


def again(ledger: Ledger, bad: tuple[int, ...]) -> tuple[int, ...]:
    """Places where something that read bad was read a second time and came out alike."""
    return tuple(
        place
        for first in bad
        for place, item in ledger.readings
        if place != first and _the_same(item, ledger.at(first))
    )


def _the_same(one: Observed, other: Observed) -> bool:
    """A second touch that came out alike."""
    return one.probe.asks == other.probe.asks and one.figures == other.figures
