"""A probe or reading in words for the ledger and the meter."""

from dataclasses import dataclass

from dianoia.case.ledger import Probe, ScanProbe
from dianoia.case.observed import Observed
from dianoia.readings.words import instrument, short_place, state


@dataclass(frozen=True)
class Described:
    """instrument: what is held; where: the points; state: key and plugs; step: what to do, in one clause, and where with
    its state; value: as a person reads it, if taken.
    """

    instrument: str
    where: str
    state: str
    short_step: str
    step: str
    value: str | None


def describe(probe: Probe) -> Described:
    """The words for a probe."""
    return _described(probe, None)


def describe_reading(reading: Observed) -> Described:
    """The words for a reading, with its value."""
    return _described(reading.probe, reading.said)


def _described(probe: Probe, value: str | None) -> Described:
    at = short_place(probe)
    step = at if probe.by_hand else f"{instrument(probe)}{',' if isinstance(probe, ScanProbe) else ''} {at}"
    step, around = step[:1].upper() + step[1:], state(probe)
    return Described(instrument(probe), at, around, step, f"{step}; {around}" if around else step, value)
