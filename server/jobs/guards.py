"""The database itself refuses to change or remove an entry: triggers, installed after every migration, and checked."""

from collections.abc import Iterable
from typing import Any

from django.core.checks import CheckMessage, Error, Tags, register
from django.db import connections

TABLE = "jobs_entry"
_REFUSED = {"UPDATE": "entries are never changed", "DELETE": "entries are never removed"}


def _name(event: str) -> str:
    return f"{TABLE}_no_{event.lower()}"


def install(using: str = "default", **_: Any) -> None:
    """Install what is missing. A migration that rebuilds the table drops them without a word."""
    with connections[using].cursor() as cursor:
        if TABLE not in connections[using].introspection.table_names(cursor):
            return
        for event, why in _REFUSED.items():
            cursor.execute(
                f"CREATE TRIGGER IF NOT EXISTS {_name(event)} BEFORE {event} ON {TABLE} BEGIN SELECT RAISE(ABORT, '{why}'); END"
            )


def lift(using: str = "default") -> None:
    """Take them away: for migrations of the table itself, and for tests that empty their database."""
    with connections[using].cursor() as cursor:
        for event in _REFUSED:
            cursor.execute(f"DROP TRIGGER IF EXISTS {_name(event)}")


def missing(using: str = "default") -> list[str]:
    """Names of the triggers that are not there."""
    with connections[using].cursor() as cursor:
        cursor.execute("SELECT name FROM sqlite_master WHERE type = 'trigger' AND tbl_name = %s", [TABLE])
        there = {row[0] for row in cursor.fetchall()}
    return [_name(event) for event in _REFUSED if _name(event) not in there]


@register(Tags.database)
def guarded(databases: Iterable[str] | None = None, **_: Any) -> list[CheckMessage]:
    """The system check: ``manage.py check --database default``."""
    found: list[CheckMessage] = []
    for using in databases or ():
        with connections[using].cursor() as cursor:
            exists = TABLE in connections[using].introspection.table_names(cursor)
        if exists and missing(using):
            hint = "Run manage.py migrate, which installs them, then manage.py verify_ledger."
            found.append(Error("The ledger can be changed: its triggers are missing.", hint=hint, id="dianoia.E001"))
    return found
