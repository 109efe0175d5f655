"""One bench on this machine alone: no password, people pick their name. Refused for anything that comes from elsewhere."""

from ipaddress import ip_address
from typing import Any

from django.conf import settings
from django.core.checks import CheckMessage, Error, register
from django.http import HttpRequest

LOOPBACK_HOSTS = frozenset(("127.0.0.1", "localhost", "[::1]"))
#: Headers that a proxy adds: where one is there, the request does not come from this machine's own browser.
FORWARDED = ("Forwarded", "X-Forwarded-For", "X-Forwarded-Host", "X-Forwarded-Proto", "X-Real-Ip", "Via")


def is_loopback(address: str) -> bool:
    """Whether an address is this machine's own.

    >>> is_loopback("127.0.0.1"), is_loopback("0.0.0.0"), is_loopback("localhost")
    (True, False, True)
    """
    if address == "localhost":
        return True
    try:
        return ip_address(address.strip("[]")).is_loopback
    except ValueError:
        return False


def refusal(request: HttpRequest) -> str | None:
    """Why a request is not served at a bench; None where it is."""
    if not is_loopback(str(request.META.get("REMOTE_ADDR", ""))):
        return "This bench serves its own machine only. For others set up sign-in: see docs/operations.md."
    if request.get_host().rsplit(":", 1)[0] not in LOOPBACK_HOSTS:
        return "This bench answers to 127.0.0.1 and localhost only."
    if any(name in request.headers for name in FORWARDED):
        return "This bench is not served through a proxy. For that set up sign-in: see docs/operations.md."
    return None


@register
def bench_is_alone(**_: Any) -> list[CheckMessage]:
    """The system check: a bench without passwords has no other host names."""
    others = [host for host in settings.ALLOWED_HOSTS if host not in LOOPBACK_HOSTS and host != "testserver"]
    if not (settings.BENCH and others):
        return []
    return [Error(f"DIANOIA_BENCH serves this machine only, and DIANOIA_HOSTS names {', '.join(others)}.",
                  hint="Leave DIANOIA_BENCH out, and people sign in.", id="dianoia.E002")]  # fmt: skip
