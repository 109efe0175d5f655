"""Serves the built front end: hashed assets for good, the page itself always fresh."""

import mimetypes
import re
import shutil
from pathlib import Path

from django.conf import settings
from django.db import DatabaseError, connection
from django.http import FileResponse, Http404, HttpRequest, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.gzip import gzip_page

from server.ledger import copies, guards, nightly
from server.refusals import refused


@gzip_page
def asset(request: HttpRequest, name: str) -> HttpResponseBase:
    """A built file; its name carries a hash of its content."""
    path = Path(settings.WEB_DIST) / "assets" / name
    if not path.is_file():
        raise Http404(name)
    kind = mimetypes.guess_type(name)[0] or "application/octet-stream"
    response = FileResponse(path.open("rb"), content_type=kind)
    response["Cache-Control"] = "public, max-age=31536000, immutable"
    return response


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """An address that is none, told as the API tells a problem."""
    return refused("There is nothing at this address.", 404)


#: Files of the build that keep their names: always asked for anew.
ROOT_FILES = {
    "sw.js": "text/javascript",
    "manifest.webmanifest": "application/manifest+json",
    "index.html": "text/html",
}


def root_file(request: HttpRequest, name: str) -> HttpResponse:
    """The service worker and its like, at the root: a worker serves what lies below its own address."""
    path = Path(settings.WEB_DIST) / name
    if not path.is_file():
        raise Http404(name)
    response = HttpResponse(path.read_bytes(), content_type=ROOT_FILES[name])
    response["Cache-Control"] = "no-cache"
    return response


#: The addresses of the front end's pages (``web/src/main.tsx``); every other address is nothing.
PAGES = re.compile(
    r"^(?:jobs/[^/]+(?:/(?:place|figures|sheet|mend|papers|curves))?|sums|workshop|people|codes|guide)?/?$"
)


@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    """The single page of the front end; it comes with the token that its writes carry."""
    path = Path(settings.WEB_DIST) / "index.html"
    if not path.is_file():
        return HttpResponse("The front end is not built yet: run make demo.", status=503, content_type="text/plain")
    response = HttpResponse(path.read_text(encoding="utf-8"))
    response["Cache-Control"] = "no-cache"
    return response


#: Below this a disk is as good as full, in bytes.
FREE_BYTES = 20_000_000


def why_unwritten() -> str:
    """Why nothing can be written to the store; empty where it can."""
    if shutil.disk_usage(copies.store_path().parent).free < FREE_BYTES:
        return "Nothing can be written: the disk is full."
    if connection.in_atomic_block:
        return ""  # a write is under way
    try:
        with connection.cursor() as cursor:
            cursor.execute("BEGIN IMMEDIATE")
            cursor.execute("ROLLBACK")
    except DatabaseError as problem:
        return f"Nothing can be written: {problem}."
    return ""


def _checked() -> str:
    """What came of the newest nightly check of the ledger."""
    found = nightly.newest_check()
    if found is None:
        return "not checked yet"
    return (
        f"holds, checked {found.at}"
        if not found.problems
        else f"does not hold, checked {found.at}: {found.problems[0]}"
    )


def healthz(request: HttpRequest) -> HttpResponse:
    """Whether the store answers and is guarded, when it was copied last, and whether copies have stopped: 200, or 503 without a store."""
    try:
        unguarded = guards.missing()
    except DatabaseError as problem:
        return JsonResponse({"ok": False, "store": str(problem)}, status=503)
    copied, unwritten = copies.newest(), why_unwritten()
    told = {
        "ok": not unguarded and not unwritten,
        "store": "guarded" if not unguarded else "not guarded",
        "copied": copied and copied.isoformat(),
        "copies": nightly.overdue() or "taken",
        "ledger": _checked(),
        "writes": unwritten or "possible",
    }
    return JsonResponse(told, status=503 if unguarded or unwritten else 200)
