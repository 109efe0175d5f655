"""The API: typed arguments, one call into the store or the core, a typed answer."""

import logging
from typing import Annotated, Any

from django.contrib.auth.models import User
from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import Body, Header, NinjaAPI, Query, Status
from ninja.errors import HttpError, ValidationError
from ninja.parser import Parser

from dianoia.case.changes import CaseChange
from dianoia.case.ledger import Reading
from dianoia.case.load import adapter, case_from_plain, finding_of, json_document, to_plain
from dianoia.case.types import Case
from dianoia.case.workshop import Workshop
from dianoia.circuit.sums import At20, HeaterSum, PwmSum, at_20c, duty_from, heater, pwm_average, resistance_from
from dianoia.codes.book import Search, search
from dianoia.codes.decode import decode
from dianoia.codes.parse import parse_codes
from dianoia.codes.triage import triage
from dianoia.codes.types import Decoded
from dianoia.diagnosis.catalogue.costs import general_minutes
from dianoia.diagnosis.planning.types import Forecast
from dianoia.errors import Finding, RefusedInput, refuse
from dianoia.families.tables import families
from dianoia.quantities.parse import parse
from dianoia.vehicle.tables import Preset, presets
from server.jobs import closing, customers, photos, steps, store, times
from server.jobs.bodies import (
    Archive,
    Close,
    KnownFamily,
    KnownVehicle,
    Minutes,
    NewJob,
    Problem,
    Stand,
    Strike,
    Taken,
    Tick,
    Ticked,
    WhatIf,
    WorkshopView,
)
from server.jobs.customers import CustomerChange, CustomerData
from server.jobs.ledger import NOBODY, Author
from server.jobs.models import Job, Photo
from server.jobs.view import JobSummary, JobView
from server.jobs.workshop import outcomes, set_workshop, workshop
from server.papers import paper
from server.papers.paper import Size, Which
from server.people.api import router as people

_log = logging.getLogger(__name__)


class Documents(Parser):
    """Bodies are read by the core's own rules for a document."""

    def parse_body(self, request: HttpRequest) -> Any:
        """Raises RefusedInput for what is no JSON, or no finite number, or no whole character."""
        try:
            return json_document(request.body.decode("utf-8"))
        except UnicodeDecodeError as problem:
            raise refuse("", "text in UTF-8", "something else") from problem


api = NinjaAPI(title="Dianoia", version="1", docs_url=None, openapi_url="openapi.json", parser=Documents())
api.add_router("/people", people, tags=["people"])
#: A client's own key for one request that adds something: sent again with it, nothing is added twice.
Key = Annotated[str | None, Header(None, alias="Idempotency-Key", min_length=8, max_length=64)]
#: Who took what is sent: it is never stored under another name.
Person = Annotated[str | None, Header(None, alias="X-Person", max_length=20)]
#: How many entries the job had on the page that a change was made on.
Seen = Annotated[str | None, Header(None, alias="If-Match", max_length=20)]
#: What every request may be answered: nobody signed in; a change from elsewhere, or by a reader; no JSON.
_READS: dict[Any, Any] = {401: Problem, 403: Problem, 422: Problem, 500: Problem, 503: Problem}
#: A body that is a picture.
_PICTURE = {
    "requestBody": {"content": {"image/*": {"schema": {"type": "string", "format": "binary"}}}, "required": True}
}
_WRITES: dict[Any, Any] = {**_READS, 409: Problem, 415: Problem}


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


@api.exception_handler(store.Clash)
def clashed(request: HttpRequest, clash: store.Clash) -> HttpResponse:
    """A change of what someone else changed meanwhile: 412, and nothing is overwritten."""
    by = clash.by or "Someone"
    findings = [Finding(field, f"what {by} has entered meanwhile", "another entry") for field in clash.fields]
    return _problem(request, findings, 412, by)


@api.exception_handler(store.JobNotFound)
def missing(request: HttpRequest, problem: store.JobNotFound) -> HttpResponse:
    """A job number that is not there: 404."""
    return _problem(request, [Finding("job", "the number of a job", str(problem))], 404)


def _problem(request: HttpRequest, findings: list[Finding], status: int, by: str = "") -> HttpResponse:
    text = "; ".join(str(finding) for finding in findings)
    body = adapter(Problem).dump_python(Problem(message=text, findings=tuple(findings), by=by), mode="json")
    return api.create_response(request, body, status=status)


