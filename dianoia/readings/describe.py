"""A probe or reading in words for the ledger and the meter."""

from dataclasses import dataclass
from typing import Any

from dianoia.readings.value import said
from dianoia.readings.words import instrument, state, where


@dataclass(frozen=True)
class Described:
    """instrument: what is held; where: the points; state: key and plugs; value: as a person reads it, if taken."""

    instrument: str
    where: str
    state: str
    value: str | None


def describe(probe: Any) -> Described:
    """The words for a probe, with the value where it is a reading."""
    value = said(probe) if hasattr(probe, "value") else None
    place = where(probe).removeprefix("as ").removesuffix(" on the scan tool")
    return Described(instrument(probe), place, state(probe), value)
