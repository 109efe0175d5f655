"""Whose wrong passwords count against whom.

Wrong passwords are counted for a name and the address that they came from. A device on which that person has signed in before
carries a signed cookie; its tries are counted apart, so a stranger at the same address cannot shut the person out. An address
that has tried ten names is slowed for all of them.
"""

import secrets
from datetime import timedelta
from ipaddress import ip_address
from typing import Any

from axes.models import AccessAttempt
from django.conf import settings
from django.core.signing import BadSignature, dumps, loads
from django.http import HttpRequest, HttpResponse
from django.utils.timezone import now

DEVICE_COOKIE = "device"
_SALT = "dianoia.device"
#: How long a device is known after the last sign-in there.
_KNOWN_FOR = timedelta(days=180)
#: People who share a device.
_MOST_PEOPLE = 12
#: Names that one address may try before it is slowed, and how long it then waits between tries.
NAMES, PAUSE = 10, timedelta(seconds=30)


def source_address(request: HttpRequest) -> str:
    """Where a request comes from. Behind a trusted proxy the server has put the client's own address here."""
    text = str(request.META.get("REMOTE_ADDR", "")).strip("[]")
    try:
        return str(ip_address(text))
    except ValueError:  # a proxy that names its client in its own way
        return "0.0.0.0"


def counted_name(request: HttpRequest, credentials: dict[str, Any] | None) -> str:
    """The name that wrong passwords are counted for: with the device, where this person has signed in on it."""
    name = str((credentials or {}).get("username", ""))
    device = _device(request)
    return f"{name} on {device['id']}" if name.casefold() in device["people"] else name


def remember_device(request: HttpRequest, response: HttpResponse, name: str) -> None:
    """Note in the device's cookie that this person has signed in on it."""
    device = _device(request)
    people = [name.casefold(), *(other for other in device["people"] if other != name.casefold())][:_MOST_PEOPLE]
    response.set_cookie(
        DEVICE_COOKIE, dumps({"id": device["id"], "people": people}, salt=_SALT), max_age=_KNOWN_FOR,
        secure=settings.SESSION_COOKIE_SECURE, httponly=True, samesite="Strict", path="/api/people/",
    )  # fmt: skip


def slowed(request: HttpRequest) -> int:
    """Seconds that an address waits before it may try again, 0 for none: it has tried many names."""
    since = now() - settings.AXES_COOLOFF_TIME
    tried = AccessAttempt.objects.filter(ip_address=source_address(request), attempt_time__gte=since)
    if tried.values("username").distinct().count() < NAMES:
        return 0
    wait = tried.latest("attempt_time").attempt_time + PAUSE - now()
    return max(int(wait.total_seconds()) + 1, 0) if wait > timedelta(0) else 0


def _device(request: HttpRequest) -> dict[str, Any]:
    """What the cookie says; a new device where it says nothing that we have signed."""
    try:
        found: dict[str, Any] = loads(request.COOKIES.get(DEVICE_COOKIE, ""), salt=_SALT, max_age=_KNOWN_FOR)
    except BadSignature:
        return {"id": secrets.token_hex(8), "people": []}
    return found