@api.get("/jobs", response={**_READS, 200: list[JobSummary]}, by_alias=True)
def list_jobs(request: HttpRequest) -> Any:
    """All jobs, the one touched last first."""
    return [_line(job) for job in store.summarised()]


@api.post("/jobs", response={**_WRITES, 201: JobView}, by_alias=True)
def new_job(request: HttpRequest, body: Body[NewJob], key: Key = None) -> Any:
    """A job from the codes as typed. A status word after a code is kept. Without a code the sensor says what it is about."""
    by_hand = body.sensor is not None and body.sensor.bank is not None and body.sensor.position is not None
    codes = [] if by_hand and not body.codes.strip() else parse_codes(body.codes, "codes")
    plain = {
        "format": "dianoia-case/1", "title": body.title, "style": body.style, "vehicle": to_plain(body.vehicle),
        "codes": [_listed(code) for code in codes],
        **({"sensor": to_plain(body.sensor)} if body.sensor else {}),
    }  # fmt: skip
    return _created(request, case_from_plain(plain), key)


def _listed(code: Any) -> dict[str, str]:
    text = f"{code.code}-{code.failure_byte}" if code.failure_byte else code.code
    if code.source_address is not None:
        text += f" SA {code.source_address}"
    return {"code": text, **({"status": code.status} if code.status else {})}


@api.post("/jobs/import", response={**_WRITES, 201: JobView}, by_alias=True)
def import_job(request: HttpRequest, body: Body[dict[str, Any]], key: Key = None) -> Any:
    """A job from a case file."""
    return _created(request, case_from_plain(body), key)


@api.get("/jobs/{number}", response={**_READS, 200: JobView, 404: Problem}, by_alias=True)
def one_job(request: HttpRequest, number: int) -> Any:
    """One job, whole."""
    return _answer(_view(store.find(number)))


@api.get("/jobs/{number}/case", response={**_READS, 200: Case, 404: Problem}, by_alias=True)
def export_job(request: HttpRequest, number: int) -> Any:
    """The job as a case file, saying only what is known."""
    return JsonResponse(to_plain(store.case_of(store.find(number))))


@api.post("/jobs/{number}/readings", response={**_WRITES, 201: Taken, 404: Problem}, by_alias=True)
def add_reading(request: HttpRequest, number: int, body: Body[Reading], key: Key = None, person: Person = None) -> Any:
    """Append a reading to the ledger, and judge it. What follows from it takes longer: it is told with the job. Sent again
    with the same key it is answered again and not added again.
    """
    return _answer(store.add_reading(store.find(number), body, key, _author(request)), 201)


@api.post("/jobs/{number}/readings/{place}/strike", response={**_WRITES, 200: JobView, 404: Problem}, by_alias=True)
def strike(request: HttpRequest, number: int, place: int, body: Body[Strike]) -> Any:
    """Strike out a reading with a reason."""
    return _answer(store.strike(store.find(number), place, body.reason, _author(request)).view)


@api.patch("/jobs/{number}", response={**_WRITES, 200: JobView, 404: Problem, 412: Problem}, by_alias=True)
def change(request: HttpRequest, number: int, body: Body[CaseChange], seen: Seen = None) -> Any:
    """Change what is known about the job other than its ledger: fields as in the case file, merged into what is known
    (RFC 7396): null takes a field away, lists are replaced. With ``If-Match`` it is refused where someone else has changed the
    same since.
    """
    plain = adapter(CaseChange).dump_python(body, mode="json", by_alias=True)
    return _answer(store.change(store.find(number), plain, _author(request), _entries(seen)).view)


def _entries(seen: str | None) -> int | None:
    text = (seen or "").strip('" ')
    if seen is not None and not text.isdecimal():
        raise refuse("If-Match", "the number of entries that the job had", seen)
    return int(text) if text else None


@api.post("/jobs/{number}/steps/{step}", response={**_WRITES, 200: list[Ticked], 404: Problem})
def tick_step(request: HttpRequest, number: int, step: str, body: Body[Tick]) -> Any:
    """Tick a step of a repair sheet off, or take the tick back, with a note."""
    return list(steps.tick(store.find(number), step, body, _author(request)))


