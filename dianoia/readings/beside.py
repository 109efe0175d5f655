"""Readings that are compared: the same measured of another part, or of this one before it was mended."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from dianoia.case.measures import Probe
from dianoia.case.measures.state import BROUGHT, TAKEN_AWAY
from dianoia.case.measures.words import spoken
from dianoia.case.observed import Observed

_WHOSE: Mapping[str, str] = {
    "known-good": "known-good", "new": "new", "old": "old", BROUGHT: "swapped in", TAKEN_AWAY: "in the other's place",
}  # fmt: skip
THIS, BEFORE, AFTER = "this sensor", "before", "after"


@dataclass(frozen=True)
class Comparison:
    """A reading to compare with."""

    place: int
    """In the ledger."""
    whose: str
    """Whose reading it is, in a word or two."""


@dataclass(frozen=True)
class Compared:
    """A reading and those that it is compared with."""

    whose: str
    """A reading is, empty for this sensor's as it is now."""
    beside: tuple[Comparison, ...]
    """The newest of every other at the same points and in the same state."""


@dataclass(frozen=True)
class _Owner:
    """Whose a reading is."""

    of: str | None
    """Another part, None for this sensor."""
    mended: int
    """How many repairs it comes after."""


def compared(readings: Sequence[Observed]) -> tuple[Compared, ...]:
    """Each reading of a ledger with what stands beside it; a struck one stands beside none."""
    owners = _owners(readings)
    now = owners[-1].mended if owners else 0
    spots = [_spot(item.probe) if item.counts else None for item in readings]
    newest: dict[Probe, dict[_Owner, int]] = {}
    for place, spot in enumerate(spots):
        if spot is not None:
            newest.setdefault(spot, {})[owners[place]] = place
    return tuple(
        Compared(_whose(owner, now), tuple(_beside(owner, newest[spot]) if spot else ()))
        for owner, spot in zip(owners, spots, strict=True)
    )


@dataclass(frozen=True)
class NotedAt:
    """What is written at a point of the drawing."""

    point: str
    own: int | None
    """Place of this sensor's newest reading there, None for none."""
    beside: int | None
    """Of the newest to compare it with, and whose that is."""
    whose: str


def noted_at(readings: Sequence[Observed], beside: Sequence[Compared]) -> tuple[NotedAt, ...]:
    """What is written at each point, of the readings that count. beside: see ``compared``."""
    own: dict[str, int] = {}
    others: dict[str, Comparison] = {}
    for place, item in enumerate(readings):
        if not item.counts or item.probe.by_hand or not item.probe.points:
            continue
        point, listed = item.probe.points[0], beside[place].beside
        if item.probe.of:
            others[point] = Comparison(place, beside[place].whose)
            continue
        own[point] = place
        if listed:
            others[point] = listed[-1]
    return tuple(
        NotedAt(point, own.get(point), other.place if other else None, other.whose if other else "")
        for point in dict.fromkeys((*own, *others))
        for other in (others.get(point),)
    )


def _beside(own: _Owner, newest: Mapping[_Owner, int]) -> Iterator[Comparison]:
    """The newest reading of each other part at a spot. newest: part -> place of its newest reading."""
    said: dict[str, int] = {}
    for other, place in newest.items():
        if other != own:
            whose = _as_seen_from(own, other)
            said[whose] = max(said.get(whose, place), place)
    yield from (Comparison(place, whose) for whose, place in said.items())


def _owners(readings: Sequence[Observed]) -> list[_Owner]:
    owners, mended = [], 0
    for item in readings:
        mended += item.counts and item.probe.mends
        owners.append(_Owner(item.probe.of, 0 if item.probe.of else mended))
    return owners


def _spot(probe: Probe) -> Probe | None:
    """What is measured and in which state, whoever's it is; None for acts. An element is read as warm as it happens to be."""
    return None if probe.acted is not None else replace(probe, of=None, sensor_c=None, codes_cleared=False)


def _whose(owner: _Owner, now: int) -> str:
    if owner.of:
        return _WHOSE.get(owner.of, spoken(owner.of))
    return BEFORE if owner.mended < now else ""


def _as_seen_from(own: _Owner, other: _Owner) -> str:
    if other.of or own.of:
        return _whose(other, other.mended) or THIS
    return BEFORE if other.mended < own.mended else AFTER
