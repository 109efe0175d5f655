"""Readings in the ledger: how one is written as an entry, and read back with what was struck out."""

import json
from dataclasses import dataclass, field, replace
from itertools import accumulate
from typing import Any

from dianoia.case.times import now
from server.ledger.entries import CLOCK_TOLERANCE, NewEntry, is_ahead, moment_of
from server.ledger.models import Entry, Job, Kind
from server.ledger.origin import EntryOrigin

#: What is said of an entry that was stamped by a clock ahead of the time.
CLOCK_AHEAD = "the server's clock was ahead when this was noted"


def reading_entry(
    line: int, plain: dict[str, Any], imported: bool = False, key: str | None = None, clock: str = ""
) -> NewEntry:
    """The entry of a reading, as in the case file."""
    noted = {"imported": True} if imported else {}
    return NewEntry(Kind.READING, {"reading": plain, **noted, **({"clock": clock} if clock else {})}, line, key)


@dataclass(frozen=True)
class Lines:
    """A job's readings as in the case file, what was struck out said with it, and who wrote each."""

    plain: list[dict[str, Any]] = field(default_factory=list)
    written: list[EntryOrigin] = field(default_factory=list)


def lines_of(job: Job) -> Lines:
    """The readings of a job in order."""
    lines = Lines()
    rows = list(job.ledger.filter(kind__in=(Kind.READING, Kind.STRIKE)))
    earliest_after = [*accumulate((now(), *(row.at for row in reversed(rows[1:]))), min)][::-1]
    for row, after in zip(rows, earliest_after, strict=False):
        body = json.loads(row.body)
        if row.kind == Kind.READING:
            lines.plain.append(body["reading"])
            written = written_of(row, body)
            lines.written.append(replace(written, clock=CLOCK_AHEAD) if is_ahead(row.at, after) else written)
        else:
            place, was = body["line"], lines.written[body["line"]]
            lines.plain[place] = {**lines.plain[place], "struck": body["reason"]}
            lines.written[place] = replace(was, struck_by=row.by, struck_at=row.at)
    return lines


def written_of(row: Entry, body: dict[str, Any]) -> EntryOrigin:
    """Who wrote a reading's entry, and when. body: of the entry."""
    later = _later(body["reading"].get("taken"), row.at)
    return EntryOrigin(row.by, row.at, body.get("imported", False), body.get("clock", ""), later)


def clock_of(taken: str | None, before: str | None) -> str:
    """What is to be noted of an instrument's own time. before: of the reading before it. Both ISO 8601."""
    at, last, here = moment_of(taken), moment_of(before), moment_of(now())
    if at is None or here is None:
        return ""
    if at - here > CLOCK_TOLERANCE:
        return f"its clock is {(at - here).total_seconds() / 60:.0f} min ahead of the server's"
    if last is not None and last - at > CLOCK_TOLERANCE:
        return "its clock was set back: the reading before it is later"
    return ""


def _later(taken: str | None, written: str) -> bool:
    one, other = moment_of(taken), moment_of(written)
    return one is not None and other is not None and other - one > CLOCK_TOLERANCE
