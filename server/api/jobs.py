"""Jobs and their ledgers."""

from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import Body, Query, Router

from dianoia.case.changes import CaseChange
from dianoia.case.load import adapter, case_from_plain, to_plain
from dianoia.case.measures import Reading
from dianoia.case.types import Case
from dianoia.codes.parse import parse_codes
from dianoia.diagnosis.planning.types import Forecast
from dianoia.errors import refuse
from dianoia.instruments.orders import VehicleLook
from dianoia.visit.other_sensor import case_of_other
from server.api.common import FILE, Key, Person, Seen, answer, author
from server.jobs import customers
from server.jobs.bodies import Archive, KnownVehicle, NewJob, Stand, Strike, TakenReading, VehicleOrder
from server.jobs.change import archive_job, change_job
from server.jobs.connected import leave, look_at
from server.jobs.customers import CustomerChange, CustomerData
from server.jobs.known_vehicles import known_vehicles
from server.jobs.read import add_reading
from server.jobs.results import SUMMARISED_LINES, forecast_of, summarised, without, worked_out
from server.jobs.search import Listed, Order, counts, entries_of, listed
from server.jobs.show import show_job
from server.jobs.start import job_with_key, start_job
from server.jobs.stored import JobNotFound, case_of, find_job
from server.jobs.strike import strike_reading
from server.jobs.zipped import put_samples, unzipped
from server.ledger.models import Job
from server.limits import RECORDING_BYTES
from server.problems import Problem
from server.statuses import READS, WRITES
from server.work.view_types import JobPage, JobSummary, JobView, WhatIf

router = Router()


@router.get("/jobs", response={**READS, 200: JobPage}, by_alias=True)
def list_jobs(
    request: HttpRequest,
    which: Listed = "all",
    words: Annotated[str, Query(max_length=200)] = "",
    order: Order = "newest",
    page: Annotated[int, Query(ge=1, le=100_000)] = 1,
    size: Annotated[int, Query(ge=1, le=100)] = 20,
) -> Any:
    """A page of the jobs. words: all of them stand in code, vehicle, title or place; size: lines of a page."""
    found = listed(which, words, order)
    first = (page - 1) * size
    lines = tuple(_line(job) for job in summarised(found[first : first + size]))
    count = counts()
    return JobPage(lines, found.count() if words.strip() else count[which], count)


@router.post("/jobs", response={**WRITES, 201: JobView}, by_alias=True)
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


@router.post("/jobs/import", response={**WRITES, 201: JobView}, by_alias=True)
def import_job(request: HttpRequest, body: Body[dict[str, Any]], key: Key = None) -> Any:
    """A job from a case file."""
    return _created(request, case_from_plain(body), key)


@router.post("/jobs/import-zip", response={**WRITES, 201: JobView}, by_alias=True, openapi_extra=FILE)
def import_zip(request: HttpRequest, key: Key = None) -> Any:
    """A job from a zipped case with its recordings. The body is the file itself."""
    case, samples = unzipped(request.read(RECORDING_BYTES + 1))
    put_samples(samples)  # a full disk is said before the job is there
    return _created(request, case, key)


@router.get("/jobs/{number}", response={**READS, 200: JobView, 404: Problem}, by_alias=True)
def one_job(request: HttpRequest, number: int) -> Any:
    """One job, whole."""
    return HttpResponse(show_job(find_job(number)), content_type="application/json; charset=utf-8")


@router.get("/jobs/{number}/case", response={**READS, 200: Case, 404: Problem}, by_alias=True)
def export_job(request: HttpRequest, number: int) -> Any:
    """The job as a case file, saying only what is known."""
    return JsonResponse(to_plain(case_of(find_job(number))))


@router.post("/jobs/{number}/readings", response={**WRITES, 201: TakenReading, 404: Problem}, by_alias=True)
def take_reading(request: HttpRequest, number: int, body: Body[Reading], key: Key = None, person: Person = None) -> Any:
    """Append a reading to the ledger, and judge it. What follows from it takes longer: it is told with the job. Sent again
    with the same key it is answered again and not added again.
    """
    return answer(add_reading(find_job(number), body, key, author(request)), 201)


@router.post("/jobs/{number}/readings/{place}/strike", response={**WRITES, 200: JobView, 404: Problem}, by_alias=True)
def strike(request: HttpRequest, number: int, place: int, body: Body[Strike]) -> Any:
    """Strike out a reading with a reason."""
    return answer(strike_reading(find_job(number), place, body.reason, author(request)).view)


