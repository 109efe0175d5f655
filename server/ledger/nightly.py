"""The nightly copy: taken, checked, and what people are told of both."""

import json
import logging
import sqlite3
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass
from datetime import datetime, timedelta
from itertools import chain, islice
from pathlib import Path
from threading import Thread
from time import sleep

from django.conf import settings
from django.db import DatabaseError, connections

from server.ledger.copies import RECORDINGS, BadCopy, copies, copy_now, heads_path, newest, store_path
from server.ledger.verification import problems, problems_of_copies, problems_of_heads

_log = logging.getLogger(__name__)

#: The nightly copy is due so long after the newest.
_EVERY = timedelta(hours=24)


#: Without a copy for so long, people are told.
OVERDUE = timedelta(hours=36)


#: So many problems are kept of a check.
_MOST_PROBLEMS = 20


#: Name of a copy's database while it is checked.
_COPY = "copy"


def overdue() -> str:
    """What people are told where copies have stopped; empty while they are taken."""
    last = newest()
    if last is not None and datetime.now() - last <= OVERDUE:
        return ""
    hours = f"{OVERDUE / timedelta(hours=1):.0f} h"
    since = f"the newest is of {last:%d %B %Y, %H:%M}" if last else "there is none yet"
    return f"No copy of the store for {hours}: {since}. Look into the server's log, or run make backup."


def copy_nightly(then: Sequence[Callable[[], object]] = (), pause_s: float = 600.0) -> Thread:
    """A thread that copies and checks whenever the newest copy is a day old. then: what else is done each night."""
    thread = Thread(target=_nightly, args=(then, pause_s), name="nightly-copy", daemon=True)
    thread.start()
    return thread


@dataclass(frozen=True)
class Checked:
    """What came of the newest check of a copy."""

    at: str
    """When."""
    copy: str
    """Its file."""
    problems: tuple[str, ...]
    """What does not hold, the first few."""


def verified(copy: Path) -> Checked:
    """Check a copy's ledger, and the chain against older copies and noted heads; what came of it is kept beside the copies."""
    connections.databases[_COPY] = {**connections.databases["default"], "NAME": str(copy)}
    try:
        found = [*islice(problems(_COPY, copy.parent / RECORDINGS), _MOST_PROBLEMS)]
    finally:
        connections[_COPY].close()
        del connections[_COPY], connections.databases[_COPY]
    found += islice(chain(problems_of_copies(copies()), problems_of_heads(heads_path())), _MOST_PROBLEMS)
    checked = Checked(datetime.now().isoformat(timespec="seconds"), copy.name, tuple(found))
    _checked_path().write_text(json.dumps(asdict(checked)), encoding="utf-8")
    for line in found:
        _log.error("the ledger does not hold: %s", line)
    return checked


def newest_check() -> Checked | None:
    """What came of the newest check; None where none was made or it cannot be read."""
    try:
        kept = json.loads(_checked_path().read_text(encoding="utf-8"))
        return Checked(str(kept["at"]), str(kept["copy"]), tuple(map(str, kept["problems"])))
    except (OSError, ValueError, KeyError, TypeError):
        return None


def broken() -> str:
    """What people are told where the newest check found that the ledger does not hold; empty where it does."""
    found = newest_check()
    if found is None or not found.problems:
        return ""
    more = f", and {len(found.problems) - 1} more" if len(found.problems) > 1 else ""
    return f"The ledger does not hold (checked {found.at}): {found.problems[0]}{more}. Run manage.py verify_ledger."


def _checked_path() -> Path:
    return Path(settings.BACKUPS) / "checked.json"


def _nightly(then: Sequence[Callable[[], object]], pause_s: float) -> None:
    while True:
        last = newest()
        if store_path().exists() and (last is None or datetime.now() - last >= _EVERY):
            try:
                copy = copy_now()
                _log.info("copied the store to %s", copy)
                verified(copy)
                for step in then:
                    step()
            except (BadCopy, OSError, sqlite3.Error, DatabaseError):  # said, and tried again at the next look
                _log.exception("the store could not be copied and checked")
        sleep(pause_s)
