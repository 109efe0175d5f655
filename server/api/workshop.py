"""The workshop's settings."""

from hashlib import sha256
from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Body, Router

from dianoia.case.workshop import Workshop
from dianoia.diagnosis.catalogue.costs import general_minutes
from server.api.common import PICTURE
from server.jobs.bodies import WorkshopView
from server.jobs.workshop import mark, outcomes, set_mark, set_workshop, workshop
from server.ledger import nightly
from server.limits import PICTURE_BYTES
from server.problems import Problem
from server.statuses import READS, WRITES

router = Router()


@router.get("/workshop", response={**READS, 200: WorkshopView}, by_alias=True)
def read_workshop(request: HttpRequest) -> Any:
    """The workshop's settings, and the general minutes that stand where it gives none."""
    return _view()


@router.put("/workshop", response={**WRITES, 200: WorkshopView}, by_alias=True)
def write_workshop(request: HttpRequest, body: Body[Workshop]) -> Any:
    """Replace the workshop's settings."""
    set_workshop(body)
    return _view()


@router.put("/workshop/mark", response={**WRITES, 200: WorkshopView}, by_alias=True, openapi_extra=PICTURE)
def write_mark(request: HttpRequest) -> Any:
    """Set the mark on the papers. The body is the picture itself; none takes it away."""
    set_mark(request.read(PICTURE_BYTES + 1))
    return _view()


@router.get("/workshop/mark.png", response={**READS, 404: Problem}, include_in_schema=False)
def read_mark(request: HttpRequest) -> Any:
    """The mark."""
    found = mark()
    return HttpResponse(found, content_type="image/png") if found else HttpResponse(status=404)


def _view() -> WorkshopView:
    found = mark()
    digest = sha256(found).hexdigest()[:12] if found else None
    return WorkshopView(workshop(), general_minutes(), outcomes(), digest, nightly.overdue(), nightly.broken())
