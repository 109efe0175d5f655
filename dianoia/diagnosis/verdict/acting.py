"""What stands before the decision, what acting now takes on, and what the finding hides until it is mended."""

from collections.abc import Iterator, Sequence

from dianoia.case.lamps import lamps
from dianoia.diagnosis.catalogue.candidates import Candidate, same_measurement
from dianoia.diagnosis.decision.assessment import Assessment
from dianoia.diagnosis.decision.checklist import SAME, GateResult
from dianoia.diagnosis.decision.decide import Standing
from dianoia.diagnosis.decision.gates import INSTEAD, NAMED, WITHOUT, gates, seen_rows
from dianoia.diagnosis.decision.proof import PartState, right_kind
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import REPORTED, FaultRow, Part
from dianoia.diagnosis.verdict.explain import expect_text, settled_by
from dianoia.diagnosis.verdict.judging import Judgements
from dianoia.diagnosis.verdict.types import AfterRepair, BeforeFitting, Gate
from dianoia.diagnosis.verdict.vocabulary import COMPONENTS, PARTS


def checklist(standing: Standing) -> Iterator[Gate]:
    """The gate before what is likeliest, or before what was decided, row by row."""
    for item in standing.checklist:
        asks = _asks(item.row.shown)
        yield Gate(
            component=item.row.component, asks=asks, status=item.status, says=_says(item, asks), reason=item.row.reason,
            by=item.by, candidates=item.candidates,
        )  # fmt: skip


def _asks(shown: tuple[str, ...]) -> str:
    """The first of what would do: the others are ways round it."""
    return _words(shown[0])


def _words(shown: str) -> str:
    if shown.startswith(NAMED):
        return f"the finding that {faults()[shown.removeprefix(NAMED)].says}, named with it"
    if shown.startswith(WITHOUT):
        return f"no chance left that {faults()[shown.removeprefix(WITHOUT)].says}"
    if shown.startswith(INSTEAD):
        beginning = shown.removeprefix(INSTEAD)
        rival = (
            faults()[beginning].says if beginning in faults() else f"{PARTS[_part_of(beginning)].phrase} is at fault"
        )
        return f"no chance left that {rival} instead"
    if shown in seen_rows():
        return seen_rows()[shown].says
    return next(f"{said.phrase} proven" for part, said in PARTS.items() if part == shown)


def _part_of(beginning: str) -> Part:
    return next(row.part for name, row in faults().items() if name.startswith(beginning))


def _says(item: GateResult, asks: str) -> str:
    if item.status == "met":
        return f"Met by {_readings(item.by)}." if item.by else f"Met: {item.because or 'no reading points to it'}."
    if item.status == "waived":
        return f"Waived: {item.because}."
    if item.parts:
        return f"Still wanted: {settled_by(item.parts[0])}."
    return f"Still wanted: {item.because or asks}."


def _readings(places: tuple[int, ...]) -> str:
    return f"reading{'s' if len(places) > 1 else ''} {', '.join(str(place + 1) for place in places)}"


def acting_now(seen: Assessment) -> str:
    """What a technician who acts now on the likeliest takes on."""
    standing = seen.standing
    if standing.decided or not standing.components:
        return ""
    what = " and ".join(COMPONENTS[name].phrase for name in sorted(standing.components))
    wanting = [PARTS[part].phrase for part in standing.missing]
    wanting += [item.because or _asks(item.row.shown) for item in standing.wanted if not item.parts]
    wanting += [f"whether {faults()[name].says}" for name in standing.holding]
    lacks = f" This is not settled: {'; '.join(wanting)}." if wanting else ""
    return f"If you act on {what} now, it is your decision, and is recorded as such.{lacks}"


#: What is read before a sensor is fitted: the parts it speaks of, the readings that show them, the best first, and what would withdraw
#: the decision. ``small`` are elements that take a large lamp.
_BEFORE: tuple[tuple[tuple[Part, ...], tuple[str, ...], str], ...] = (
    (
        ("supply", "control"),
        ("lamp-across", "lamp-across-small"),
        "dark or dim: the feed or the control is bad as well; mend it first",
    ),
    (
        ("supply", "ground"),
        ("nox-loaded", "nox-unit-live"),
        "much less than the battery has: feed or ground is bad as well; mend it first",
    ),
    (("bus",), ("nox-bus-ohms",), "not near 60 ohm: the bus is bad as well; mend it first"),
    (("bus",), ("nox-can-high",), "another voltage: the bus is bad as well; mend it first"),
    (("bus",), ("nox-can-low",), "another voltage: the bus is bad as well; mend it first"),
)
_PINS, _PINS_WITHDRAW = "look-pins", "loose, corroded or pushed back: mend the plug, and read the old sensor once more"


