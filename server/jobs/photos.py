"""Photos at the steps of a repair, and at readings: of a screen, of a plug."""

import json
from hashlib import sha256
from typing import Any

from django.db import transaction

from dianoia.errors import refuse
from dianoia.repair.sheets import steps_known
from server.jobs.pictures import kept_picture
from server.ledger.entries import Author, NewEntry, append, locked
from server.ledger.models import Job, Kind, Photo

#: The longer side in pixels, and the quality of the JPEG.
LONGEST, QUALITY = 1280, 78
#: So many at one job.
MOST = 40
#: What a photo of a reading is kept under, before the reading's place; no step is called so.
_OF_READING = "reading:"


def add_photo(job: Job, step: str, data: bytes, by: Author, key: str | None = None) -> int:
    """Keep a photo of a step, once for each ``key`` of a client; returns its number. Raises RefusedInput."""
    if step not in steps_known():
        raise refuse("step", "a step of a repair sheet", step)
    return _add(job, step, data, by, key)


def add_reading_photo(job: Job, place: int, data: bytes, by: Author, key: str | None = None) -> int:
    """The same of a reading, whether it is struck out or not. place: of the reading in the job. Raises RefusedInput."""
    if not 0 <= place < job.lines:
        raise refuse("place", "the place of a reading of this job", str(place))
    return _add(job, f"{_OF_READING}{place}", data, by, key)


def _add(job: Job, step: str, data: bytes, by: Author, key: str | None) -> int:
    """Keep a photo. That it was taken, and its hash, go into the ledger."""
    small = shrunk(data)
    said = {"step": step, "sha256": sha256(small).hexdigest()}
    with transaction.atomic():
        job = locked(job)
        if key and (earlier := job.ledger.filter(key=key).first()):
            return _taken_before(json.loads(earlier.body), said, key)
        if job.photos.count() >= MOST:
            raise refuse("photo", f"at most {MOST} photos of a job", "one more")
        photo = Photo.objects.create(job=job, step=step, image=small)
        append(job, [NewEntry(Kind.PHOTO, {**said, "photo": photo.pk}, key=key)], by)
        job.save(update_fields=["entries"])
    return int(photo.pk)


def _taken_before(kept: dict[str, Any], said: dict[str, str], key: str) -> int:
    """The photo's number. kept: the body of the entry under this key. Raises RefusedInput where it is of something else."""
    if {name: kept.get(name) for name in said} != said:
        raise refuse("Idempotency-Key", "another key for another photo", key)
    return int(kept["photo"])


def photos_of(job: Job) -> dict[str, tuple[int, ...]]:
    """Step -> the numbers of its photos, in the order they were taken."""
    return {step: numbers for step, numbers in _all(job).items() if not step.startswith(_OF_READING)}


def reading_photos_of(job: Job, lines: int) -> tuple[tuple[int, ...], ...]:
    """The numbers of the photos at each reading. lines: how many readings there are."""
    found = _all(job)
    return tuple(found.get(f"{_OF_READING}{place}", ()) for place in range(lines))


def _all(job: Job) -> dict[str, tuple[int, ...]]:
    found: dict[str, tuple[int, ...]] = {}
    for row in job.ledger.filter(kind=Kind.PHOTO):
        body = json.loads(row.body)
        found[body["step"]] = (*found.get(body["step"], ()), body["photo"])
    return found


def shrunk(data: bytes) -> bytes:
    """A photo as a small JPEG, upright, with nothing but its picture. Raises RefusedInput for what is no photo."""
    return kept_picture(data, "photo", (LONGEST, LONGEST), "JPEG", quality=QUALITY)
