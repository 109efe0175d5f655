"""What is taken away for good: out of the store, its write-ahead log and the kept views. Copies keep it, and are named."""

import sqlite3
from collections.abc import Sequence
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings
from django.db import OperationalError, connection

#: Files of a folder of copies that hold a whole store: those taken by day, and those set aside when one was put back.
_COPIES = "dianoia-*.sqlite3"


@dataclass(frozen=True)
class CopyQuery:
    """A question to a copy whether it still holds something."""

    table: str
    """Asked only where the copy has it."""
    where: str
    """SQL with one ``?``."""
    value: str | int


def empty_log() -> bool:
    """Write the write-ahead log into the store and cut it off, so that nothing deleted is left in it. False where a reader kept
    it from that.
    """
    try:
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            busy, *_ = cursor.fetchone()
    except OperationalError:  # someone writes
        return False
    return not busy


def copies_with(traces: Sequence[CopyQuery]) -> list[Path]:
    """Copies, here and in the second folder, that answer yes to one of these, or cannot be read."""
    folders = [Path(folder) for folder in (settings.BACKUPS, settings.BACKUPS_SECOND) if folder]
    return [path for folder in folders for path in sorted(folder.glob(_COPIES)) if _holds(path, traces)]


def _holds(copy: Path, traces: Sequence[CopyQuery]) -> bool:
    try:
        with closing(sqlite3.connect(f"file:{copy}?mode=ro", uri=True)) as kept:
            tables = {row[0] for row in kept.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            return any(
                kept.execute(f"SELECT 1 FROM {item.table} WHERE {item.where} LIMIT 1", (item.value,)).fetchone()
                for item in traces
                if item.table in tables
            )
    except sqlite3.Error:
        return True


def said(emptied: bool, holding: Sequence[Path]) -> list[str]:
    """What the commands say of what could not be reached. emptied: see ``empty_log``; holding: see ``copies_with``."""
    lines = []
    if not emptied:
        lines.append("The write-ahead log is in use and may still hold it. Stop the server and run this again.")
    if holding:
        lines += ["These copies still hold it:", *(f"  {path}" for path in holding)]
        lines.append(
            f"Copies taken by day go after {settings.BACKUP_DAYS:g} days. Those set aside stay: delete them by hand."
        )
    return lines
