"""A probe or reading in words for the ledger and the meter."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dianoia.case.measures import Probe
from dianoia.case.measures.state_words import state_words
from dianoia.case.observed import Observed
from dianoia.case.sensor import Pin


@dataclass(frozen=True)
class Described:
    """A reading in words."""

    instrument: str
    """What is held."""
    where: str
    """The points."""
    state: str
    """Key and plugs."""
    short_step: str
    step: str
    """What to do, in one clause, and where with its state."""
    value: str | None
    """As a person reads it, if taken."""
    point: str | None = None
    """Where it is written on the drawing, None for nowhere."""


def describe(probe: Probe, pins: Mapping[str, Pin] | None = None) -> Described:
    """The words for a probe. pins: the vehicle's own."""
    return _described(probe, None, pins)


def describe_reading(reading: Observed, pins: Mapping[str, Pin] | None = None) -> Described:
    """The words for a reading, with its value. pins: the vehicle's own."""
    return _described(reading.probe, reading.said, pins)


def _described(probe: Probe, value: str | None, pins: Mapping[str, Pin] | None) -> Described:
    at = probe.short_place(pins)
    step = at if probe.by_hand else f"{probe.tool}{',' if probe.live_value else ''} {at}"
    step, around = step[:1].upper() + step[1:], state_words(probe)
    whole = f"{step}; {around}" if around else step
    return Described(probe.tool, at, around, step, whole, value, None if probe.by_hand else _written_at(probe.points))


#: Where one lead often lies while the other one is moved from point to point.
_REST = ("battery.", "chassis")


def _written_at(points: Sequence[str]) -> str | None:
    """Where a reading stands on the drawing: at the first point, unless it only lies at a pole of the battery or at the chassis."""
    ends = [point for point in points if not point.startswith(_REST)]
    return next(iter(ends or points), None)
