"""Contacts that a hand moved: which faults lie there, and which of them come and go.

A contact that changed when it was moved is at fault now, whatever was read while it held: a reading of it may then have met
either the fault or a healthy contact.
"""

from collections.abc import Sequence

from dianoia.case.measures import Probe
from dianoia.case.observed import Observed
from dianoia.diagnosis.faults.tables import faults

#: Share of the readings at a contact that comes and goes which meet it while it holds; own estimate.
HOLDS = 0.5
#: Faults of a contact that a movement makes and breaks, by the beginning of their ids.
CONTACTS = (
    "pin-open:",
    "wire-open:",
    "wire-high:",
    "relay-open",
    "supply-open",
    "supply-high",
    "module-ground-high",
    "shell-ground-high",
)
#: Acts that mend a contact: what came and went before them is gone.
_MENDS = ("repair-wiring", "replace-relay", "replace-fuse")
#: Of points without a terminal: the faults that a hand moves there.
_AT: dict[str, tuple[str, ...]] = {
    "relay": ("relay-open", "supply-high"), "fuse": ("supply-high",), "main_fuse": ("supply-high", "supply-open"),
    "battery": ("supply-high", "supply-open"), "chassis": ("module-ground-high", "wire-high:ground", "wire-open:ground"),
    "module": ("module-ground-high",), "sensor": ("shell-ground-high",),
}  # fmt: skip


def reached(point: str | None) -> frozenset[str]:
    """The faults that moving a point moves. point: None for the whole loom, without fuse box and grounds.

    >>> sorted(name for name in reached("harness.heater_control") if name.startswith(("pin", "wire-open")))
    ['pin-open:heater_control', 'wire-open:heater_control']
    """
    names = faults()
    if point is None:
        return frozenset(name for name in names if ":" in name)
    place, _, terminal = point.rpartition(".")
    own = frozenset(name for name in names if name.endswith(f":{terminal}"))
    return own or frozenset(name for name in _AT.get(place or point, ()) if name in names)


def moved_at(probe: Probe) -> str | None:
    """The point that was moved; None for the whole loom."""
    return probe.points[0] if probe.points else None


def come_and_gone(readings: Sequence[Observed]) -> list[frozenset[str]]:
    """For each reading the faults of contacts that changed when they were moved, between the same two repairs."""
    found: list[frozenset[str]] = []
    for since in _between_repairs(readings):
        changed = [item.probe for item in since if item.counts and item.value == "changed"]
        names = frozenset(name for probe in changed for name in _moved(probe) if name.startswith(CONTACTS))
        found += [names] * len(since)
    return found


def _moved(probe: Probe) -> frozenset[str]:
    return reached(moved_at(probe)) if probe.acted is not None else frozenset()


def _between_repairs(readings: Sequence[Observed]) -> list[list[Observed]]:
    parts: list[list[Observed]] = [[]]
    for item in readings:
        parts[-1].append(item)
        if item.counts and item.probe.acted in _MENDS:
            parts.append([])
    return parts
