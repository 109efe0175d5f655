"""A probe or reading in words for the ledger and the meter."""

from dataclasses import dataclass
from typing import Any

from dianoia.readings.value import said
from dianoia.readings.words import instrument, state, where


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


def describe(probe: Any) -> Described:
    """The words for a probe, with the value where it is a reading."""
    value = said(probe) if hasattr(probe, "value") else None
    place = where(probe).removeprefix("as ").removesuffix(" on the scan tool")
    by_hand = probe.measure in ("inspect", "act")
    step = place if by_hand else f"{instrument(probe)}{',' if probe.measure == 'scan' else ''} {place}"
    step, around = step[:1].upper() + step[1:], state(probe)
    return Described(instrument(probe), place, around, step, f"{step}; {around}" if around else step, value)
