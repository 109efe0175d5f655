"""Whether a store's ledger holds: its chain, what the jobs, photos, names and customers say it comes to, its copies and its heads."""

import json
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass, field
from hashlib import sha256
from pathlib import Path
from typing import Any, NamedTuple

from django.contrib.auth.models import User

from server.ledger import guards
from server.ledger.chain import START, commitment, link, record
from server.ledger.customer_data import committed_data
from server.ledger.models import Customer, Entry, Job, Kind, Photo
from server.ledger.recordings import problems_of_recordings

#: Rows read from the store at a time.
_AT_A_TIME = 2000


class _Row(NamedTuple):
    """What is checked of an entry: rows of a store are many, and a whole ``Entry`` takes its time."""

    number: int
    job: int
    place: int
    line: int | None
    kind: str
    by: str
    at: str
    body: str
    hash: str
    person: int | None


_FIELDS = ("number", "job_id", "place", "line", "kind", "by", "at", "body", "hash", "person_id")


@dataclass
class _Folded:
    """What a job's entries come to."""

    entries: int = 0
    lines: int = 0
    in_order: bool = True
    """Whether places and lines count up from 0 without a gap."""
    known: str = ""
    """The body of the newest entry that says it, empty for none."""
    customer: str = ""
    """The body of the newest entry that says it, empty for none."""
    photos: dict[int, str] = field(default_factory=dict)
    """Number -> hash."""

    def add(self, row: _Row) -> None:
        """Take in the next entry."""
        self.in_order &= row.place == self.entries
        self.entries += 1
        if row.kind == Kind.READING:
            self.in_order &= row.line == self.lines
            self.lines += 1
        elif row.kind in (Kind.OPENED, Kind.CHANGE):
            self.known = row.body
        elif row.kind == Kind.CUSTOMER:
            self.customer = row.body
        elif row.kind == Kind.PHOTO:
            body = json.loads(row.body)
            self.photos[body["photo"]] = body["sha256"]


def problems(using: str = "default", samples: Path | None = None) -> Iterator[str]:
    """Everything that is wrong with a store's ledger; nothing where it holds. using: the database; samples: the folder of a copy's
    recordings, None for the store's own.
    """
    yield from (f"trigger {name} is missing" for name in guards.missing(using))
    yield from (f"trigger {name} is not ours" for name in guards.altered(using))
    folded: dict[int, _Folded] = {}
    yield from _of_chain(folded, using)
    for job in Job.objects.using(using).order_by("pk").iterator(chunk_size=_AT_A_TIME):
        yield from _of_job(job, folded.get(job.pk, _Folded()))
    yield from _of_customers(folded, using)
    yield from _of_photos(folded, using)
    yield from problems_of_recordings(using, samples)


def _of_chain(folded: dict[int, _Folded], using: str) -> Iterator[str]:
    """The chain from its start; each entry is handed on to its job."""
    names = dict(User.objects.using(using).values_list("pk", "username"))
    before, expected = START, 1
    stored = Entry.objects.using(using).order_by("number").values_list(*_FIELDS)
    for row in map(_Row._make, stored.iterator(chunk_size=_AT_A_TIME)):
        if row.number != expected:
            yield f"entry {expected} is missing: number {row.number} follows {expected - 1}"
        text = record(row.number, row.job, row.place, row.kind, row.by, row.at, row.body)
        if link(before, text) != row.hash:
            yield f"entry {row.number} is not what was written, or does not follow entry {row.number - 1}"
        if row.person is not None and names.get(row.person) != row.by:
            yield f"entry {row.number} was written by {row.by}, and its account is another person's"
        before, expected = row.hash, row.number + 1
        folded.setdefault(row.job, _Folded()).add(row)


def _of_job(job: Job, found: _Folded) -> Iterator[str]:
    if not found.in_order or found.entries != job.entries:
        yield f"job {job.pk} should have {job.entries} entries in order, and has {found.entries}"
        return
    if found.lines != job.lines:
        yield f"job {job.pk} should have {job.lines} readings in order, and has {found.lines}"
    known: dict[str, Any] = json.loads(found.known)["known"] if found.known else {}
    header = {name: value for name, value in known.items() if name != "codes"}
    if known and (known.get("codes", []), header) != (job.codes, job.header):
        yield f"job {job.pk} is not what its entries come to"


def _of_customers(folded: dict[int, _Folded], using: str) -> Iterator[str]:
    rows = {row.job_id: row for row in Customer.objects.using(using).all()}
    for number, found in folded.items():
        said = json.loads(found.customer).get("commitment") if found.customer else None
        row = rows.get(number)
        if said and (row is None or commitment(row.salt, committed_data(row)) != said):
            yield f"the customer's data of job {number} is not what was entered"


def _of_photos(folded: dict[int, _Folded], using: str) -> Iterator[str]:
    wanted = {photo: (number, digest) for number, found in folded.items() for photo, digest in found.photos.items()}
    for photo in Photo.objects.using(using).iterator(chunk_size=20):
        number, digest = wanted.pop(photo.pk, (photo.job_id, ""))
        if sha256(bytes(photo.image)).hexdigest() != digest:
            yield f"photo {photo.pk} of job {number} is not what was taken"
    for lost, (number, _) in wanted.items():
        yield f"photo {lost} of job {number} is missing"


def problems_of_copies(copies: list[Path]) -> Iterator[str]:
    """Older copies whose newest entry is not in this store's chain as it was: then the chain was made anew since."""
    for path in copies:
        try:
            with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True)) as copy:
                newest = copy.execute("SELECT number, hash FROM jobs_entry ORDER BY number DESC LIMIT 1").fetchone()
        except sqlite3.DatabaseError as problem:
            yield f"copy {path.name} cannot be read: {problem}"
            continue
        if newest and not _is_in_chain(*newest):
            yield f"copy {path.name} ends with entry {newest[0]}, which this ledger does not have as it was then"


def problems_of_heads(path: Path) -> Iterator[str]:
    """Noted heads that are not in this store's chain. path: lines of time, number and hash, and a word where that copy
    was put back (see ``backup``).
    """
    heads: list[tuple[int, int, str]] = []
    lines = path.read_text(encoding="utf-8").splitlines() if path.is_file() else []
    for place, line in enumerate(lines, start=1):
        _, number, digest, mark = (*line.split(), "", "", "", "")[:4]
        if not number.isdecimal():
            yield f"line {place} of {path.name} names no entry"
            continue
        if mark:  # put back: what had come after it is no past of this store
            heads = [item for item in heads if item[1] <= int(number)]
        heads.append((place, int(number), digest))
    for place, entry, digest in heads:
        if not _is_in_chain(entry, digest):
            yield f"line {place} of {path.name} names entry {entry}, which this ledger does not have as it was then"


def _is_in_chain(number: int, digest: str) -> bool:
    return Entry.objects.filter(number=number, hash=digest).exists()
