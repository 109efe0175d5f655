"""The acts of repair in a ledger, and what was known before each."""

from collections import OrderedDict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from threading import Lock

from dianoia.case.job import Job
from dianoia.case.observed import Observed
from dianoia.case.terms import Action
from dianoia.case.types import Case
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Component
from dianoia.diagnosis.verdict.diagnose import Diagnosis, PastDecision

#: What an act mends; the first words of it.
MENDS: Mapping[Action, tuple[Component, str]] = {
    "replace-sensor": ("sensor", "Sensor replaced"), "repair-wiring": ("wiring", "Wiring repaired"),
    "replace-fuse": ("supply", "Fuse replaced"), "replace-relay": ("supply", "Relay replaced"),
    "replace-module": ("module", "Module replaced"), "repair-exhaust": ("exhaust", "Exhaust leak closed"),
    "repair-mixture": ("mixture", "Mixture put right"), "repair-dosing": ("dosing", "Dosing put right"),
}  # fmt: skip


def acts_for(components: Collection[Component], found: Collection[str]) -> tuple[Action, ...]:
    """The acts that mend what was decided; none where nothing was.

    >>> acts_for(["supply", "sensor"], ["fuse-blown", "heater-open"])
    ('replace-sensor', 'replace-fuse')
    """
    if "feed" in components:
        return ()  # which of its faults was mended is asked
    by_fault = {"fuse-blown": "replace-fuse", "relay-open": "replace-relay"}
    exact = {by_fault[name] for name in found if name in by_fault and "supply" in components}
    of_supply = exact or ({"replace-fuse"} if "supply" in components else set())
    return tuple(
        action for action, (component, _) in MENDS.items()
        if (action in of_supply if component == "supply" else component in components)
    )  # fmt: skip


@dataclass(frozen=True)
class MendChoice:
    """A way to mend a feed whose fault was not told apart."""

    fault: str
    """The fault that was found there."""
    says: str
    """In words."""
    action: Action
    """The action that mends it."""


def mend_choices(one_of: Sequence[str]) -> tuple[MendChoice, ...]:
    """What may have been mended, of the faults that could not be told apart; the act says which."""
    by_fault: Mapping[str, Action] = {"fuse-blown": "replace-fuse", "relay-open": "replace-relay"}
    return tuple(MendChoice(name, faults()[name].says, by_fault.get(name, "repair-wiring")) for name in one_of)


@dataclass(frozen=True)
class Mended:
    """Acts of repair with no reading between them."""

    places: tuple[int, ...]
    """Theirs in the ledger."""
    before: Job
    """The job up to them."""
    finding: PastDecision
    """What was known then."""
    failed: tuple[int, ...]
    """Places of the readings since the repair before that had failed."""

    @property
    def last(self) -> int:
        """Place of the last of the acts."""
        return self.places[-1]


class Findings:
    """What stood at moments of jobs, kept while nothing else that was noted of the vehicle changes; safe to use from several threads."""

    def __init__(self, most: int = 200) -> None:
        self._most, self._lock = most, Lock()
        self._kept: OrderedDict[tuple[Observed, ...], tuple[Case, PastDecision]] = OrderedDict()

    def of(self, job: Job) -> PastDecision:
        """What is found after all of a job's readings."""
        case = replace(job.case, readings=(), closed=None)
        with self._lock:
            kept = self._kept.get(job.readings)
        finding = kept[1] if kept and kept[0] == case else Diagnosis(job, plan=False).finding()
        with self._lock:
            self._kept[job.readings] = case, finding
            self._kept.move_to_end(job.readings)
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)
        return finding


findings = Findings()


def is_repair(reading: Observed) -> bool:
    """Whether a reading that counts is an act of repair."""
    return reading.counts and reading.probe.mends


def came_back(reading: Observed) -> bool:
    """Whether a reading that counts says that the code is back."""
    cleared = reading.counts and reading.probe.acted == "clear-codes"
    return cleared and str(reading.value).startswith("returned")


def mended(job: Job) -> list[Mended]:
    """The repairs of a job, in order."""
    found: list[Mended] = []
    since = 0
    for places in _groups(job.readings):
        before = job.with_readings(job.readings[: places[0]])
        finding = findings.of(before)
        failed = tuple(
            place for place in range(since, places[0]) if _failed(job.readings[place], finding.results[place])
        )
        found.append(Mended(places, before, finding, failed))
        since = places[-1] + 1
    return found


def _groups(readings: Sequence[Observed]) -> list[tuple[int, ...]]:
    """Places of the acts, those that nothing counts between in one group."""
    groups: list[list[int]] = []
    joined = False
    for place, item in enumerate(readings):
        if is_repair(item):
            if joined:
                groups[-1].append(place)
            else:
                groups.append([place])
        joined = is_repair(item) or (joined and not item.counts)
    return [tuple(group) for group in groups]


def _failed(reading: Observed, result: str) -> bool:
    """Whether a reading of the sensor in question showed something wrong that can be read again."""
    probe = reading.probe
    if not reading.counts or probe.of is not None:
        return False
    if probe.acted is not None:
        return reading.value == "changed"
    if probe.looked is not None:
        return reading.value != "ok"
    return result == "fail"
