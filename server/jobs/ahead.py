"""Work done between readings, so that the next one is judged at once."""

import logging
from concurrent.futures import ThreadPoolExecutor
from time import sleep

from dianoia.case.job import Job
from dianoia.diagnosis.catalogue.offered import engines

_worker = ThreadPoolExecutor(max_workers=1, thread_name_prefix="ahead")
_log = logging.getLogger(__name__)
#: The screen that shows the judgement has the processor first.
PAUSE_S = 0.3


def look_ahead(job: Job) -> None:
    """Make ready, in the background, what the job's next reading will need."""
    _worker.submit(_make_ready, job)


def _make_ready(job: Job) -> None:
    sleep(PAUSE_S)
    try:
        engines.make_ready(job)
    except Exception:  # the next reading then works it out itself
        _log.exception("could not look ahead")
