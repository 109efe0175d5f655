"""One line of JSON for each request and each thing that went wrong, tied together by the request's number."""

import json
import logging
from collections.abc import Callable
from contextvars import ContextVar
from itertools import count
from time import perf_counter

from django.conf import settings
from django.http import HttpRequest, HttpResponse

_number: ContextVar[int] = ContextVar("request", default=0)
_numbers = count(1)
_log = logging.getLogger("dianoia.requests")
#: Asked for again and again; only what goes wrong with it is worth a line.
_QUIET = ("/stand", "/healthz")


class JsonLines(logging.Formatter):
    """A record as one line."""

    def format(self, record: logging.LogRecord) -> str:
        """The line: time, level, where from, request, message; fields given with ``extra={"fields": ...}``; a trace if there is one."""
        line = {"at": self.formatTime(record), "level": record.levelname.lower(), "from": record.name, "request": _number.get(),
                "message": record.getMessage(), **getattr(record, "fields", {})}  # fmt: skip
        if record.exc_info:
            line["trace"] = self.formatException(record.exc_info)
        return json.dumps(line, ensure_ascii=False)


class RequestLog:
    """Middleware: numbers each request, says the number with the answer, and logs it with the time it took."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """The answer."""
        number, start = next(_numbers), perf_counter()
        _number.set(number)
        response = self.get_response(request)
        response["X-Request-Number"] = str(number)
        response["X-Api-Version"] = settings.API_VERSION
        if response.status_code >= 400 or not request.path.endswith(_QUIET):
            user = getattr(request, "user", None)
            told = {
                "status": response.status_code,
                "ms": round(1000 * (perf_counter() - start)),
                "person": getattr(user, "pk", None),
            }
            _log.info("%s %s", request.method, request.path, extra={"fields": told})
        return response
