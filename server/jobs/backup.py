"""Copies of the whole store by SQLite's own online backup: taken while people work, checked, kept for some days, and put back."""

import logging
import re
import shutil
import sqlite3
from contextlib import closing
from datetime import datetime, timedelta
from pathlib import Path
from threading import Thread
from time import sleep

from django.conf import settings
from django.db import connection

_log = logging.getLogger(__name__)
_FORM = "dianoia-%Y%m%d-%H%M%S.sqlite3"
#: Only files of exactly this name are copies of ours; others in the folder are never counted and never removed.
_OURS = re.compile(r"^dianoia-\d{8}-\d{6}\.sqlite3$")
#: The nightly copy is due so long after the newest.
_EVERY = timedelta(hours=24)
#: Without a copy for so long, people are told.
OVERDUE = timedelta(hours=36)
#: So many of the newest stay, however old they are: a clock that ran ahead once must not remove the rest.
_LEAST = 7
#: Clocks of a store's own machine differ from one look to the next by no more.
_CLOCK_SLACK = timedelta(minutes=5)


class BadCopy(Exception):
    """A file that is no whole copy of a store."""


def store_path() -> Path:
    """Where the store lies."""
    return Path(str(settings.DATABASES["default"]["NAME"]))


def copy_now() -> Path:
    """Copy the store and check the copy; copies that are too old go, and another directory gets one, too, where it is set.

    Returns the copy's path. Raises BadCopy, OSError and sqlite3.Error, and then leaves nothing half done.
    """
    folder = Path(settings.BACKUPS)
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / datetime.now().strftime(_FORM)
    part = path.with_suffix(".part")
    try:
        _copy(store_path(), part)
        check(part)
        part.rename(path)
    finally:
        part.unlink(missing_ok=True)
    if settings.BACKUPS_SECOND:
        second = Path(settings.BACKUPS_SECOND)
        second.mkdir(parents=True, exist_ok=True)
        shutil.copy2(path, second / path.name)
        _forget_old(second)
    _forget_old(folder)
    return path


def put_back(path: Path) -> Path | None:
    """Put a copy in the place of the store, which is copied first. Returns that copy's path, None where there was no store.

    Raises BadCopy before anything is touched. The server has to be stopped.
    """
    check(path)
    before = copy_now() if store_path().exists() else None
    connection.close()
    _copy(path, store_path())
    return before


def check(path: Path) -> None:
    """Raises BadCopy where a file is no whole store of this application."""
    if not path.is_file():
        raise BadCopy(f"There is no file {path}.")
    try:
        with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True)) as copy:
            (said,) = copy.execute("PRAGMA integrity_check").fetchone()
            tables = {row[0] for row in copy.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    except sqlite3.DatabaseError as problem:
        raise BadCopy(f"{path.name} is no database: {problem}.") from problem
    if said != "ok" or not {"jobs_job", "django_migrations"} <= tables:
        raise BadCopy(f"{path.name} is no whole copy of a store: {said}.")


def newest() -> datetime | None:
    """When the newest copy was taken; None for never. A copy dated in the future counts for nothing."""
    return max((taken for taken, _ in _copies(Path(settings.BACKUPS))), default=None)


def overdue() -> str:
    """What people are told where copies have stopped; empty while they are taken."""
    last = newest()
    if last is not None and datetime.now() - last <= OVERDUE:
        return ""
    hours = f"{OVERDUE / timedelta(hours=1):.0f} h"
    since = f"the newest is of {last:%d %B %Y, %H:%M}" if last else "there is none yet"
    return f"No copy of the store for {hours}: {since}. Look into the server's log, or run make backup."


def copy_nightly(pause_s: float = 600.0) -> Thread:
    """A thread that copies whenever the newest copy is a day old."""
    thread = Thread(target=_nightly, args=(pause_s,), name="nightly-copy", daemon=True)
    thread.start()
    return thread


def _nightly(pause_s: float) -> None:
    while True:
        last = newest()
        if store_path().exists() and (last is None or datetime.now() - last >= _EVERY):
            try:
                _log.info("copied the store to %s", copy_now())
            except (BadCopy, OSError, sqlite3.Error):  # said, and tried again at the next look
                _log.exception("the store could not be copied")
        sleep(pause_s)


def _copy(source: Path, target: Path) -> None:
    with closing(sqlite3.connect(source)) as old, closing(sqlite3.connect(target)) as new:
        old.backup(new)


def _forget_old(folder: Path) -> None:
    """Remove copies of ours that are too old; the newest few stay whatever their date says."""
    oldest = datetime.now() - timedelta(days=settings.BACKUP_DAYS)
    for taken, path in sorted(_copies(folder))[:-_LEAST]:
        if taken < oldest:
            path.unlink()


def _copies(folder: Path) -> list[tuple[datetime, Path]]:
    """Copies of ours with when they were taken. Foreign names are left out, and so are dates in the future."""
    latest = datetime.now() + _CLOCK_SLACK
    files = [path for path in folder.glob("*.sqlite3") if _OURS.match(path.name) and path.is_file()]
    dated = [(_taken(path), path) for path in files]
    return [(taken, path) for taken, path in dated if taken is not None and taken <= latest]


def _taken(path: Path) -> datetime | None:
    try:
        return datetime.strptime(path.name, _FORM)
    except ValueError:  # digits that are no date
        return None
