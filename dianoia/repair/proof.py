"""What has to be shown after a repair, worked out of what had failed, and which readings have shown it."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from dianoia.case.job import Job
from dianoia.case.ledger import ActProbe, InspectProbe, Probe, ScanProbe
from dianoia.case.load import from_plain
from dianoia.case.observed import Observed
from dianoia.diagnosis.catalogue.candidates import Candidate, document, placed
from dianoia.diagnosis.catalogue.offered import terminals_around, tools_missing
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Part
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from dianoia.diagnosis.verdict.types import AfterRepair
from dianoia.families.tables import FamilyRow
from dianoia.readings.describe import describe
from dianoia.repair.acts import Mended
from dianoia.repair.rows import ProofRow, proof_rows
from dianoia.repair.types import ProofItem

#: Whether a reading is of some kind.
Asked = Callable[[Observed], bool]
#: From so many seconds of running on, a current that is still there says that the module has not let go of it again.
LATER_S = 120.0
#: Cautions of readings that no table lists: what they are taken at says.
_RUNNING, _APART = ("running",), ("hot",)


@dataclass(frozen=True)
class Proving:
    """A job after its repairs. results: how each reading is judged now, in its order; proven: parts, and the readings that prove them."""

    diagnosis: Diagnosis
    repairs: Sequence[Mended]
    results: Sequence[str]
    proven: Mapping[Part, Sequence[int]]

    @property
    def job(self) -> Job:
        """Of the diagnosis."""
        return self.diagnosis.job

    def items(self) -> tuple[ProofItem, ...]:
        """All that is to be shown, each once: what had failed first, the codes and the monitor last."""
        found: dict[object, ProofItem] = {}
        for item in (*self._again(), *self._hidden(), *self._standing()):
            found.setdefault((item.read.asks, item.read.setting, item.kind == "minutes-later"), item)
        return tuple(found.values())

    def _again(self) -> Iterator[ProofItem]:
        """The readings that had failed, each where and as it was taken."""
        offered = self.diagnosis.weighed.readable
        for repair in reversed(self.repairs):
            for place in reversed(repair.failed):
                old = self.job.readings[place]
                known = next((item for item in offered if item.probe.asks == old.probe.asks), None)
                own = Candidate(
                    id="again", probe=old.probe, minutes=known.minutes if known else 2.0, at="plug", styles=(), tools=frozenset(),
                    cautions=known.cautions if known else _cautions(old.probe), switch=None, loops=(),
                )  # fmt: skip
                expect = "ok" if isinstance(old.probe, InspectProbe) else self.diagnosis.expect(own)
                if expect:
                    yield ProofItem(
                        kind="again", what=f"Again: {describe(old.probe, self.job.pins).short_step}", read=old.probe, expect=expect,
                        by=self._shown_by([old.probe], repair.last), before=place, minutes=own.minutes, cautions=own.cautions,
                    )  # fmt: skip

    def _hidden(self) -> Iterator[ProofItem]:
        """What the finding had hidden."""
        for repair in self.repairs:
            for item in repair.finding.hidden:
                if item.read is not None:
                    yield ProofItem(
                        kind="hidden", what=f"Not seen before: {item.why}", read=item.read, expect=item.expect,
                        by=self._proves(item, repair.last), cautions=_cautions(item.read),
                    )  # fmt: skip

    def _proves(self, item: AfterRepair, after: int) -> int | None:
        """The reading that was asked for, or any that proves the part."""
        assert item.read is not None
        other = [place for place in self.proven.get(item.part, ()) if place > after]
        return self._shown_by([item.read], after) or max(other, default=None)

    def _standing(self) -> Iterator[ProofItem]:
        """What is shown after any repair of such a loop."""
        by_name: dict[str, list[ProofRow]] = {}
        for row in self._rows():
            by_name.setdefault(row.shows, []).append(row)
        missing = tools_missing(self.job)
        for rows in by_name.values():
            at_hand = [row for row in rows if row.tool not in missing]
            if at_hand:
                yield self._item(at_hand[0], rows)

    def _rows(self) -> Iterator[ProofRow]:
        loops, family = self._loops(), self.job.family
        engine = self.job.case.vehicle.engine
        for row in proof_rows():
            fits = loops & set(row.loops) and (not row.cells or family.cell in row.cells)
            fits = fits and (not row.positions or (self.job.position or 1) in row.positions)
            fits = fits and (row.banks is None or (engine is not None and engine.sensor_banks == row.banks))
            if fits and not (row.kind == "monitor" and self._no_monitor()) and _has_points(row, family):
                yield row

    def _loops(self) -> set[str]:
        """The loops of what was found, or of the code where nothing was."""
        named = {
            loop for repair in self.repairs for name in repair.finding.found for loop in faults()[name].loop.split()
        }
        in_play = set(self.diagnosis.weighed.engine.loops)
        return named & in_play or {self.diagnosis.weighed.engine.focus}

    def _no_monitor(self) -> bool:
        sensor = self.job.case.sensor
        said = [item.value for item in self.job.counted if item.probe.scanned == "heater_monitor"]
        return "unsupported" in said or (sensor is not None and sensor.heater_monitor is False)

    def _item(self, row: ProofRow, alike: Sequence[ProofRow]) -> ProofItem:
        probe = self._probe(row)
        cautions = tuple(document().cautions[name] for name in row.cautions)
        candidate = Candidate(
            id=row.id, probe=probe, minutes=row.minutes, at="scan", styles=(), tools=frozenset(), cautions=cautions, switch=None, loops=()
        )  # fmt: skip
        expect = (
            {"codes": "not returned", "monitor": "complete"}.get(row.kind)
            or self.diagnosis.expect(candidate)
            or row.expect
        )
        return ProofItem(
            kind=row.kind, what=row.what, read=probe, expect=expect, by=self._by(row, alike), minutes=row.minutes,
            cautions=cautions,
        )  # fmt: skip

    def _probe(self, row: ProofRow) -> Probe:
        return from_plain(Probe, placed(row.reading, terminals_around(self.job)), row.id)

    def _by(self, row: ProofRow, alike: Sequence[ProofRow]) -> int | None:
        last = self.repairs[-1].last
        if row.kind == "codes":
            return self._newest(
                last, lambda item: _is_act(item, "clear-codes"), lambda item: item.value == "not-returned"
            )
        if row.kind == "monitor":
            return self._newest(last, _is_monitor, lambda item: item.value == "complete")
        later = LATER_S if row.kind == "minutes-later" else None
        shown = self._shown_by([self._probe(other) for other in alike], last, later)
        return self._answered(last) if shown is None and row.kind == "response" else shown

    def _answered(self, after: int) -> int | None:
        """The newest reading by which the cell is proven, however it was shown to answer; one of an instrument where there is any."""
        proven = [place for place in self.proven.get("cell", ()) if place > after]
        read = [place for place in proven if not self.job.readings[place].probe.by_hand]
        return max(read or proven, default=None)

    def _shown_by(self, probes: Sequence[Probe], after: int, later_s: float | None = None) -> int | None:
        """The newest reading of any of them after a repair, if that is good: whatever it was taken with, the newest counts."""

        def same(item: Observed) -> bool:
            ran = later_s is None or (item.probe.at_s is not None and item.probe.at_s >= later_s)
            return ran and any(item.probe.asks == probe.asks and _alike(item.probe, probe) for probe in probes)

        place = self._newest(after, same, lambda item: True)
        if place is None:
            return None
        item = self.job.readings[place]
        good = item.value == "ok" if isinstance(item.probe, InspectProbe) else self.results[place] == "pass"
        return place if good else None

    def _newest(self, after: int, same: Asked, good: Asked) -> int | None:
        """Place of the newest such reading after a place, None where it is not good or there is none."""
        for place in range(len(self.job.readings) - 1, after, -1):
            item = self.job.readings[place]
            if item.counts and same(item):
                return place if good(item) else None
        return None


def _alike(one: Probe, other: Probe) -> bool:
    """Whether two states of the vehicle are the same but for how long, how fast and after what."""
    a, b = one.setting, other.setting
    return (a.key, a.connector, a.module_connector) == (b.key, b.connector, b.module_connector)


def _is_act(item: Observed, action: str) -> bool:
    return isinstance(item.probe, ActProbe) and item.probe.action == action


def _is_monitor(item: Observed) -> bool:
    return isinstance(item.probe, ScanProbe) and item.probe.pid == "heater_monitor"


def _cautions(probe: Probe) -> tuple[str, ...]:
    names = _RUNNING if probe.key == "running" else _APART
    return tuple(document().cautions[name] for name in names)


def _has_points(row: ProofRow, family: FamilyRow) -> bool:
    """Whether the sensor has what the row touches."""
    ends = [str(row.reading.get(name, "")).partition(".")[2] for name in ("red", "black", "at")]
    return all(end in (*family.terminals, "", "negative", "{positive}", "{negative}") for end in ends)
