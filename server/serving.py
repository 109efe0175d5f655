"""How requests are taken in: waitress, with limits on bodies before they are stored and on headers that come drop by drop."""

import json
import resource
import time
from copy import copy
from http.cookies import CookieError, SimpleCookie
from typing import Any

from django.conf import settings
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.utilities import Error

from server import limits

#: Connections at a time, and the seconds that a client has for its headers and for its body.
CONNECTIONS, HEADER_S, BODY_S = 1000, 20.0, 300.0
#: Files that the server opens besides its connections.
_OTHER_FILES = 200


class TooLarge(Error):  # type: ignore[misc] # waitress has no types
    """A body above its limit, told as the API tells a problem."""

    code = 413
    reason = "Request Entity Too Large"

    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:
        """Status, headers and body."""
        body = json.dumps({"message": self.body, "findings": []}).encode()
        return f"{self.code} {self.reason}", [("Content-Type", "application/json")], body


class LimitedParser(HTTPRequestParser):  # type: ignore[misc] # waitress has no types
    """Knows its body's limit as soon as it has read the headers."""

    #: waitress's settings, from the headers on with this request's own limit.
    adj: Any
    #: What is answered instead of the request; None while nothing is wrong.
    error: Any = None

    def parse_header(self, header_plus: bytes) -> None:
        """See waitress. From here on this request's own limit holds, whether a length is announced or chunks come."""
        super().parse_header(header_plus)
        if not self.chunked and not self.content_length:
            return
        most = limits.most_bytes(self.path, self._cookies(), None if self.chunked else self.content_length)
        self.adj = copy(self.adj)
        self.adj.max_request_body_size = most + 1

    def received(self, data: bytes) -> int:
        """See waitress."""
        taken: int = super().received(data)
        if self.error is not None and self.error.code == TooLarge.code:
            self.error = TooLarge(limits.too_large(self.adj.max_request_body_size - 1))
        return taken

    def _cookies(self) -> dict[str, str]:
        jar = SimpleCookie()
        try:
            jar.load(self.headers.get("COOKIE", ""))
        except CookieError:
            return {}
        return {name: morsel.value for name, morsel in jar.items()}


class TimedChannel(HTTPChannel):  # type: ignore[misc] # waitress has no types
    """Closes a connection whose request does not arrive in time, however steadily its bytes trickle in."""

    parser_class = LimitedParser
    _began: float | None = None

    def received(self, data: bytes) -> bool:
        """See waitress."""
        going_on: bool = super().received(data)
        if self.request is None:
            self._began = None
        elif self._began is None:
            self._began = time.monotonic()
        elif time.monotonic() - self._began > (BODY_S if self.request.headers_finished else HEADER_S):
            self.will_close = True
        return going_on


def server(application: Any, listen: str, threads: int) -> Any:
    """A waitress server of these channels, ready to run."""
    import waitress

    _allow_files(CONNECTIONS + _OTHER_FILES)
    made = waitress.create_server(
        application, listen=listen, threads=threads, ident=None, connection_limit=CONNECTIONS, asyncore_use_poll=True,
        channel_timeout=int(HEADER_S), cleanup_interval=5, **said_by_proxies(),
    )  # fmt: skip
    for item in made.map.values() if hasattr(made, "map") else (made,):
        item.channel_class = TimedChannel
    return made


def said_by_proxies() -> dict[str, Any]:
    """What waitress does with the headers that proxies add. At a bench they are passed on, to be refused. Behind a trusted proxy
    its word is taken for the client's address and for TLS. From anyone else they are dropped.
    """
    if settings.BENCH:
        return {"clear_untrusted_proxy_headers": False}
    if settings.PROXY:
        return {
            "trusted_proxy": settings.PROXY,
            "trusted_proxy_headers": {"x-forwarded-proto", "x-forwarded-for"},
            "clear_untrusted_proxy_headers": True,
        }
    return {"clear_untrusted_proxy_headers": True}


def _allow_files(number: int) -> None:
    """A connection is an open file: ask for as many as are needed, as far as the system lets us."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    if soft < number:
        most = number if hard == resource.RLIM_INFINITY else min(number, hard)
        resource.setrlimit(resource.RLIMIT_NOFILE, (most, hard))
