"""Who may come in, request by request."""

from collections.abc import Callable
from contextlib import suppress
from time import time
from typing import Any

from django.conf import settings
from django.contrib.auth import logout
from django.contrib.auth.models import User
from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse, HttpResponseForbidden
from django.http.response import HttpResponseBase
from django.middleware.csrf import CsrfViewMiddleware

from server.people.bench import refusal
from server.people.permissions import needs_of, route_of
from server.people.roles import may_write, role_of
from server.refusals import refused

Next = Callable[[HttpRequest], HttpResponse]
_SAFE = ("GET", "HEAD", "OPTIONS")
#: Session: when the person last did something, and whether the name was picked without a password.
SEEN, PICKED = "seen", "picked"
#: Asked for by a page on its own, over and over.
POLLED = "/stand"
#: A page says with this header that someone has touched it since it last said so. What a page asks by itself keeps nobody signed in.
ATTENDED = "X-Attended"
#: A session's time is written at most so often, and at least so many times before it is over.
_NOTED_EVERY_S, _NOTED_TIMES = 60.0, 10


class EveryWriteCarriesItsToken(CsrfViewMiddleware):
    """Django's own check, of every view: the API's are not exempt, as its people are known by a cookie."""

    def process_view(
        self, request: HttpRequest, callback: Callable[..., Any], callback_args: Any, callback_kwargs: Any
    ) -> HttpResponseForbidden | None:
        """See Django."""
        return super().process_view(request, _not_exempt, callback_args, callback_kwargs)


def _not_exempt(*_: Any) -> HttpResponseBase:
    """Stands for any view."""
    return HttpResponse()


def csrf_refused(request: HttpRequest, reason: str = "") -> HttpResponse:
    """A write without the page's token."""
    return refused("This page is out of date: reload it. Nothing was changed.", 403)


def shut(request: HttpRequest, *_: object) -> HttpResponse:
    """After too many wrong passwords."""
    return refused("Too many wrong passwords. Wait a quarter of an hour, or ask the foreman.", 429)


class SignedIn:
    """Middleware. At a bench reading is free and writing takes a name; elsewhere both take a sign-in. Readers change nothing."""

    def __init__(self, get_response: Next) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """The answer, or 401 and 403."""
        if settings.BENCH and (why := refusal(request)):
            return refused(why, 403)
        # nobody's session is looked up for it
        polls_freely = settings.BENCH and request.path.endswith(POLLED) and not _attended(request)
        if not polls_freely:
            _end_if_idle(request)
        return self.get_response(request)

    def process_view(self, request: HttpRequest, *_: Any) -> HttpResponse | None:
        """See Django: asked once it is known which operation a request is for."""
        return self._refused(request)

    def _refused(self, request: HttpRequest) -> HttpResponse | None:
        match = request.resolver_match
        if match is None or not request.path.startswith("/api/"):
            return None
        reads = request.method in _SAFE
        needs = needs_of(request.method or "", route_of(match.route)) or ("reads" if reads else "writes")
        if needs == "anybody" or (needs == "reads" and settings.BENCH):
            return None
        if not request.user.is_authenticated and (needs != "reads" or not settings.BENCH):
            return refused("Say who you are first." if settings.BENCH else "Sign in first.", 401)
        taken_by = request.headers.get("X-Person")
        if not reads and taken_by and taken_by != str(request.user.pk):
            return refused("Someone else took this: it waits until they say who they are.", 409)
        if needs == "foreman":
            return _no_foreman(request)
        if needs not in ("reads", "self") and not may_write(request.user):
            return refused("You may read here, and change nothing.", 403)
        return None


def _no_foreman(request: HttpRequest) -> HttpResponse | None:
    """Accounts are a foreman's, and a foreman's name that was only picked says nothing."""
    user = request.user
    if not isinstance(user, User) or role_of(user) != "foreman":
        return refused("Only a foreman sees and changes accounts.", 403)
    if request.session.get(PICKED):
        return refused("Accounts take the foreman's password: give it below.", 403)
    return None


def come_in(request: HttpRequest, picked: bool) -> None:
    """Begin a session's time. picked: the name was picked without a password."""
    request.session[SEEN], request.session[PICKED] = time(), picked


def _end_if_idle(request: HttpRequest) -> None:
    """A tablet that was left lying asks anew who works with it; a name that was only picked is worth nothing off the bench."""
    if not isinstance(request.user, User):
        return
    now, seen, idle_s = time(), request.session.get(SEEN, 0.0), settings.IDLE_MINUTES * 60
    if now - seen > idle_s or (request.session.get(PICKED) and not settings.BENCH):
        logout(request)
    elif _attended(request) and now - seen > min(_NOTED_EVERY_S, idle_s / _NOTED_TIMES):
        request.session[SEEN] = now
        with suppress(DatabaseError):  # a store that cannot be written still answers what is asked
            request.session.save()
        request.session.modified = False


def _attended(request: HttpRequest) -> bool:
    """Whether a person is behind a request, and not a page alone."""
    return request.method not in _SAFE or ATTENDED in request.headers