@api.post(
    "/jobs/{number}/steps/{step}/photos", response={**_WRITES, 201: list[Ticked], 404: Problem}, openapi_extra=_PICTURE
)
def add_photo(request: HttpRequest, number: int, step: str) -> Any:
    """Keep a photo of a step, shrunk, without its place data. The body is the picture itself."""
    job = store.find(number)
    photos.add_photo(job, step, request.read(photos.MOST_BYTES + 1), _author(request))
    return Status(201, list(steps.ticks_of(job)))


@api.get("/photos/{number}.jpg", response={**_READS, 404: Problem}, include_in_schema=False)
def read_photo(request: HttpRequest, number: int) -> Any:
    """A photo; it never changes."""
    found = Photo.objects.filter(pk=number).first()
    if found is None:
        raise store.JobNotFound(number)
    return HttpResponse(
        bytes(found.image), content_type="image/jpeg", headers={"Cache-Control": "private, max-age=31536000, immutable"}
    )


@api.put("/jobs/{number}/time", response={**_WRITES, 200: JobView, 404: Problem}, by_alias=True)
def correct_time(request: HttpRequest, number: int, body: Body[Minutes]) -> Any:
    """Say how long the job took, where the clock is wrong."""
    times.correct(store.find(number), body, _author(request))
    return _answer(_view(store.find(number)))


@api.post("/jobs/{number}/close", response={**_WRITES, 200: JobView, 404: Problem}, by_alias=True)
def close_job(request: HttpRequest, number: int, body: Body[Close]) -> Any:
    """Close the job: as proven, or with the reason why it is closed unproven. The next reading opens it again."""
    return _answer(closing.close(store.find(number), body.reason, _author(request)).view)


@api.get("/jobs/{number}/papers/{which}.pdf", response={**_READS, 404: Problem}, include_in_schema=False)
def paper_pdf(request: HttpRequest, number: int, which: Which, size: Size | None = None) -> Any:
    """A paper of the job as PDF: for the customer, or for the file."""
    made = paper.pdf(store.find(number), which, size)
    return HttpResponse(
        made,
        content_type="application/pdf",
        headers={"Content-Disposition": f'inline; filename="job-{number}-{which}.pdf"'},
    )


@api.get("/jobs/{number}/papers/{which}.png", response={**_READS, 404: Problem}, include_in_schema=False)
def paper_picture(
    request: HttpRequest, number: int, which: Which, page: int = 0, at: int | None = None, size: Size | None = None
) -> Any:
    """A page of it as a picture. at: the job's entries, so that a browser never shows an older one."""
    pages = paper.pictures(store.find(number), which, size)
    return HttpResponse(pages[min(max(page, 0), len(pages) - 1)], content_type="image/png")


@api.get("/jobs/{number}/stand", response={**_READS, 200: Stand, 404: Problem})
def stand(request: HttpRequest, number: int) -> Any:
    """How many entries the job has: asked again and again, it tells a page that a colleague has added something."""
    return Stand(store.find(number).entries)


@api.get("/jobs/{number}/customer", response={**_READS, 200: CustomerData, 404: Problem})
def read_customer(request: HttpRequest, number: int) -> Any:
    """Whom the vehicle belongs to."""
    return customers.customer_of(store.find(number))


@api.patch("/jobs/{number}/customer", response={**_WRITES, 200: CustomerData, 404: Problem})
def write_customer(request: HttpRequest, number: int, body: Body[CustomerChange]) -> Any:
    """Keep a customer's data, apart from the case."""
    return customers.keep(store.find(number), body, _author(request))


@api.post("/jobs/{number}/archive", response={**_WRITES, 200: Archive, 404: Problem})
def archive(request: HttpRequest, number: int, body: Body[Archive]) -> Any:
    """Put a job away, or take it back into the daily list."""
    store.archive(store.find(number), body.archived)
    return body


@api.get("/jobs/{number}/without/{place}", response={**_READS, 200: WhatIf, 404: Problem}, by_alias=True)
def without(request: HttpRequest, number: int, place: int) -> Any:
    """What the decision would be without one reading."""
    return store.without(store.find(number), place)


@api.get("/jobs/{number}/forecast", response={**_READS, 200: Forecast, 404: Problem}, by_alias=True)
def forecast(request: HttpRequest, number: int) -> Any:
    """What lies ahead: the remaining plan, the minutes to certainty, and whether certainty pays."""
    return store.forecast_of(store.find(number))


@api.get("/workshop", response={**_READS, 200: WorkshopView}, by_alias=True)
def read_workshop(request: HttpRequest) -> Any:
    """The workshop's settings, and the general minutes that stand where it gives none."""
    return WorkshopView(workshop(), general_minutes(), outcomes())


