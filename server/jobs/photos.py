"""Photos at the steps of a repair: shrunk, and rid of all that they carry besides the picture (where, when, with what)."""

import json
from hashlib import sha256
from io import BytesIO

from django.db import transaction
from PIL import Image, ImageOps, UnidentifiedImageError

from dianoia.errors import RefusedInput, refuse
from dianoia.repair.sheets import steps_known
from server.jobs.ledger import Author, New, append, locked
from server.jobs.models import Job, Kind, Photo

#: The longer side in pixels, the quality of the JPEG, and how many bytes a photo may have when it comes.
LONGEST, QUALITY, MOST_BYTES = 1280, 78, 20_000_000
#: So many at one job.
MOST = 40


def add_photo(job: Job, step: str, data: bytes, by: Author) -> int:
    """Keep a photo of a step; returns its number. That it was taken, and its hash, go into the ledger. Raises RefusedInput."""
    if step not in steps_known():
        raise refuse("step", "a step of a repair sheet", step)
    small = shrunk(data)
    with transaction.atomic():
        job = locked(job)
        if job.photos.count() >= MOST:
            raise refuse("photo", f"at most {MOST} photos of a job", "one more")
        photo = Photo.objects.create(job=job, step=step, image=small)
        body = {"step": step, "photo": photo.pk, "sha256": sha256(small).hexdigest()}
        append(job, [New(Kind.PHOTO, body)], by)
        job.save(update_fields=["entries"])
    return int(photo.pk)


def photos_of(job: Job) -> dict[str, tuple[int, ...]]:
    """Step -> the numbers of its photos, in the order they were taken."""
    found: dict[str, tuple[int, ...]] = {}
    for row in job.ledger.filter(kind=Kind.PHOTO):
        body = json.loads(row.body)
        found[body["step"]] = (*found.get(body["step"], ()), body["photo"])
    return found


def shrunk(data: bytes) -> bytes:
    """A photo as a small JPEG, upright, with nothing but its picture. Raises RefusedInput for what is no photo."""
    if len(data) > MOST_BYTES:
        raise refuse("photo", f"at most {MOST_BYTES // 1_000_000} MB", f"{len(data) / 1e6:.0f} MB")
    try:
        with Image.open(BytesIO(data)) as photo:
            upright = ImageOps.exif_transpose(photo).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as problem:
        raise _no_photo() from problem
    upright.thumbnail((LONGEST, LONGEST))
    bare = Image.frombytes("RGB", upright.size, upright.tobytes())
    made = BytesIO()
    bare.save(made, "JPEG", quality=QUALITY, optimize=True)
    return made.getvalue()


def _no_photo() -> RefusedInput:
    return refuse("photo", "a photo: JPEG, PNG or WebP", "something else")
