"""Whether the part was tried against another, or seen to be bad."""

from dataclasses import replace

from dianoia.case.observed import Observed
from dianoia.diagnosis.decision.ledger import Ledger
from dianoia.diagnosis.decision.shown.sensor_faults import CELL, ELEMENT, UNIT

_BY_SIGHT = ("broken", "melted", "wrong-part")


def trial(ledger: Ledger) -> tuple[int, ...]:
    """A swap that took the code along; a known-good part that works where the old one measured bad by itself, or failed when refitted."""
    moved = ledger.of_sensor(lambda item: item.probe.acted is not None and item.value == "code-moved")
    return moved or back_in(ledger) or _good_one_works(ledger)


def back_in(ledger: Ledger) -> tuple[int, ...]:
    """A known-good part worked, and the old one, back in and in the same state, did not."""
    for first, good in _good_ones(ledger):
        for second, own in ledger.readings:
            if second > first and own.probe.of is None and _same_but_for_the_part(own, good) and _unlike(own, good):
                return (first, second)
    return ()


def _good_one_works(ledger: Ledger) -> tuple[int, ...]:
    worked = [place for place, item in _good_ones(ledger) if not ledger.bad((place,), (*ELEMENT, *CELL, *UNIT))]
    own = ledger.of_sensor(lambda item: item.probe.of is None and item.probe.on_the_part)
    bad = ledger.bad(own, (*ELEMENT, *CELL))
    return (worked[0], *bad) if worked and bad else ()


def _good_ones(ledger: Ledger) -> list[tuple[int, Observed]]:
    return [
        (place, item) for place, item in ledger.readings
        if item.probe.of == "known-good" and not item.probe.by_hand and not item.probe.on_the_part
    ]  # fmt: skip


def _same_but_for_the_part(one: Observed, other: Observed) -> bool:
    """Whether the same was measured in the same state, codes cleared alike."""
    return replace(one.probe, of=None).shows == replace(other.probe, of=None).shows


def _unlike(one: Observed, other: Observed) -> bool:
    return one.figures != other.figures


def plainly_bad(ledger: Ledger) -> tuple[int, ...]:
    """Where the sensor's body was seen broken or melted, or to be a wrong part."""
    return ledger.of_sensor(lambda item: item.probe.looked == "sensor" and item.value in _BY_SIGHT)