@api.put("/workshop", response={**_WRITES, 200: WorkshopView}, by_alias=True)
def write_workshop(request: HttpRequest, body: Body[Workshop]) -> Any:
    """Replace the workshop's settings."""
    return WorkshopView(set_workshop(body), general_minutes(), outcomes())


@api.get("/presets", response={**_READS, 200: list[Preset]}, by_alias=True)
def list_presets(request: HttpRequest) -> Any:
    """The usual vehicle layouts."""
    return list(presets())


@api.get("/families", response={**_READS, 200: list[KnownFamily]})
def list_families(request: HttpRequest) -> Any:
    """The sensor families, with the general range of their cold heaters."""
    return [KnownFamily(row.id, row.label, row.told_by, row.heater_ohms_20c) for row in families().values()]


@api.get("/vehicles", response={**_READS, 200: list[KnownVehicle]}, by_alias=True)
def list_vehicles(request: HttpRequest) -> Any:
    """The vehicles of earlier jobs, newest first, ready for the next job on the same model."""
    return store.known_vehicles()


@api.get("/codebook", response={**_READS, 200: list[Decoded]}, by_alias=True)
def code_book(
    request: HttpRequest,
    words: str = "",
    bank: int | None = None,
    position: int | None = None,
    circuit: str | None = None,
    kind: str | None = None,
) -> Any:
    """Every listed code that fits the search."""
    return search(Search(words=words, bank=bank, position=position, circuit=circuit, kind=kind))


@api.get("/sums/heater", response={**_READS, 200: HeaterSum})
def sum_heater(request: HttpRequest, ohms_20c: str, volts: str = "13.8 V") -> Any:
    """Current and power of a heater, cold and settled."""
    return heater(parse(ohms_20c, "resistance", "ohms_20c").value, parse(volts, "voltage", "volts").value)


@api.get("/sums/at-20", response={**_READS, 200: At20})
def sum_at_20(request: HttpRequest, ohms: str, celsius: str) -> Any:
    """A resistance carried back to 20 °C."""
    return at_20c(parse(ohms, "resistance", "ohms").value, parse(celsius, "temperature", "celsius").value)


@api.get("/sums/pwm", response={**_READS, 200: PwmSum})
def sum_pwm(request: HttpRequest, volts: str = "13.8 V", duty: str = "", meter_v: str = "") -> Any:
    """A multimeter's average from the duty, or the duty from the average."""
    battery = parse(volts, "voltage", "volts").value
    if meter_v.strip():
        return duty_from(battery, parse(meter_v, "voltage", "meter_v").value)
    return pwm_average(battery, parse(duty, "ratio", "duty").value)


@api.get("/sums/resistance", response={**_READS, 200: At20})
def sum_resistance(request: HttpRequest, amps: str, volts: str = "13.8 V") -> Any:
    """The resistance behind a current; both ends alike."""
    ohms = resistance_from(parse(amps, "current", "amps").value, parse(volts, "voltage", "volts").value)
    return At20((ohms, ohms))


@api.get("/codes", response={**_READS, 200: list[Decoded]}, by_alias=True)
def decode_codes(request: HttpRequest, text: Query[str]) -> Any:
    """What codes say, several in the order to work in."""
    texts = parse_codes(text)
    return triage(texts) if len(texts) > 1 else [decode(texts[0])]


def _author(request: HttpRequest) -> Author:
    """Who is signed in; the door has seen to it that someone is, where something is written."""
    user = request.user
    return Author(int(user.pk), user.username) if isinstance(user, User) else NOBODY


def _line(job: Job) -> JobSummary:
    told = {name: value for name, value in job.summary.items() if name != store.LINES}
    return JobSummary(id=job.pk, updated=job.updated, archived=job.archived, **{**told, "codes": tuple(told["codes"])})


def _answer(view: JobView | Taken, status: int = 200) -> HttpResponse:
    """The view written out once; it is of the core's own types, so it is not validated again."""
    body = adapter(type(view)).dump_json(view, by_alias=True)
    return HttpResponse(body, content_type="application/json; charset=utf-8", status=status)


def _view(job: Job) -> JobView:
    return store.worked_out(job).view


def _created(request: HttpRequest, case: Case, key: str | None) -> HttpResponse:
    stored = store.create(case, key, _author(request))
    return _answer(stored.worked.view, 201)
