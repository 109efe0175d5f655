"""Whether a server is running on this store: a lock that the system takes back when the process ends, however it ends."""

import fcntl
from pathlib import Path
from typing import IO

from django.conf import settings


def _path() -> Path:
    return Path(settings.VAR_DIR, "running.lock")


def hold() -> IO[bytes]:
    """Say that a server runs, until the file is closed; several may."""
    held = _path().open("ab")
    fcntl.flock(held, fcntl.LOCK_SH)
    return held


def is_running() -> bool:
    """Whether any server says so."""
    with _path().open("ab") as asked:
        try:
            fcntl.flock(asked, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return True
    return False
