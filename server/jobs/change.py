"""Changes what is known of a job besides its readings."""

import json
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from dianoia.case.changes import check_simulated
from dianoia.case.load import case_from_plain, to_plain
from dianoia.diagnosis.verdict.check import check
from server.jobs.results import worked_after
from server.jobs.search import count_anew
from server.jobs.stored import case_of
from server.ledger.entries import NOBODY, Author, NewEntry, append, locked
from server.ledger.models import Job, Kind
from server.work.view_types import JobResult


def archive_job(job: Job, archived: bool) -> None:
    """Put a job away, or take it back; nothing else of it changes, not even when it was touched last."""
    Job.objects.filter(pk=job.pk).update(archived=archived)
    count_anew()


@dataclass(frozen=True)
class Clash(Exception):
    """A change of what someone else has changed meanwhile."""

    fields: tuple[str, ...]
    """Both have changed."""
    by: str
    """Who else."""


def change_job(job: Job, changes: dict[str, Any], by: Author = NOBODY, seen: int | None = None) -> JobResult:
    """Change what is known besides the ledger. Objects are merged field by field, null takes a field away (RFC 7396), so
    that two changes of different fields never undo each other; lists are replaced.

    seen: how many entries the job had when the change was made, None for a change that is to stand whatever came between.
    Raises RefusedInput, and Clash where a field was changed since.
    """
    return worked_after(_changed(job, changes, by, seen))


@transaction.atomic
def _changed(job: Job, changes: dict[str, Any], by: Author, seen: int | None) -> Job:
    job = locked(job)
    if seen is not None:
        _refuse_clash(job, changes, seen)
    before = case_of(job)
    changed = case_from_plain(merged(to_plain(before), changes))
    check(changed)
    check_simulated(before, changed)
    known = {name: value for name, value in to_plain(changed).items() if name not in ("readings", "recordings")}
    job.codes = known.get("codes", [])
    job.header = {name: value for name, value in known.items() if name != "codes"}
    append(job, [NewEntry(Kind.CHANGE, {"changes": changes, "known": known})], by)
    job.save(update_fields=["header", "codes", "entries"])
    return job


def _refuse_clash(job: Job, changes: dict[str, Any], seen: int) -> None:
    mine = set(_leaves(changes))
    for row in job.ledger.filter(kind=Kind.CHANGE, place__gte=seen):
        theirs = set(_leaves(json.loads(row.body)["changes"]))
        both = sorted(one for one in mine for other in theirs if _within(one, other) or _within(other, one))
        if both:
            raise Clash(tuple(dict.fromkeys(both)), row.by)


def _leaves(changes: Any, at: str = "") -> Iterator[str]:
    """Paths of the fields that a merge patch touches."""
    if not isinstance(changes, dict):
        yield at
        return
    for name, value in changes.items():
        yield from _leaves(value, f"{at}.{name}" if at else name)


def _within(one: str, other: str) -> bool:
    return one == other or one.startswith(f"{other}.")


def merged(target: Any, changes: Any) -> Any:
    """A JSON merge patch (RFC 7396) applied.

    >>> merged({"a": {"b": 1, "c": 2}}, {"a": {"b": None}, "d": [3]})
    {'a': {'c': 2}, 'd': [3]}
    """
    if not isinstance(changes, dict):
        return changes
    known = target if isinstance(target, dict) else {}
    both = {**known, **{name: merged(known.get(name), value) for name, value in changes.items()}}
    return {name: value for name, value in both.items() if name not in changes or changes[name] is not None}
