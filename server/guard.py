"""No page of another origin writes here: a change is JSON, and comes from this server's own pages or from no page."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

from server.refusals import refused

_SAFE = ("GET", "HEAD", "OPTIONS")
#: Where pictures are taken.
_PICTURES = ("/photos", "/workshop/mark")


class OwnPagesOnly:
    """Middleware. A browser says where a request comes from; a client that is no browser says nothing of it.

    A form or a fetch of another origin can send text unasked, so only ``application/json`` is taken: that a browser sends
    to another origin only after asking, and is not allowed to.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """The answer, or 403 and 415 where a change is asked for from elsewhere or in another form."""
        if request.method not in _SAFE:
            if not _from_here(request):
                return refused("This request comes from another site's page. Nothing was changed.", 403)
            if request.content_type != "application/json" and not (_is_picture(request) or _is_recording(request)):
                return refused("Expected application/json. Nothing was changed.", 415)
        return self.get_response(request)


def _is_picture(request: HttpRequest) -> bool:
    """Whether it is a picture sent where pictures are taken: a browser asks before it sends one to another origin, too."""
    return (request.content_type or "").startswith("image/") and request.path.endswith(_PICTURES)


def _is_recording(request: HttpRequest) -> bool:
    """Whether it is a recording's file sent where recordings are taken: a browser asks before it sends that elsewhere, too."""
    return request.content_type == "application/octet-stream" and request.path.endswith(("/imports", "/import-zip"))


def _from_here(request: HttpRequest) -> bool:
    site, origin = request.headers.get("Sec-Fetch-Site"), request.headers.get("Origin")
    if site is not None and site != "same-origin":
        return False
    return origin is None or origin == f"{request.scheme}://{request.get_host()}"
