"""Open pages ask every second or two whether a job has grown. While it has not, they are answered before anything else is done."""

import re
from collections.abc import Callable, Iterable
from threading import Lock
from time import monotonic
from typing import Any

from django.conf import settings
from django.core.handlers.wsgi import WSGIRequest
from django.db import DatabaseError
from django.http import parse_cookie

from server.jobs.search import entries_of
from server.people.access import ATTENDED
from server.people.bench import refusal

_ATTENDED = f"HTTP_{ATTENDED.upper().replace('-', '_')}"
_STAND = re.compile(r"^/api/jobs/([1-9]\d{0,17})/stand$")
#: A session that was let in is let in again for so long without being looked up. It is told a count of entries, nothing else.
LET_IN_S = 5.0
#: So many sessions are remembered.
_MOST = 500


class RecentSessions:
    """Sessions that were let in lately. Threads share it."""

    def __init__(self) -> None:
        self._until: dict[str, float] = {}
        self._lock = Lock()

    def add(self, session: str) -> None:
        """It was let in now."""
        now = monotonic()
        with self._lock:
            if len(self._until) >= _MOST:
                self._until = {key: until for key, until in self._until.items() if until > now}
            self._until[session] = now + LET_IN_S

    def __contains__(self, session: str) -> bool:
        return self._until.get(session, 0.0) > monotonic()

    def clear(self) -> None:
        """Look everybody up anew."""
        with self._lock:
            self._until = {}


let_in = RecentSessions()


Start = Callable[..., Any]
Application = Callable[[dict[str, Any], Start], Iterable[bytes]]


class Unchanged:
    """Before the application: 304 for a job that has as many entries as the page knows; all else goes to the application."""

    def __init__(self, application: Application) -> None:
        self.application = application

    def __call__(self, environ: dict[str, Any], start: Start) -> Iterable[bytes]:
        """The answer's body."""
        asked = _STAND.match(environ["PATH_INFO"]) if environ["REQUEST_METHOD"] == "GET" else None
        known = environ.get("HTTP_IF_NONE_MATCH")
        if asked is None or _ATTENDED in environ:
            return self.application(environ, start)
        session = _session(environ)
        if known and _is_free(environ, session) and known == f'"{_entries(int(asked[1]))}"':
            start(
                "304 Not Modified",
                [("ETag", known), ("Cache-Control", "private, no-cache"), ("X-Api-Version", settings.API_VERSION)],
            )
            return ()
        return self.application(environ, _noting(session, start))


def _session(environ: dict[str, Any]) -> str:
    jar = parse_cookie(environ.get("HTTP_COOKIE", ""))
    return str(jar.get(settings.SESSION_COOKIE_NAME, ""))


def _is_free(environ: dict[str, Any], session: str) -> bool:
    """Whether who asks needs no looking up."""
    return refusal(WSGIRequest(environ)) is None if settings.BENCH else session in let_in


def _entries(number: int) -> int | None:
    try:
        return entries_of(number)
    except DatabaseError:  # the application says what is wrong
        return None


def _noting(session: str, start: Start) -> Start:
    """Notes that a session was let in."""

    def started(status: str, headers: list[tuple[str, str]], *more: Any) -> Any:
        if status[:3] in ("200", "304") and not settings.BENCH:
            let_in.add(session)
        return start(status, headers, *more)

    return started