@router.patch("/jobs/{number}", response={**WRITES, 200: JobView, 404: Problem, 412: Problem}, by_alias=True)
def change(request: HttpRequest, number: int, body: Body[CaseChange], seen: Seen = None) -> Any:
    """Change what is known about the job other than its ledger: fields as in the case file, merged into what is known
    (RFC 7396): null takes a field away, lists are replaced. With ``If-Match`` it is refused where someone else has changed the
    same since.
    """
    plain = adapter(CaseChange).dump_python(body, mode="json", by_alias=True)
    return answer(change_job(find_job(number), plain, author(request), _entries(seen)).view)


def _entries(seen: str | None) -> int | None:
    text = (seen or "").strip('" ')
    if seen is not None and not text.isdecimal():
        raise refuse("If-Match", "the number of entries that the job had", seen)
    return int(text) if text else None


@router.get("/jobs/{number}/stand", response={**READS, 200: Stand, 404: Problem})
def stand(request: HttpRequest, number: int) -> Any:
    """How many entries the job has: asked again and again, it tells a page that a colleague has added something. While it is the same
    as in ``If-None-Match`` the answer is 304.
    """
    entries = entries_of(number)
    if entries is None:
        raise JobNotFound(f"There is no job {number}.")
    tag = f'"{entries}"'
    same = request.headers.get("If-None-Match") == tag
    told: HttpResponse = HttpResponse(status=304) if same else JsonResponse({"entries": entries})
    told.headers["ETag"] = tag
    told.headers["Cache-Control"] = "private, no-cache"
    return told


@router.post("/jobs/{number}/vehicle", response={**WRITES, 200: VehicleLook, 404: Problem}, by_alias=True)
def look_at_vehicle(request: HttpRequest, number: int, body: Body[VehicleOrder]) -> Any:
    """Do something to the job's simulated vehicle, and see it. Nothing of it is stored: a reading is noted like any other."""
    look = look_at(find_job(number), body)
    return HttpResponse(adapter(VehicleLook).dump_json(look), content_type="application/json; charset=utf-8")


@router.delete("/jobs/{number}/vehicle", response={**WRITES, 204: None, 404: Problem})
def leave_vehicle(request: HttpRequest, number: int) -> Any:
    """The page is closed: the vehicle's process ends."""
    leave(find_job(number))
    return HttpResponse(status=204)


@router.post("/jobs/{number}/others/{address}", response={**WRITES, 201: JobView, 404: Problem}, by_alias=True)
def open_other(request: HttpRequest, number: int, address: str) -> Any:
    """The job of another sensor of the same vehicle, with the readings that speak of it. Asked again it is the same job."""
    job, key = find_job(number), f"other-{number}-{address}"
    if earlier := job_with_key(key):
        return answer(worked_out(earlier).view, 201)
    return _created(request, case_of_other(case_of(job), address), key)


@router.get("/jobs/{number}/customer", response={**READS, 200: CustomerData, 404: Problem})
def read_customer(request: HttpRequest, number: int) -> Any:
    """Whom the vehicle belongs to."""
    return customers.customer_of(find_job(number))


@router.patch("/jobs/{number}/customer", response={**WRITES, 200: CustomerData, 404: Problem})
def write_customer(request: HttpRequest, number: int, body: Body[CustomerChange]) -> Any:
    """Keep a customer's data, apart from the case."""
    return customers.keep(find_job(number), body, author(request))


@router.post("/jobs/{number}/archive", response={**WRITES, 200: Archive, 404: Problem})
def archive(request: HttpRequest, number: int, body: Body[Archive]) -> Any:
    """Put a job away, or take it back into the daily list."""
    archive_job(find_job(number), body.archived)
    return body


@router.get("/jobs/{number}/without/{place}", response={**READS, 200: WhatIf, 404: Problem}, by_alias=True)
def decide_without(request: HttpRequest, number: int, place: int) -> Any:
    """What the decision would be without one reading."""
    return without(find_job(number), place)


@router.get("/jobs/{number}/forecast", response={**READS, 200: Forecast, 404: Problem}, by_alias=True)
def forecast(request: HttpRequest, number: int) -> Any:
    """What lies ahead: the remaining plan, the minutes to certainty, and whether certainty pays."""
    return forecast_of(find_job(number))


@router.get("/vehicles", response={**READS, 200: list[KnownVehicle]}, by_alias=True)
def list_vehicles(request: HttpRequest) -> Any:
    """The vehicles of earlier jobs, newest first, ready for the next job on the same model."""
    return known_vehicles()


def _line(job: Job) -> JobSummary:
    told = {name: value for name, value in job.summary.items() if name != SUMMARISED_LINES}
    return JobSummary(id=job.pk, updated=job.updated, archived=job.archived, **{**told, "codes": tuple(told["codes"])})


def _created(request: HttpRequest, case: Case, key: str | None) -> HttpResponse:
    stored = start_job(case, key, author(request))
    return answer(stored.worked.view, 201)
