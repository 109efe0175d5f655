"""A job's view, kept with its job: opening it again needs no diagnosis while nothing has changed.

A view is kept under a key of all that it depends on: the job's entries, the workshop's settings, and the program.
"""

import logging
from functools import cache
from hashlib import sha256
from pathlib import Path
from zlib import compress, decompress

from django.conf import settings
from django.db import DatabaseError, transaction

from server.ledger.models import CachedView, Job, Workshop

_log = logging.getLogger(__name__)
#: Views that are kept: those of the jobs opened last.
MOST = 400


def key_of(job: Job) -> str:
    """What a view of the job as it is now is kept under."""
    row = Workshop.objects.first()
    parts = (program(), str(job.entries), str(row.settings if row else ""))
    return sha256("\n".join(parts).encode()).hexdigest()


def kept_view(job: Job, key: str) -> bytes | None:
    """The job's view as JSON; None where none is kept under this key."""
    kept = CachedView.objects.filter(job=job, key=key).first()
    return decompress(bytes(kept.body)) if kept else None


def keep_view(job: Job, key: str, body: bytes) -> None:
    """Keep a view. If the store cannot be written, nothing is kept, and the job is still shown."""
    try:
        with transaction.atomic():
            CachedView.objects.filter(job=job).delete()
            CachedView.objects.create(job=job, key=key, body=compress(body, 6))
            old = CachedView.objects.order_by("-pk").values_list("pk", flat=True)[MOST:]
            CachedView.objects.filter(pk__in=list(old)).delete()
    except DatabaseError as problem:
        _log.warning("the view of job %s could not be kept: %s", job.pk, problem)


@cache
def program() -> str:
    """Hash of the program and its tables: another version may say something else."""
    found = sha256()
    for package in ("dianoia", "server"):
        for path in sorted(Path(settings.BASE_DIR, package).rglob("*")):
            if path.suffix in (".py", ".json", ".csv"):
                found.update(path.read_bytes())
    return found.hexdigest()
