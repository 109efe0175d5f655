"""The workshop's settings: one row, given to every job that brings none of its own."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any, Literal

from dianoia.case.load import from_plain, to_plain
from dianoia.case.types import Case
from dianoia.case.workshop import Workshop
from server.jobs.bodies import RepairOutcomes
from server.jobs.pictures import kept_picture
from server.ledger.models import Job
from server.ledger.models import Workshop as Row

#: Pixels that the mark may be wide and high: sharp at 50 mm by 16 mm.
MARK = (900, 288)


def workshop() -> Workshop:
    """The settings; all unknown before they were first made."""
    row = Row.objects.first()
    settings: Workshop = from_plain(Workshop, row.settings, "workshop") if row else Workshop()
    return settings


def set_workshop(settings: Workshop) -> Workshop:
    """Replace the settings."""
    row = Row.objects.first() or Row()
    row.settings = to_plain(settings)
    row.save()
    return settings


def mark() -> bytes:
    """The workshop's mark, as PNG; empty where there is none."""
    row = Row.objects.first()
    return bytes(row.mark) if row else b""


def set_mark(data: bytes) -> None:
    """Keep a mark, shrunk; empty for none. Raises RefusedInput for what is no picture."""
    row = Row.objects.first() or Row()
    row.mark = kept_picture(data, "mark", MARK, "PNG") if data else b""
    row.save()


def in_workshop(case: Case) -> Case:
    """The case with the workshop's settings, unless it brings its own."""
    return case if case.workshop else replace(case, workshop=workshop())


def outcomes() -> tuple[RepairOutcomes, ...]:
    """What became of the repairs noted here, by whether they waited for the decision. Simulated vehicles do not count."""
    summaries = [job.summary for job in Job.objects.only("summary") if not job.summary.get("simulated")]
    told = [summary for summary in summaries if summary.get("repair", "none") != "none"]
    return (_outcome("decided", told), _outcome("early", told))


def _outcome(when: Literal["decided", "early"], told: Sequence[dict[str, Any]]) -> RepairOutcomes:
    own = [item for item in told if item.get("early", False) == (when == "early")]
    proven = sum(item["repair"] == "proven" for item in own)
    return RepairOutcomes(when, len(own), proven, sum(item.get("returns", 0) > 0 for item in own))
