"""Work done between readings, so that the next one is judged at once: only while nobody waits for anything else."""

import logging
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from threading import Lock
from time import sleep

from dianoia.case.job import Job
from dianoia.diagnosis.catalogue.offered import engines

_worker = ThreadPoolExecutor(max_workers=1, thread_name_prefix="ahead")
_log = logging.getLogger(__name__)
#: The screen that shows the judgement has the processor first.
PAUSE_S = 0.3
#: So often it is looked whether nobody waits any more.
TRIES = 10
#: What waits to be made ready: the newest few; in a full shop those before are worked out when they are asked for.
MOST_WAITING = 2


class _Desk:
    """How much is asked for now, and what waits to be made ready meanwhile."""

    def __init__(self) -> None:
        self.lock = Lock()
        self.asked = 0
        self.waiting = 0


_desk = _Desk()


@contextmanager
def asked_for() -> Iterator[None]:
    """Held while something is worked out that someone waits for."""
    with _desk.lock:
        _desk.asked += 1
    try:
        yield
    finally:
        with _desk.lock:
            _desk.asked -= 1


def idle() -> bool:
    """Whether nobody waits for anything."""
    return _desk.asked == 0


def look_ahead(job: Job) -> None:
    """Make ready, in the background, what the job's next reading will need."""
    with _desk.lock:
        if _desk.waiting >= MOST_WAITING:
            return
        _desk.waiting += 1
    _worker.submit(_make_ready, job)


def _make_ready(job: Job) -> None:
    for _ in range(TRIES):
        sleep(PAUSE_S)
        if idle():
            break
    with _desk.lock:
        _desk.waiting -= 1
    try:
        engines.make_ready(job)
    except Exception:  # the next reading then works it out itself
        _log.exception("could not look ahead")
