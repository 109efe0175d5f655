"""Where a job stands on its way from the code to the vehicle handed over, and what it waits for."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, get_args

from dianoia.case.observed import Observed
from dianoia.diagnosis.verdict.types import Verdict

StepName = Literal["read", "place", "measure", "decide", "mend", "prove", "hand-over"]
StepState = Literal["done", "now", "ahead"]

LABELS: dict[StepName, str] = {
    "read": "read", "place": "place", "measure": "measure", "decide": "decide", "mend": "mend", "prove": "prove",
    "hand-over": "hand over",
}  # fmt: skip


@dataclass(frozen=True)
class JobStep:
    """A step of every job."""

    name: StepName
    label: str
    state: StepState


def steps(verdict: Verdict, counted: Sequence[Observed]) -> tuple[JobStep, ...]:
    """The steps in their order, one of them ``now``. counted: the readings that count."""
    order = get_args(StepName)
    now = order.index(_now(verdict, counted))
    return tuple(
        JobStep(name, LABELS[name], "done" if place < now else "now" if place == now else "ahead")
        for place, name in enumerate(order)
    )


def _now(verdict: Verdict, counted: Sequence[Observed]) -> StepName:
    mended = any(_mends(item) for item in counted)
    if verdict.decision == "keep-testing":
        return "prove" if mended else "measure" if counted else "place"
    if verdict.decision == "no-fault-now":
        return "hand-over"
    return "mend"


def _mends(reading: Observed) -> bool:
    probe = reading.probe
    return probe.mends
