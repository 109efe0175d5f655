"""Who may do what: one table of the API's operations, and the only place that says so.

``reads`` and ``writes`` take a person who has come in; at a bench reading is free. ``foreman`` takes a foreman who gave a password, at
a bench, too: a name that was only picked is worth a technician's powers.
"""

from collections.abc import Mapping
from typing import Literal

#: anybody: no name is asked for; self: whoever has come in, a reader too, about their own account.
Needs = Literal["anybody", "reads", "writes", "self", "foreman"]

OPERATIONS: Mapping[tuple[str, str], Needs] = {
    ("GET", "/api/jobs"): "reads",
    ("POST", "/api/jobs"): "writes",
    ("POST", "/api/jobs/import"): "writes",
    ("POST", "/api/jobs/import-zip"): "writes",
    ("GET", "/api/jobs/{number}"): "reads",
    ("PATCH", "/api/jobs/{number}"): "writes",
    ("GET", "/api/jobs/{number}/case"): "reads",
    ("POST", "/api/jobs/{number}/readings"): "writes",
    ("POST", "/api/jobs/{number}/readings/{place}/strike"): "writes",
    ("POST", "/api/jobs/{number}/readings/{place}/photos"): "writes",
    ("GET", "/api/jobs/{number}/stand"): "reads",
    ("POST", "/api/jobs/{number}/vehicle"): "writes",
    ("DELETE", "/api/jobs/{number}/vehicle"): "writes",
    ("POST", "/api/jobs/{number}/others/{address}"): "writes",
    ("GET", "/api/jobs/{number}/customer"): "reads",
    ("PATCH", "/api/jobs/{number}/customer"): "writes",
    ("POST", "/api/jobs/{number}/archive"): "writes",
    ("GET", "/api/jobs/{number}/without/{place}"): "reads",
    ("GET", "/api/jobs/{number}/forecast"): "reads",
    ("GET", "/api/jobs/{number}/recordings"): "reads",
    ("GET", "/api/jobs/{number}/expected"): "reads",
    ("POST", "/api/jobs/{number}/imports"): "writes",
    ("POST", "/api/jobs/{number}/captures"): "writes",
    ("GET", "/api/jobs/{number}/imports/{name}"): "reads",
    ("PUT", "/api/jobs/{number}/imports/{name}"): "writes",
    ("DELETE", "/api/jobs/{number}/imports/{name}"): "writes",
    ("POST", "/api/jobs/{number}/imports/{name}/keep"): "writes",
    ("PUT", "/api/jobs/{number}/recordings/{digest}/marks"): "writes",
    ("GET", "/api/vehicles"): "reads",
    ("POST", "/api/jobs/{number}/steps/{step}"): "writes",
    ("POST", "/api/jobs/{number}/steps/{step}/photos"): "writes",
    ("PUT", "/api/jobs/{number}/time"): "writes",
    ("POST", "/api/jobs/{number}/close"): "writes",
    ("GET", "/api/workshop"): "reads",
    ("PUT", "/api/workshop"): "writes",
    ("PUT", "/api/workshop/mark"): "writes",
    ("GET", "/api/vocabulary"): "anybody",
    ("GET", "/api/presets"): "reads",
    ("GET", "/api/families"): "reads",
    ("GET", "/api/codebook"): "reads",
    ("GET", "/api/sums/heater"): "reads",
    ("GET", "/api/sums/at-20"): "reads",
    ("GET", "/api/sums/pwm"): "reads",
    ("GET", "/api/sums/resistance"): "reads",
    ("GET", "/api/codes"): "reads",
    ("GET", "/api/people/here"): "anybody",
    ("POST", "/api/people/pick"): "anybody",
    ("POST", "/api/people/new"): "anybody",
    ("POST", "/api/people/sign-in"): "anybody",
    ("POST", "/api/people/sign-out"): "anybody",
    ("GET", "/api/people/accounts"): "foreman",
    ("POST", "/api/people/accounts"): "foreman",
    ("POST", "/api/people/accounts/password"): "self",
    ("PATCH", "/api/people/accounts/{person}"): "foreman",
}
#: The same of what is fetched as a file, and stands in no document.
FILES: Mapping[tuple[str, str], Needs] = {
    ("GET", "/api/openapi.json"): "anybody",
    ("GET", "/api/workshop/mark.png"): "reads",
    ("GET", "/api/jobs/{number}/imports/{name}/levels"): "reads",
    ("GET", "/api/jobs/{number}/recordings/{digest}/levels"): "reads",
    ("GET", "/api/jobs/{number}/recordings/{digest}.{kind}"): "reads",
    ("GET", "/api/jobs/{number}/case.zip"): "reads",
    ("GET", "/api/photos/{number}.jpg"): "reads",
    ("GET", "/api/jobs/{number}/papers/{which}.pdf"): "reads",
    ("GET", "/api/jobs/{number}/papers/{which}.png"): "reads",
}
_READING = ("HEAD", "OPTIONS")


def needs_of(method: str, route: str) -> Needs | None:
    """What an operation takes; None for one that no row names. route: as the API's document writes it."""
    asked = ("GET" if method in _READING else method, route)
    return OPERATIONS.get(asked) or FILES.get(asked)


def route_of(pattern: str) -> str:
    """Django's pattern of an address as the API's document writes it.

    >>> route_of("api/jobs/<number>/steps/<step>")
    '/api/jobs/{number}/steps/{step}'
    """
    return "/" + pattern.replace("<", "{").replace(">", "}")
