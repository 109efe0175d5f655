"""The same evidence however it was written down: copies, and an order that the order of taking does not change."""

from collections.abc import Sequence
from dataclasses import replace

from dianoia.case.observed import Observed


def without_copies(readings: Sequence[Observed]) -> tuple[Observed, ...]:
    """The same ledger, an exact copy of a reading (taken at the same moment, of the same, with the same value) counting once."""
    first: dict[object, int] = {}
    found = []
    for place, item in enumerate(readings):
        same = (item.taken, item.probe.shows, item.figures, item.moves)
        copied = item.counts and item.taken is not None and same in first
        found.append(replace(item, struck=f"a copy of reading {first[same] + 1}") if copied else item)
        if item.counts:
            first.setdefault(same, place)
    return tuple(found)


def in_order(readings: Sequence[Observed]) -> tuple[Observed, ...]:
    """The readings that count, those between two acts in an order of their own: by what was measured and what it showed."""
    found: list[Observed] = []
    between: list[Observed] = []
    for item in readings:
        if not item.counts:
            continue
        if item.probe.acted:
            found += [*sorted(between, key=_sorted_by), item]
            between = []
        else:
            between.append(item)
    return (*found, *sorted(between, key=_sorted_by))


def _sorted_by(item: Observed) -> tuple[str, ...]:
    """Not by the name of another sensor, which is another on the other bank."""
    probe = item.probe
    other = probe.of is not None and probe.of.startswith("B")
    own = replace(probe, of=f"S{probe.of[-1]}" if other and probe.of else probe.of)
    return type(probe).__name__, repr(own), repr(item.figures), str(item.moves)
