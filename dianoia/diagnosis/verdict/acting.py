"""What stands before the decision, what acting now takes on, and what the finding hides until it is mended."""

from collections.abc import Iterator

from dianoia.diagnosis.catalogue.candidates import Candidate
from dianoia.diagnosis.decision.assessment import Assessment
from dianoia.diagnosis.decision.checklist import SAME, Shown
from dianoia.diagnosis.decision.decide import Standing
from dianoia.diagnosis.decision.gates import NAMED, WITHOUT, gates, seen_rows
from dianoia.diagnosis.decision.proof import PartState, right_kind
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import REPORTED, FaultRow, Part
from dianoia.diagnosis.verdict.explain import COMPONENT_WORDS, PART_WORDS, expect_text, settled_by
from dianoia.diagnosis.verdict.judging import Judging
from dianoia.diagnosis.verdict.types import AfterRepair, Gate
from dianoia.quantities.show import percent


def checklist(standing: Standing) -> Iterator[Gate]:
    """The gate before what is likeliest, or before what was decided, row by row."""
    for item in standing.checklist:
        asks = _asks(item.row.shown)
        yield Gate(
            component=item.row.component, asks=asks, status=item.status, says=_says(item, asks), reason=item.row.reason,
            by=item.by, candidates=item.candidates,
        )  # fmt: skip


def _asks(shown: tuple[str, ...]) -> str:
    return ", or ".join(_words(name) for name in shown)


def _words(shown: str) -> str:
    if shown.startswith(NAMED):
        return f"the finding that {faults()[shown.removeprefix(NAMED)].says}, named with it"
    if shown.startswith(WITHOUT):
        return f"no chance left that {faults()[shown.removeprefix(WITHOUT)].says}"
    if shown in seen_rows():
        return seen_rows()[shown].says
    return next(f"{words} proven" for part, words in PART_WORDS.items() if part == shown)


def _says(item: Shown, asks: str) -> str:
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
    standing, held = seen.standing, seen.held
    if not standing.components:
        return ""
    what = " and ".join(COMPONENT_WORDS[name] for name in sorted(standing.components))
    chance = min(held.by_component[name] for name in standing.components)
    which = what if len(standing.components) == 1 else f"all of {what}"
    risk = f"If you act now: {percent(1.0 - chance)} that it is not {which}."
    if standing.decided:
        return risk
    unproven = [PART_WORDS[part] for part in standing.missing]
    unseen = [item.because or _asks(item.row.shown) for item in standing.wanted if not item.parts]
    shown = f" Not proven: {', '.join(unproven)}." if unproven else ""
    shown += f" Not shown: {'; '.join(unseen)}." if unseen else ""
    besides = "; ".join(f"{faults()[name].says} ({percent(held.chances[name])})" for name in standing.holding)
    return f"{risk}{shown}" + (f" Not ruled out: {besides}." if besides else "")


def after_repair(seen: Assessment, judging: Judging) -> Iterator[AfterRepair]:
    """The parts that what was decided hides, or leaves unread, and what to read of them then."""
    standing, held = seen.standing, seen.held
    if not standing.decided or not standing.components:
        return
    for part, state in held.states.items():
        if state.proven or _is_named(seen, part):
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
        told = seen.held.telling.readings(name, frozenset(), gates().holds_up.tells)
        for item in told:
            apart = item.probe.setting.module_connector == "unplugged"
            proves = right_kind(part, item.probe, seen.load) and not apart and item.probe.of is None
            if item.id in reachable and proves:
                return item
    return None


def _why(seen: Assessment, part: Part, hidden: bool) -> str:
    found = seen.standing.found or seen.standing.found_one_of
    if not hidden or not found:
        return f"{PART_WORDS[part]} is not proven"
    return f"Cannot be read until {_mended(faults()[found[0]])}"


def _mended(fault: FaultRow) -> str:
    if fault.component == "sensor":
        return "the sensor is replaced"
    what = (
        COMPONENT_WORDS[fault.component].replace("an ", "the ")
        if fault.component in REPORTED
        else PART_WORDS[fault.part]
    )
    return f"{what} is mended"
