"""What has to be shown after a repair, worked out of what had failed, and which readings have shown it.

A row is met by the reading that it asks for and by no other. It has to be at the same points or of the same value, under the same conditions and in the same state. It has to be taken after the repair, good, and inside the range that is printed beside it (``meets.py``). It stays met until an
act or a later bad reading of the same undoes it. What this vehicle cannot show is not asked.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from dianoia.case.job import Job
from dianoia.case.load import from_plain
from dianoia.case.measures import Probe
from dianoia.case.measures.state_words import state_words
from dianoia.case.observed import Observed
from dianoia.case.points import words
from dianoia.case.terms import Action
from dianoia.circuit.heater import NOMINAL_C
from dianoia.diagnosis.catalogue.candidates import Candidate, document, placed
from dianoia.diagnosis.catalogue.offered import terminals_around, tools_missing
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Part
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from dianoia.diagnosis.verdict.types import Judged
from dianoia.diagnosis.verdict.vocabulary import PARTS
from dianoia.families.tables import FamilyRow
from dianoia.readings.describe import describe
from dianoia.repair.acts import Mended
from dianoia.repair.meets import RENEWED, disturbs, meets
from dianoia.repair.rows import ProofRow, proof_rows
from dianoia.repair.types import ProofItem, ProofKind

#: Cautions of readings that no table lists: what they are taken at says.
_RUNNING, _APART = ("running",), ("hot",)
#: What a look, the codes and the monitor have to say.
_SOUND_WORDS = {"inspect": "ok", "moved": "no-change", "codes": "not-returned", "monitor": "complete"}


@dataclass(frozen=True)
class ProofContext:
    """A job after its repairs."""

    diagnosis: Diagnosis
    repairs: Sequence[Mended]
    judged: Sequence[Judged]
    """Its readings as they are judged now, in order."""
    proven: Mapping[Part, Sequence[int]]
    """Parts, and the readings that prove them."""

    @property
    def job(self) -> Job:
        """Of the diagnosis."""
        return self.diagnosis.job

    def items(self) -> tuple[ProofItem, ...]:
        """All that is to be shown, each once: what had failed first, the codes and the monitor last."""
        found: dict[object, ProofItem] = {}
        for item in (*self._again(), *self._hidden(), *self._standing()):
            found.setdefault((item.read.asks, item.read.setting, item.kind == "minutes-later"), item)
        return tuple(_told_apart(list(found.values())))

    def _again(self) -> Iterator[ProofItem]:
        """The readings that had failed, each where and as it was taken."""
        for repair in reversed(self.repairs):
            for place in reversed(repair.failed):
                item = self._once_more(repair, place)
                if item is not None:
                    yield item

    def _once_more(self, repair: Mended, place: int) -> ProofItem | None:
        old = self.job.readings[place].probe
        if old.looked and old.looked in [RENEWED.get(action) for action in self._acts(repair)]:
            return None
        read = replace(old, of=None, sensor_c=_cold(old))
        own = self._candidate(read)
        if old.acted is not None:
            at = words(old.points[0], self.job.pins) if old.points else "the plug and loom"
            asked = ProofItem(
                kind="moved", what=f"Moved again at {at}", read=read, expect="no change", before=place, minutes=own.minutes,
                cautions=own.cautions,
            )  # fmt: skip
            return self._shown(asked, [asked], repair)
        expect = "ok" if read.looked is not None else self.diagnosis.expect(own)
        if not expect:
            return None
        asked = ProofItem(
            kind="again", what=f"Again: {describe(read, self.job.pins).short_step}", read=read, expect=expect, before=place,
            minutes=own.minutes, cautions=own.cautions,
        )  # fmt: skip
        return self._shown(asked, [asked], repair)

    def _candidate(self, read: Probe) -> Candidate:
        """A reading as one that may be proposed: minutes and cautions of the same one, where it is listed."""
        known = next((item for item in self.diagnosis.weighed.readable if item.probe.asks == read.asks), None)
        return Candidate(
            id="again", probe=read, minutes=known.minutes if known else 2.0, at="plug", styles=(), tools=frozenset(),
            cautions=known.cautions if known else _cautions(read), switch=None, loops=(),
        )  # fmt: skip

    def _hidden(self) -> Iterator[ProofItem]:
        """What the finding had hidden."""
        for repair in self.repairs:
            for item in repair.finding.hidden:
                if item.read is not None and item.expect:
                    asked = ProofItem(
                        kind="hidden", what=f"Could not be read before: {describe(item.read, self.job.pins).short_step}",
                        read=item.read, expect=item.expect, cautions=_cautions(item.read),
                    )  # fmt: skip
                    shown = self._shown(asked, [asked], repair)
                    yield shown if shown.by is not None else self._proven_otherwise(shown, item.part, repair)

    def _proven_otherwise(self, asked: ProofItem, part: Part, repair: Mended) -> ProofItem:
        """The row with another instrument's reading that proves the same part, said as what it is; as it stands where there is none."""
        for place in sorted(self.proven.get(part, ()), reverse=True):
            read = self.job.readings[place].probe
            if place > self._since(read, repair) and not read.by_hand and self._good(place, "hidden"):
                what = f"Could not be read before: {PARTS[part].phrase}. {describe(read, self.job.pins).short_step}"
                return replace(asked, what=what, read=read, by=place, expect=self.judged[place].expected)
        return asked

    def _standing(self) -> Iterator[ProofItem]:
        """What is shown after any repair of such a loop."""
        by_name: dict[str, list[ProofRow]] = {}
        for row in self._rows():
            by_name.setdefault(row.shows, []).append(row)
        missing = tools_missing(self.job)
        for rows in by_name.values():
            asked = [(row, item) for row in rows if (item := self._item(row)) is not None]
            at_hand = [item for row, item in asked if row.tool not in missing and not row.also]
            if at_hand:
                yield self._shown(at_hand[0], [item for _, item in asked], self.repairs[-1])

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

    def _item(self, row: ProofRow) -> ProofItem | None:
        """A row of the table for this sensor; None where a sound one of them shows nothing that could be told."""
        read = from_plain(Probe, placed(row.reading, terminals_around(self.job)), row.id)
        cautions = tuple(document().cautions[name] for name in row.cautions)
        own = replace(self._candidate(read), minutes=row.minutes, cautions=cautions)
        in_play = "signal" in self.diagnosis.weighed.engine.loops
        said = _SOUND_WORDS.get(row.kind, "").replace("-", " ")
        expect = said or self.diagnosis.expect(own) or ("" if in_play else row.expect)
        if not expect:
            return None
        return ProofItem(kind=row.kind, what=row.what, read=read, expect=expect, minutes=row.minutes, cautions=cautions)

    def _shown(self, asked: ProofItem, ways: Sequence[ProofItem], repair: Mended) -> ProofItem:
        """The row with the reading that has shown it; as it stands where none has.

        ways: readings that show the same, this one among them; the newest of any of them that is good or bad counts.
        """
        for place in range(len(self.job.readings) - 1, -1, -1):
            for way in ways:
                if self._is_of(place, way, repair):
                    good = self._good(place, way.kind)
                    if good is not None:
                        return replace(way, by=place, expect=self._printed(place, way)) if good else asked
        return asked

    def _is_of(self, place: int, way: ProofItem, repair: Mended) -> bool:
        """Whether a reading is the one asked for, taken since the last act that could have changed it."""
        item = self.job.readings[place]
        if not item.counts:
            return False
        if place > self._since(way.read, repair) and meets(item.probe, way.read, way.kind):
            return True
        return self._is_out_of_the_box(place, item, way, repair)

    def _is_out_of_the_box(self, place: int, item: Observed, way: ProofItem, repair: Mended) -> bool:
        """The ohms of the part that was fitted, read before that: it is the same part."""
        fitted = "replace-sensor" in self._acts(repair) and repair is self._last_fitting()
        new = item.probe.of == "new" and item.probe.on_the_part and isinstance(item.probe.sensor_c, int | float)
        after = way.before is not None and place > way.before
        return fitted and new and after and meets(replace(item.probe, of=None), way.read, way.kind)

    def _last_fitting(self) -> Mended | None:
        return next((repair for repair in reversed(self.repairs) if "replace-sensor" in self._acts(repair)), None)

    def _since(self, read: Probe, repair: Mended) -> int:
        """Place of the last act, from this repair on, that could have changed what the reading shows."""
        acts = [(place, self._action(place)) for each in self.repairs for place in each.places if place > repair.last]
        return max([repair.last, *(place for place, action in acts if disturbs(action, read))])

    def _good(self, place: int, kind: ProofKind) -> bool | None:
        """Whether a reading shows what it should; None where it tells neither way."""
        item, judged = self.job.readings[place], self.judged[place]
        sound = _SOUND_WORDS.get("inspect" if item.probe.looked is not None else kind)
        if sound:
            return item.value == sound if item.value != "done" else None
        if (
            kind == "response"
            and item.probe.scanned == "sensor_voltage"
            and not item.probe.conditions
            and not item.is_span
        ):
            return None  # one look shows no response
        if judged.result == "pass":
            return True
        return False if judged.result == "fail" else None

    def _printed(self, place: int, way: ProofItem) -> str:
        """The range that the reading was held against: what it showed lies inside it."""
        spoken = way.read.looked is not None or way.kind in _SOUND_WORDS
        return way.expect if spoken else self.judged[place].expected

    def _acts(self, repair: Mended) -> list[Action]:
        return [self._action(place) for place in repair.places]

    def _action(self, place: int) -> Action:
        probe = self.job.readings[place].probe
        assert probe.acted is not None
        return probe.acted


def _cold(probe: Probe) -> float | Literal["hot"] | None:
    """The temperature that an element's ohms are proven at, where none was said: that of a cold one."""
    across = probe.reads_ohms and probe.across_element
    return NOMINAL_C if across and not isinstance(probe.sensor_c, int | float) else probe.sensor_c


def _told_apart(items: list[ProofItem]) -> Iterator[ProofItem]:
    """Rows that would read the same say their state, too."""
    said = [item.what for item in items]
    for item in items:
        around = state_words(item.read)
        yield replace(item, what=f"{item.what} ({around})") if said.count(item.what) > 1 and around else item


def _cautions(probe: Probe) -> tuple[str, ...]:
    names = _RUNNING if probe.key == "running" else _APART
    return tuple(document().cautions[name] for name in names)


def _has_points(row: ProofRow, family: FamilyRow) -> bool:
    """Whether the sensor has what the row touches."""
    ends = [str(row.reading.get(name, "")).partition(".")[2] for name in ("red", "black", "at")]
    return all(end in (*family.terminals, "", "negative", "{positive}", "{negative}") for end in ends)