def before_fitting(seen: Assessment, judging: Judgements) -> Iterator[BeforeFitting]:
    """What a careful technician reads before the new sensor goes in, as far as it is not proven yet. The part may be ordered at once."""
    standing = seen.standing
    if not standing.decided or "sensor" not in standing.components:
        return
    by_id = {item.id: item for item in seen.readable if item.id not in seen.out_of_reach}
    asked: set[str] = set()
    for parts, names, withdraws in _BEFORE:
        still = tuple(part for part in parts if part in seen.states and not seen.states[part].proven)
        taken = any(name in by_id and _is_taken(by_id[name], seen) for name in names)
        found = None if taken else next((by_id[name] for name in _lamps_first(names, seen) if name in by_id), None)
        if still and len(set(parts) & set(seen.states)) == len(parts) and found and found.id not in asked:
            asked.add(found.id)
            yield _before(found, still, withdraws, f"{_listed(still)} not proven yet.", judging)
    pins = by_id.get(_PINS)
    if pins and not _is_taken(pins, seen):
        yield _before(
            pins, (), _PINS_WITHDRAW, "A pin without contact looks like a bad sensor, and spoils the new one.", judging
        )
    for name in standing.besides:
        telling = seen.held.telling.readings(name, seen.held.present, gates().besides.tells)
        item = next((item for item in telling if item.id in by_id and item.id not in asked), None)
        if item:
            asked.add(item.id)
            says = faults()[name].says
            yield _before(
                item, (), f"another value: {says} as well; mend it first", f"It may be that {says} as well.", judging
            )


def _is_taken(item: Candidate, seen: Assessment) -> bool:
    """Whether it was read already: what failed then is found by the next reading."""
    return any(same_measurement(item, old) for old in seen.job.counted)


def _lamps_first(names: tuple[str, ...], seen: Assessment) -> tuple[str, ...]:
    """The small lamp will do where the element is large."""
    small = seen.load.lamp_watts <= lamps().load_watts
    return tuple(reversed(names)) if small and names[-1].endswith("-small") else names


def _listed(parts: Sequence[Part]) -> str:
    words = " and ".join(PARTS[part].phrase for part in parts)
    return f"{_capital(words)} {'are' if len(parts) > 1 else 'is'}"


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def _before(item: Candidate, parts: tuple[Part, ...], withdraws: str, why: str, judging: Judgements) -> BeforeFitting:
    return BeforeFitting(
        parts=parts, read=item.probe, expect=expect_text(item, judging.expect(item.probe)), withdraws=withdraws, why=why,
        minutes=item.minutes, cautions=item.cautions,
    )  # fmt: skip


def after_repair(seen: Assessment, judging: Judgements) -> Iterator[AfterRepair]:
    """The parts that what was decided hides, or leaves unread, and what to read of them then."""
    standing, held = seen.standing, seen.held
    if not standing.decided or not standing.components:
        return
    for part, state in held.states.items():
        if state.proven or _is_named(seen, part) or _read_before(seen, part):
            continue
        hidden = bool(state.open) and all(
            held.telling.best(name, held.present, shut=True) < SAME for name in state.open
        )
        read = _then(seen, part, state)
        yield AfterRepair(
            part=part, read=read.probe if read else None,
            expect=expect_text(read, judging.expect(read.probe)) if read else "",
            why=_why(seen, part, hidden),
        )  # fmt: skip


def _read_before(seen: Assessment, part: Part) -> bool:
    """Whether a part is read before a sensor is fitted."""
    return "sensor" in seen.standing.components and any(part in parts for parts, _, _ in _BEFORE)


def _is_named(seen: Assessment, part: Part) -> bool:
    """Whether a part is what was found, or goes with a sensor that is replaced."""
    held, standing = seen.held, seen.standing
    own = [name for name in held.chances if faults()[name].part == part and not name.startswith("pin-")]
    new = "sensor" in standing.components and all(faults()[name].component == "sensor" for name in own)
    found = {*standing.found, *standing.found_one_of}
    return new or any(name in found for name in own)


def _then(seen: Assessment, part: Part, state: PartState) -> Candidate | None:
    """The quickest reading that proves a part once nothing hides it."""
    reachable = {item.id for item in seen.readable} - seen.out_of_reach
    for name in state.open or tuple(name for name in seen.held.chances if faults()[name].part == part):
        told = seen.held.telling.readings(name, frozenset(), gates().besides.tells)
        for item in told:
            apart = item.probe.setting.module_connector == "unplugged"
            proves = right_kind(part, item.probe, seen.load) and not apart and item.probe.of is None
            if item.id in reachable and proves:
                return item
    return None


def _why(seen: Assessment, part: Part, hidden: bool) -> str:
    found = seen.standing.found or seen.standing.found_one_of
    if not hidden or not found:
        return f"{PARTS[part].phrase} is not proven"
    return f"Cannot be read until {_mended(faults()[found[0]])}"


def _mended(fault: FaultRow) -> str:
    if fault.component == "sensor":
        return "the sensor is replaced"
    what = (
        COMPONENTS[fault.component].phrase.replace("an ", "the ")
        if fault.component in REPORTED
        else PARTS[fault.part].phrase
    )
    return f"{what} is mended"
