"""What all doors of the API share: headers, documented statuses, and how an answer is written out."""

from typing import Annotated

from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse
from ninja import Header

from dianoia.case.load import adapter
from server.jobs.bodies import TakenReading
from server.ledger.entries import NOBODY, Author
from server.work.view_types import JobView

#: A client's own key for one request that adds something: sent again with it, nothing is added twice.
Key = Annotated[str | None, Header(None, alias="Idempotency-Key", min_length=8, max_length=64)]
#: Who took what is sent: it is never stored under another name.
Person = Annotated[str | None, Header(None, alias="X-Person", max_length=20)]
#: How many entries the job had on the page that a change was made on.
Seen = Annotated[str | None, Header(None, alias="If-Match", max_length=20)]
#: A body that is a picture.
PICTURE = {
    "requestBody": {"content": {"image/*": {"schema": {"type": "string", "format": "binary"}}}, "required": True}
}
#: A body that is any other file.
FILE = {
    "requestBody": {
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
        "required": True,
    }
}


def author(request: HttpRequest) -> Author:
    """Who is signed in; the door has seen to it that someone is, where something is written."""
    user = request.user
    return Author(int(user.pk), user.username) if isinstance(user, User) else NOBODY


def answer(view: JobView | TakenReading, status: int = 200) -> HttpResponse:
    """The view written out once; it is of the core's own types, so it is not validated again."""
    body = adapter(type(view)).dump_json(view, by_alias=True)
    return HttpResponse(body, content_type="application/json; charset=utf-8", status=status)
