"""The list of jobs: a page of it at a time, filtered, searched and sorted by the database."""

from collections.abc import Mapping
from time import monotonic
from typing import Any, Literal, get_args

from django.db import connection
from django.db.models import Count, QuerySet

from server.ledger.models import Job

#: Which jobs are listed. over: proven or closed; all of them without those that are put away.
Listed = Literal["all", "new", "testing", "decided", "mended", "over", "archived"]
Order = Literal["newest", "oldest", "vehicle"]
#: Stages of jobs that are over.
_OVER = ("proven", "closed")
_ORDERS: Mapping[Order, tuple[str, ...]] = {
    "newest": ("-updated",), "oldest": ("updated",), "vehicle": ("vehicle", "-updated"),
}  # fmt: skip
#: SQLite's largest number of a row.
_MOST_NUMBER = 2**63 - 1
#: Counts of the lists are kept for so long, in seconds: a write of another process shows after it.
KEPT_S = 3.0
#: Words of a search that count.
_MOST_WORDS = 8


def columns(summary: Mapping[str, Any]) -> dict[str, Any]:
    """A summary as it is stored: whole, and in the columns that the list is asked by. The lists are counted anew."""
    count_anew()
    told = (*summary.get("codes", ()), summary.get("vehicle", ""), summary.get("title", ""), summary.get("where", ""))
    return {
        "summary": dict(summary), "stage": summary.get("stage", "new"), "vehicle": summary.get("vehicle", "")[:300],
        "words": " ".join(told).casefold(),
    }  # fmt: skip


def listed(which: Listed, words: str, order: Order) -> QuerySet[Job]:
    """The jobs that are asked for, in order."""
    found = Job.objects.filter(archived__in=(which == "archived",))  # "NOT archived" would find no index
    if which == "over":
        found = found.filter(stage__in=_OVER)
    elif which not in ("all", "archived"):
        found = found.filter(stage=which)
    for word in words.casefold().split()[:_MOST_WORDS]:
        found = found.filter(words__contains=word)
    return found.order_by(*_ORDERS[order])


class _Counted:
    """What was counted last, and when. Threads share it."""

    found: tuple[float, dict[str, int]] | None = None


def counts() -> dict[str, int]:
    """How many jobs each list has, whatever is searched for. Counted anew after each write of this process, and after ``KEPT_S``."""
    last = _Counted.found
    if last and monotonic() - last[0] < KEPT_S and not connection.in_atomic_block:
        return last[1]
    started = monotonic()
    found = _count()
    _Counted.found = (started, found)
    return found


def count_anew() -> None:
    """Something was written that counts may follow from."""
    _Counted.found = None


def _count() -> dict[str, int]:
    rows = Job.objects.order_by().values_list("archived", "stage").annotate(Count("pk"))
    found: dict[str, int] = dict.fromkeys(get_args(Listed), 0)
    for archived, stage, count in rows:
        for name in ("archived",) if archived else ("all", "over" if stage in _OVER else stage):
            found[name] = found.get(name, 0) + count
    return found


def entries_of(number: int) -> int | None:
    """How many entries a job has; None where there is no such job. Open pages ask again and again, so that it is one plain question."""
    if abs(number) > _MOST_NUMBER:
        return None
    with connection.cursor() as cursor:
        row = cursor.execute("SELECT entries FROM jobs_job WHERE id = %s", [number]).fetchone()
    return int(row[0]) if row else None
