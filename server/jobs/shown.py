"""A job as it was last shown, kept beside it: opening it again works nothing out while nothing has changed.

What it is kept by says all that it depends on: the job's entries, the workshop's settings, and the program itself.
"""

import json
import logging
from functools import cache
from hashlib import sha256
from pathlib import Path
from zlib import compress, decompress

from django.conf import settings
from django.db import DatabaseError, transaction

from dianoia.case.load import adapter
from server.jobs import store, thinking
from server.jobs.models import Job, Shown, Workshop
from server.jobs.view import JobView
from server.jobs.workers import pool
from server.jobs.workshop import in_workshop

_log = logging.getLogger(__name__)
#: So many jobs are kept as they were shown, those shown last.
MOST = 400


def shown(job: Job) -> bytes:
    """The job's view, as JSON. Where it was kept, its next reading is made ready meanwhile."""
    key = _key(job)
    kept = Shown.objects.filter(job=job, key=key).first()
    if kept is not None:
        body = decompress(bytes(kept.body))
        pool.tell(job.pk, "slow", thinking.prepared, job.pk, in_workshop(store.case_of(job)), _rests(body))
        return body
    view: JobView = store.worked_out(job).view
    body = adapter(JobView).dump_json(view, by_alias=True)
    _keep(job, key, body)
    return body


def _rests(body: bytes) -> bool:
    """Whether a view told of a decision."""
    return bool(json.loads(body)["verdict"]["decision"] != "keep-testing")


def _keep(job: Job, key: str, body: bytes) -> None:
    """A store that cannot be written keeps nothing, and the job is shown all the same."""
    try:
        with transaction.atomic():
            Shown.objects.filter(job=job).delete()
            Shown.objects.create(job=job, key=key, body=compress(body, 6))
            old = Shown.objects.order_by("-pk").values_list("pk", flat=True)[MOST:]
            Shown.objects.filter(pk__in=list(old)).delete()
    except DatabaseError as problem:
        _log.warning("job %s could not be kept as it was shown: %s", job.pk, problem)


def _key(job: Job) -> str:
    row = Workshop.objects.first()
    parts = (program(), str(job.entries), str(row.settings if row else ""))
    return sha256("\n".join(parts).encode()).hexdigest()


@cache
def program() -> str:
    """Hash of the program and its tables: another version may say something else."""
    found = sha256()
    for package in ("dianoia", "server"):
        for path in sorted(Path(settings.BASE_DIR, package).rglob("*")):
            if path.suffix in (".py", ".json", ".csv"):
                found.update(path.read_bytes())
    return found.hexdigest()
