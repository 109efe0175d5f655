"""The database itself refuses to change or remove an entry: triggers, installed after every migration, and checked."""

from collections.abc import Iterable
from typing import Any

from django.core.checks import CheckMessage, Error, Tags, register
from django.db import connections

TABLE = "jobs_entry"
_REFUSED = {"UPDATE": "entries are never changed", "DELETE": "entries are never removed"}


def _name(event: str) -> str:
    return f"{TABLE}_no_{event.lower()}"


def _text(event: str, why: str) -> str:
    """A trigger as SQLite keeps its text."""
    return f"CREATE TRIGGER {_name(event)} BEFORE {event} ON {TABLE} BEGIN SELECT RAISE(ABORT, '{why}'); END"


def install(using: str = "default", **_: Any) -> None:
    """Install what is missing. A migration that rebuilds the table drops them without a word."""
    with connections[using].cursor() as cursor:
        if TABLE not in connections[using].introspection.table_names(cursor):
            return
        for event, why in _REFUSED.items():
            cursor.execute(_text(event, why).replace("CREATE TRIGGER", "CREATE TRIGGER IF NOT EXISTS", 1))


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


def altered(using: str = "default") -> list[str]:
    """Names of the triggers that are there with another text than ours: they need not refuse anything."""
    with connections[using].cursor() as cursor:
        cursor.execute("SELECT name, sql FROM sqlite_master WHERE type = 'trigger' AND tbl_name = %s", [TABLE])
        there = dict(cursor.fetchall())
    ours = {_name(event): _text(event, why) for event, why in _REFUSED.items()}
    return [name for name, text in ours.items() if name in there and there[name] != text]


@register(Tags.database)
def guarded(databases: Iterable[str] | None = None, **_: Any) -> list[CheckMessage]:
    """The system check: ``manage.py check --database default``."""
    found: list[CheckMessage] = []
    for using in databases or ():
        with connections[using].cursor() as cursor:
            exists = TABLE in connections[using].introspection.table_names(cursor)
        if exists and (missing(using) or altered(using)):
            hint = "Drop those that were altered, run manage.py migrate, which installs them, then manage.py verify_ledger."
            found.append(
                Error("The ledger can be changed: its triggers are missing or altered.", hint=hint, id="dianoia.E001")
            )
    return found
