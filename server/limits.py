"""How many bytes a request may bring, by its address and by who sends it.

Read twice: by the server's parser, before a body is stored (``server/serving.py``), and by the middleware here, under any server.
"""

import re
from collections.abc import Callable, Mapping
from importlib import import_module
from typing import NamedTuple

from django.conf import settings
from django.contrib.auth import SESSION_KEY
from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse

from server.refusals import refused


class Route(NamedTuple):
    """Where a wire runs."""

    path: re.Pattern[str]
    """Matches the addresses."""
    most_bytes: int
    """What a body may have there."""


PICTURE_BYTES = 20_000_000
CASE_BYTES = 5_000_000
#: Any other document.
DOCUMENT_BYTES = 1_000_000
#: From whoever is not signed in.
STRANGER_BYTES = 64_000
RECORDING_BYTES = 100_000_000
_ROUTES = (
    Route(re.compile(r"^/api/jobs/\d+/imports$"), RECORDING_BYTES),
    Route(re.compile(r"^/api/jobs/import-zip$"), RECORDING_BYTES),
    Route(re.compile(r"^/api/jobs/\d+/(steps|readings)/[^/]+/photos$"), PICTURE_BYTES),
    Route(re.compile(r"^/api/workshop/mark$"), PICTURE_BYTES),
    Route(re.compile(r"^/api/jobs/import$"), CASE_BYTES),
)


def most_bytes(path: str, cookies: Mapping[str, str], length: int | None = None) -> int:
    """The limit for a body at this address. length: bytes that are announced, None where that is not known.

    The store is asked whose session it is only where it matters.
    """
    by_route = next((route.most_bytes for route in _ROUTES if route.path.match(path)), DOCUMENT_BYTES)
    if length is not None and length <= STRANGER_BYTES:
        return by_route
    return by_route if _signed_in(cookies.get(settings.SESSION_COOKIE_NAME)) else STRANGER_BYTES


def _signed_in(session_key: str | None) -> bool:
    if not session_key:
        return False
    try:
        return SESSION_KEY in import_module(settings.SESSION_ENGINE).SessionStore(session_key).load()
    except DatabaseError:  # a store that cannot be read knows nobody
        return False


def too_large(most: int) -> str:
    """What is said of a body above its limit."""
    limit = f"{most // 1_000_000} MB" if most >= 1_000_000 else f"{most // 1000} kB"
    return f"Too large: at most {limit} may be sent here. Nothing was changed."


class BodyLimits:
    """Middleware. A body above its limit is answered 413 and not read."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """The answer, or 413."""
        text = request.META.get("CONTENT_LENGTH") or "0"
        length = int(text) if text.isdecimal() else 0
        most = most_bytes(request.path, request.COOKIES, length)
        if length > most:
            return refused(too_large(most), 413)
        return self.get_response(request)
