"""Work done between readings, so that the next one is judged at once: only while nobody waits for anything else."""

import logging
from concurrent.futures import ThreadPoolExecutor
from threading import Lock
from time import sleep

from dianoia.case.job import Job
from dianoia.diagnosis.catalogue.offered import engines
from server.work.memory import give_back
from server.work.turns import Turn, give_way, taking

_worker = ThreadPoolExecutor(max_workers=1, thread_name_prefix="ahead")
_log = logging.getLogger(__name__)
#: The screen that shows the judgement has the processor first.
PAUSE_S = 0.3
#: Jobs that wait to be made ready; beyond, the oldest are worked out when they are asked for.
MOST_WAITING = 24


class _WaitingJobs:
    """What waits to be made ready, by job, the oldest first."""

    def __init__(self) -> None:
        self.lock = Lock()
        self.waiting: dict[int, tuple[Job, bool]] = {}


_desk = _WaitingJobs()


def look_ahead(number: int, job: Job, rests: bool = False) -> None:
    """Make ready, in the background, what the job's next reading will need. number: of the job, its newest state is what counts;
    rests: a decision stands, and a next reading may be long in coming.
    """
    with _desk.lock:
        _desk.waiting.pop(number, None)
        _desk.waiting[number] = job, rests
        while len(_desk.waiting) > MOST_WAITING:
            del _desk.waiting[next(iter(_desk.waiting))]
    _worker.submit(_make_ready)


def _make_ready() -> None:
    sleep(PAUSE_S)
    with taking(Turn.AHEAD):
        give_way()
        with _desk.lock:
            number = next(iter(_desk.waiting), None)
            waiting = _desk.waiting.pop(number) if number is not None else None
        if waiting is None:  # a newer state of it was made ready
            return
        job, rests = waiting
        try:
            engines.make_ready(job)
            if rests:
                engines.rest(job)
        except Exception:  # the next reading then works it out itself
            _log.exception("could not look ahead")
        give_back()
