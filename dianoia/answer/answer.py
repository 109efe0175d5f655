"""The whole answer to a case: the verdict, with how far the repair is."""

from dataclasses import dataclass, fields, replace
from typing import Any, Literal

from dianoia.case.job import Job, job_of
from dianoia.case.types import Case
from dianoia.diagnosis.verdict.check import check
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from dianoia.diagnosis.verdict.summary import Stage, VerdictSummary, stage, summarise
from dianoia.diagnosis.verdict.types import Next, Verdict
from dianoia.repair.acts import MENDS
from dianoia.repair.repair import repair_of
from dianoia.repair.sheets import RepairSheet, sheets_for
from dianoia.repair.types import ProofItem, Repair

JobStage = Stage | Literal["mended", "proven", "closed"]
#: The proposals' name where what is proposed is a part of the proof.
PROOF = "proof"


@dataclass(frozen=True, kw_only=True)
class Answer(Verdict):
    """A verdict and how far the repair is. While a repair is not proven the decision is to keep testing, or what was found since."""

    repair: Repair


def answer(case: Case) -> Answer:
    """The answer to a case. Raises RefusedInput where the case cannot be diagnosed."""
    check(case)
    diagnosis = Diagnosis(job_of(case))
    return replace(answer_of(diagnosis), forecast=diagnosis.forecast())


def answer_of(diagnosis: Diagnosis) -> Answer:
    """The answer of a job worked through."""
    verdict = diagnosis.verdict()
    repair = repair_of(diagnosis, verdict)
    plain: dict[str, Any] = {item.name: getattr(verdict, item.name) for item in fields(Verdict)}
    return Answer(**{**plain, **_joined(diagnosis, verdict, repair)}, repair=repair)


def _joined(diagnosis: Diagnosis, verdict: Verdict, repair: Repair) -> dict[str, Any]:
    """What the state of the repair makes of the verdict."""
    if repair.state == "none" or verdict.components:
        return {}
    if repair.state == "proven":
        return {
            "decision": "no-fault-now", "says": repair.says, "found": (), "found_one_of": (), "next": None, "alternatives": (),
            "confidence": round(diagnosis.nothing_at_fault, 4), "nothing_else": round(diagnosis.nothing_at_fault, 4),
        }  # fmt: skip
    if repair.state == "came-back":
        return {}
    open_items = [_next(item) for item in repair.proof if item.by is None]
    says = {"decision": "keep-testing", "says": repair.says, "nothing_else": None}
    if not open_items:
        return says
    return {**says, "next": open_items[0], "alternatives": tuple(open_items[1:3])}


def _next(item: ProofItem) -> Next:
    return Next(
        id=PROOF, reading=item.read, expect=item.expect, minutes=item.minutes, why=item.what, cautions=item.cautions
    )


def summary_of(verdict: Answer, diagnosis: Diagnosis) -> VerdictSummary:
    """What is told of an answer: of a repaired job the state of its repair. diagnosis: that it comes from."""
    found = summarise(verdict, diagnosis.weighed, diagnosis.before())
    closed = verdict.repair.closed is not None
    steps = tuple(replace(step, state="done") for step in found.steps) if closed else found.steps
    return replace(found, title=verdict.repair.title or found.title, steps=steps)


def stage_of(verdict: Answer, counted: int) -> JobStage:
    """Where a job stands. counted: its readings that count."""
    if verdict.repair.closed:
        return "closed"
    if verdict.repair.state in ("done", "closed-unproven"):
        return "mended"
    return "proven" if verdict.repair.state == "proven" else stage(verdict, counted)


def sheets_of(verdict: Answer, job: Job) -> tuple[RepairSheet, ...]:
    """How what was decided, or is being done, is repaired; none while testing."""
    cell, torque_nm = job.family.cell, job.case.sensor.torque_nm if job.case.sensor else None
    acted = {MENDS[done.action][0] for done in verdict.repair.done}
    if verdict.components:
        return sheets_for(cell, verdict.components, verdict.found or verdict.found_one_of, torque_nm)
    if acted:
        return sheets_for(cell, acted, verdict.repair.found, torque_nm)
    return sheets_for(cell, (), ()) if verdict.decision == "no-fault-now" else ()
