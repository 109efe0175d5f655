"""The API: its doors, how bodies are read, and how what goes wrong is told."""

import logging
from typing import Any

from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import HttpError, ValidationError
from ninja.openapi.schema import OpenAPISchema
from ninja.parser import Parser

from dianoia.case.load import adapter, finding_of, json_document
from dianoia.errors import Finding, RefusedInput, refuse
from dianoia.field_docs import dataclasses_of, describe
from server.api.jobs import router as jobs
from server.api.recordings import router as recordings
from server.api.reference import router as reference
from server.api.repairs import router as repairs
from server.api.workshop import router as workshop
from server.jobs.change import Clash
from server.jobs.stored import JobNotFound
from server.people.api import router as people
from server.people.passwords import TooBusy
from server.problems import Problem
from server.refusals import refused as refused_early

_log = logging.getLogger(__name__)


class Documents(Parser):
    """Bodies are read by the core's own rules for a document."""

    def parse_body(self, request: HttpRequest) -> Any:
        """Raises RefusedInput for what is no JSON, or no finite number, or no whole character."""
        try:
            return json_document(request.body.decode("utf-8"))
        except UnicodeDecodeError as problem:
            raise refuse("", "text in UTF-8", "something else") from problem


class DocumentedAPI(NinjaAPI):
    """Its document says of each field what the core's own types say."""

    def get_openapi_schema(self, *args: Any, **kwargs: Any) -> OpenAPISchema:
        """See ninja."""
        document = super().get_openapi_schema(*args, **kwargs)
        simulated = ("dianoia.simulated", "dianoia.bench")
        classes = dataclasses_of(["dianoia", "server"])
        shown = {name: cls for name, cls in classes.items() if not cls.__module__.startswith(simulated)}
        describe(document["components"]["schemas"], shown)
        return document


api = DocumentedAPI(title="Dianoia", version="1", docs_url=None, openapi_url="openapi.json", parser=Documents())
for doors in (jobs, repairs, recordings, workshop, reference):
    api.add_router("", doors)
api.add_router("/people", people, tags=["people"])


@api.exception_handler(RefusedInput)
def refused(request: HttpRequest, refusal: RefusedInput) -> HttpResponse:
    """Input the core refuses: 422 with every finding."""
    return _problem(request, list(refusal.findings), 422)


@api.exception_handler(ValidationError)
def invalid(request: HttpRequest, problem: ValidationError) -> HttpResponse:
    """A body that does not fit its type: 422, told as the core tells it."""
    said_by = {"body": 2}  # what comes before the field's own path: the kind of parameter, and a body's name
    findings = [
        finding_of({**error, "loc": error["loc"][said_by.get(error["loc"][0], 1) :]}) for error in problem.errors
    ]
    return _problem(request, findings, 422)


@api.exception_handler(HttpError)
def unread(request: HttpRequest, problem: HttpError) -> HttpResponse:
    """A body that is no document: 422 in the core's words."""
    if isinstance(problem.__cause__, RefusedInput):
        return refused(request, problem.__cause__)
    return _problem(request, [Finding("", "another request", str(problem))], problem.status_code)


@api.exception_handler(TooBusy)
def busy(request: HttpRequest, problem: TooBusy) -> HttpResponse:
    """More people sign in at once than may wait: 429."""
    return refused_early("Many people are signing in at this moment. Try again in a few seconds.", 429, retry_after_s=3)


@api.exception_handler(Exception)
def failed(request: HttpRequest, problem: Exception) -> HttpResponse:
    """A fault of the server's own: 500, and written to its log."""
    _log.exception("%s %s failed", request.method, request.path, exc_info=problem)
    body = Problem(message="The server could not do this. The reason is in its log.")
    return api.create_response(request, adapter(Problem).dump_python(body, mode="json"), status=500)


#: What SQLite says, and what it means for who has just typed something.
_STORE_TROUBLE = {
    "full": "The disk is full: nothing was stored. Free some space, then take it again.",
    "readonly": "The store cannot be written: nothing was stored. See to its folder's permissions, then take it again.",
    "locked": "The store is busy: nothing was stored. Take it again.",
}


@api.exception_handler(DatabaseError)
def not_stored(request: HttpRequest, problem: DatabaseError) -> HttpResponse:
    """A store that could not be written or read: 503, and what to do; what was typed stays on the page."""
    told = next((says for word, says in _STORE_TROUBLE.items() if word in str(problem)), None)
    if told is None:
        return failed(request, problem)
    _log.error("%s %s: %s", request.method, request.path, problem)
    body = adapter(Problem).dump_python(Problem(message=told), mode="json")
    return api.create_response(request, body, status=503)


@api.exception_handler(Clash)
def clashed(request: HttpRequest, clash: Clash) -> HttpResponse:
    """A change of what someone else changed meanwhile: 412, and nothing is overwritten."""
    by = clash.by or "Someone"
    findings = [Finding(field, f"what {by} has entered meanwhile", "another entry") for field in clash.fields]
    return _problem(request, findings, 412, by)


@api.exception_handler(JobNotFound)
def missing(request: HttpRequest, problem: JobNotFound) -> HttpResponse:
    """A job number that is not there: 404."""
    return _problem(request, [Finding("job", "the number of a job", str(problem))], 404)


def _problem(request: HttpRequest, findings: list[Finding], status: int, by: str = "") -> HttpResponse:
    text = "; ".join(str(finding) for finding in findings)
    body = adapter(Problem).dump_python(Problem(message=text, findings=tuple(findings), by=by), mode="json")
    return api.create_response(request, body, status=status)
