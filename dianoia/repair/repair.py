"""Where the repair of a job stands."""

from collections.abc import Sequence

from dianoia.case.job import Job
from dianoia.case.types import Closing
from dianoia.diagnosis.decision.context import OF_FEED
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from dianoia.diagnosis.verdict.types import Verdict
from dianoia.repair.acts import MENDS, Mended, came_back, mended
from dianoia.repair.follow_ups import may_come
from dianoia.repair.proof import ProofContext
from dianoia.repair.types import ActedDecision, Closed, ProofItem, Repair, RepairAct, RepairState

TITLES: dict[RepairState, str] = {
    "none": "", "done": "Repaired, not proven yet", "proven": "Repaired and proven",
    "closed-unproven": "Closed, not proven", "came-back": "The code came back",
}  # fmt: skip


def repair_of(diagnosis: Diagnosis, verdict: Verdict) -> Repair:
    """Where a job's repair stands."""
    job = diagnosis.job
    closing = _closing(job)
    closed = Closed(by=closing.by, at=closing.at, reason=closing.reason) if closing else None
    repairs = mended(job)
    if not repairs:
        return Repair(closed=closed)
    proof = ProofContext(diagnosis, repairs, verdict.judged, {item.part: item.by for item in verdict.proven}).items()
    state = _state(job, repairs, proof, closed, diagnosis.standing.decided and bool(diagnosis.standing.components))
    return Repair(
        state=state,
        title=TITLES[state],
        says=_says(state, proof, closed),
        decided=tuple(_decided(repair) for repair in repairs if repair.finding.components),
        done=tuple(done for repair in repairs for done in _done(job, repair)),
        proof=proof,
        found=tuple(dict.fromkeys(name for repair in repairs for name in _mended(job, repair))),
        closed=closed,
        returns=_returns(job, repairs),
        inspection=_inspection(job),
        may_come=tuple(may_come(diagnosis, repairs, verdict.judged)),
        sensor_unseen=round(diagnosis.sensor_unseen, 4),
    )


def _closing(job: Job) -> Closing | None:
    """How the job was closed; none where a reading has come since."""
    closing = job.case.closed
    return closing if closing and closing.readings == len(job.readings) else None


def _mended(job: Job, repair: Mended) -> tuple[str, ...]:
    """What was mended: what the acts say, else what was found."""
    told = tuple(str(fault) for place in repair.places if (fault := job.readings[place].of_fault))
    return told or repair.finding.found


def _decided(repair: Mended) -> ActedDecision:
    finding, counted = repair.finding, [item.counts for item in repair.before.readings]
    return ActedDecision(
        decision=finding.decision, components=tuple(sorted(finding.components)), says=finding.says, how_sure=finding.how_sure,
        because=finding.because, readings=sum(counted), reading=max((place for place, item in enumerate(counted) if item), default=0),
        acts=repair.places,
    )  # fmt: skip


def _done(job: Job, repair: Mended) -> list[RepairAct]:
    found = []
    for place in repair.places:
        reading, noted = job.readings[place], job.case.readings[place]
        acted = reading.probe.acted
        assert acted is not None
        component, says = MENDS[acted]
        if acted == "replace-sensor":
            says = f"Sensor {job.address} replaced"
        early = not {component, *(("feed",) if component in OF_FEED else ())} & repair.finding.components
        found.append(RepairAct(
            reading=place, action=acted, says=says, part=noted.said_part,
            decision=repair.finding.decision, found=repair.finding.found, found_by=repair.failed, early=early,
            unproven=repair.finding.wanted if early else (), reason=noted.note or "",
        ))  # fmt: skip
    return found


def _inspection(job: Job) -> str:
    workshop = job.case.workshop
    if workshop is None or workshop.incomplete is None:
        return "How many monitors may be incomplete at the inspection is a local rule."
    return f"As your workshop has noted it, {workshop.incomplete} may be incomplete at the inspection; the local rule decides."


def _returns(job: Job, repairs: Sequence[Mended]) -> int:
    """How many repairs the code came back after."""
    ends = [*(repair.places[0] for repair in repairs[1:]), len(job.readings)]
    return sum(
        any(came_back(item) for item in job.readings[repair.last + 1 : end])
        for repair, end in zip(repairs, ends, strict=True)
    )


def _state(
    job: Job, repairs: Sequence[Mended], proof: Sequence[ProofItem], closed: Closed | None, found_anew: bool
) -> RepairState:
    """A job that was closed as proven stays so, whatever the program would ask of it today."""
    closed_as_proven = closed is not None and not closed.reason
    since = job.readings[repairs[-1].last + 1 :]
    told = [item for item in since if item.counts and item.probe.acted == "clear-codes"]
    if told and came_back(told[-1]):
        return "came-back"
    if closed_as_proven or (all(item.by is not None for item in proof) and not found_anew):
        return "proven"
    return "closed-unproven" if closed else "done"


def _says(state: RepairState, proof: Sequence[ProofItem], closed: Closed | None) -> str:
    shown = sum(item.by is not None for item in proof)
    if state == "proven" and closed:
        return "Repaired and proven. Handed over."
    if state == "proven":
        return f"Repaired and proven: all {len(proof)} of {len(proof)} shown."
    if state == "came-back":
        return "The code came back after the repair: the job is open again, with all its evidence."
    if state == "closed-unproven" and closed:
        return f"Closed with {shown} of {len(proof)} shown: {closed.reason}"
    return f"Repaired: {shown} of {len(proof)} shown. Show the rest before the vehicle leaves."
