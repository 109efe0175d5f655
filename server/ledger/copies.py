"""Copies of the whole store by SQLite's own online backup: taken while people work, checked, kept for some days, and put back."""

import logging
import re
import shutil
import sqlite3
from contextlib import closing
from datetime import datetime, timedelta
from pathlib import Path

from django.conf import settings
from django.db import connection

from server.ledger import recordings

_log = logging.getLogger(__name__)
_FORM = "dianoia-%Y%m%d-%H%M%S.sqlite3"
#: Only files of exactly this name are copies of ours; others in the folder are never counted and never removed.
_OURS = re.compile(r"^dianoia-\d{8}-\d{6}\.sqlite3$")
#: So many of the newest stay, however old they are: a clock that ran ahead once must not remove the rest.
_LEAST = 7
#: Clocks of a store's own machine differ from one look to the next by no more.
_CLOCK_SLACK = timedelta(minutes=5)


#: Name of the samples' folder beside copies: it serves all of them, since samples never change.
RECORDINGS = "recordings"
#: What follows a head that was put back: later ones before it are void.
_RESTORED = "restored"


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
    recordings.copy_to(folder / RECORDINGS)
    if settings.BACKUPS_SECOND:
        second = Path(settings.BACKUPS_SECOND)
        second.mkdir(parents=True, exist_ok=True)
        shutil.copy2(path, second / path.name)
        recordings.copy_to(second / RECORDINGS)
        _note_head(path)
        _forget_old(second)
    _forget_old(folder)
    return path


def heads_path() -> Path:
    """The file that the newest hash is appended to with each copy: beside the second copy, out of reach of who has the store."""
    return Path(settings.BACKUPS_SECOND or settings.BACKUPS) / "heads.txt"


def _note_head(copy: Path, mark: str = "") -> None:
    """Append when a copy was taken, its newest entry's number and its hash; mark: a word after them. Nothing is ever taken out of this
    file. Without a second folder there is none.
    """
    if not settings.BACKUPS_SECOND:
        return
    with closing(sqlite3.connect(f"file:{copy}?mode=ro", uri=True)) as kept:
        newest = kept.execute("SELECT number, hash FROM jobs_entry ORDER BY number DESC LIMIT 1").fetchone()
    if newest:
        with heads_path().open("a", encoding="utf-8") as heads:
            heads.write(
                f"{datetime.now().isoformat(timespec='seconds')} {newest[0]} {newest[1]}{mark and f' {mark}'}\n"
            )


def copies() -> list[Path]:
    """All copies of ours that are kept here, the oldest first."""
    return [path for _, path in sorted(_copies(Path(settings.BACKUPS)))]


def put_back(path: Path) -> Path | None:
    """Put a copy in the place of the store, which is copied first. Returns that copy's path, None where there was no store.

    Raises BadCopy before anything is touched. The server has to be stopped.
    """
    check(path)
    before = copy_now() if store_path().exists() else None
    connection.close()
    _copy(path, store_path())
    recordings.put_back_from(path.parent / RECORDINGS)
    aside = {copy: _set_aside(copy) for copy in copies() if copy.name > path.name and _OURS.match(path.name)}
    _note_head(path, _RESTORED)
    return aside.get(before, before) if before else None


def _set_aside(copy: Path) -> Path:
    """Copies of what came after the one that was put back are no past of the store any more: they stay under another name."""
    return copy.rename(copy.with_name(copy.name.replace("dianoia-", "dianoia-before-restore-", 1)))


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
