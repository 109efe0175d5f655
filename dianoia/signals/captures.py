"""What is worth recording of a sensor: steps, for how long, what is marked, what is dangerous."""

from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

from dianoia.case.job import job_of
from dianoia.case.recordings import MarkName
from dianoia.case.types import Case
from dianoia.errors import refuse
from dianoia.families.types import Cell
from dianoia.tables import ROW, read_document

_DATA = Path(__file__).parent / "data"


@dataclass(frozen=True)
class CaptureStep:
    """One step of a guided recording."""

    __pydantic_config__ = ROW
    says: str
    """What to do."""
    seconds: float
    """How long it lasts."""
    mark: MarkName | None
    """What is marked when it begins; None for nothing."""


@dataclass(frozen=True)
class CaptureRow:
    """A recording that is worth making."""

    __pydantic_config__ = ROW
    id: str
    title: str
    cells: tuple[Cell, ...]
    """Kinds of cell it is for."""
    plan: str
    """What a simulated vehicle does meanwhile."""
    leads: tuple[str, ...]
    """Points of a scope's leads; none for a scan tool."""
    record: str
    """What to record."""
    cautions: tuple[str, ...]
    steps: tuple[CaptureStep, ...]


@dataclass(frozen=True)
class _Document:
    captures: tuple[CaptureRow, ...]


@dataclass(frozen=True)
class CaptureView:
    """A recording that is worth making, as it is shown."""

    id: str
    title: str
    record: str
    """What to record."""
    cautions: tuple[str, ...]
    steps: tuple[CaptureStep, ...]


@cache
def captures() -> tuple[CaptureRow, ...]:
    """All of them. Raises BrokenTable."""
    return read_document(_DATA / "captures.json", "dianoia-captures/1", _Document).captures


def capture_named(name: str) -> CaptureRow:
    """The one of this name. Raises RefusedInput."""
    found = next((row for row in captures() if row.id == name), None)
    if found is None:
        raise refuse("capture", "one of " + ", ".join(row.id for row in captures()), name)
    return found


def marks_of(capture: CaptureRow) -> list[dict[str, Any]]:
    """The marks of a recording whose steps lasted as long as they should."""
    found, at_s = [], 0.0
    for step in capture.steps:
        if step.mark is not None:
            found.append({"at_s": at_s, "event": step.mark})
        at_s += step.seconds
    return found


def captures_for(case: Case) -> tuple[CaptureView, ...]:
    """What is worth recording of a case's sensor."""
    job = job_of(case)
    kind = job.family.kind.id
    heated = job.family.heater_ohms_20c is not None
    return tuple(
        CaptureView(row.id, row.title, row.record, row.cautions, row.steps)
        for row in captures()
        if kind in row.cells and (heated or not row.leads)
    )
