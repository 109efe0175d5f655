"""Recordings: files come in, are looked at, kept, marked, and given out again."""

from dataclasses import dataclass
from typing import Annotated, Any, Literal, get_args

from django.http import HttpRequest, HttpResponse
from ninja import Body, Query, Router, Status
from pydantic import Field

from dianoia.case.load import adapter, from_plain
from dianoia.case.recordings import MOST_COLUMNS, MOST_MARKS, Mark, MarkName
from dianoia.diagnosis.verdict.expected_signals import ExpectedSignal
from dianoia.errors import Finding, refuse
from dianoia.signals.captures import CaptureView, captures_for
from dianoia.signals.columns import ADDRESS, belongs_to
from dianoia.signals.known import signals
from dianoia.signals.levels import MOST_POINTS
from dianoia.signals.readers.source import MOST_BYTES, Column
from dianoia.signals.view import EVENT_WORDS, SamplesView
from server.api.common import FILE, author
from server.jobs import recordings
from server.jobs.captures import record_capture
from server.jobs.recordings import RecordingView
from server.jobs.results import expected_of
from server.jobs.stored import case_of, find_job
from server.jobs.zipped import zipped
from server.ledger.recordings import path_of
from server.problems import Problem
from server.statuses import READS, WRITES
from server.work.imports import Import, State, imports
from server.work.samples import drawn

router = Router()
Moment = Annotated[float, Query(ge=-1e9, le=1e9)]
Points = Annotated[int, Query(ge=2, le=MOST_POINTS)]


@dataclass(frozen=True)
class ChosenColumn:
    """A column that is to be kept, as it was corrected."""

    place: Annotated[int, Field(ge=0, le=100_000)]
    signal: Annotated[str, Field(max_length=40)]
    of: Annotated[str, Field(max_length=60)] | None = None
    """Sensor by bank and position, or the point of a scope's lead."""
    unit: Annotated[str, Field(max_length=20)] = ""
    """As written; empty for the signal's own."""


@dataclass(frozen=True)
class ImportView:
    """A file on its way into a job."""

    id: str
    state: State
    findings: tuple[Finding, ...]
    """Why it was refused."""
    columns: tuple[Column, ...]
    """All columns of the file, with what is proposed of each."""
    chosen: tuple[ChosenColumn, ...]
    """The columns that would be kept."""
    shown: SamplesView | None
    """What would be kept, as it would be shown; None while it is read."""
    marks: tuple[Mark, ...]
    """Marks that came with it."""


@dataclass(frozen=True)
class SignalChoice:
    """A signal that a column may be."""

    id: str
    label: str
    unit: str
    belongs_to: Literal["sensor", "engine", "point"]
    """Whether its column names a sensor, nothing, or the point that a scope's lead lies on."""


@dataclass(frozen=True)
class MarkChoice:
    """A mark that can be set."""

    id: MarkName
    label: str


@dataclass(frozen=True)
class RecordingsPage:
    """All recordings of a job, and what may be chosen."""

    recordings: tuple[RecordingView, ...]
    signals: tuple[SignalChoice, ...]
    marks: tuple[MarkChoice, ...]
    captures: tuple[CaptureView, ...]
    """What is worth recording of such a sensor."""
    simulated: bool
    """Whether a simulated instrument is at hand that records by itself."""


@dataclass(frozen=True)
class Keep:
    """Keep what was read."""

    title: Annotated[str, Field(max_length=120)] = ""
    marks: Annotated[tuple[Mark, ...], Field(max_length=MOST_MARKS)] = ()


@dataclass(frozen=True)
class Marks:
    """The marks of a recording."""

    marks: Annotated[tuple[Mark, ...], Field(max_length=MOST_MARKS)]


@dataclass(frozen=True)
class Capture:
    """What the simulated instrument is to record."""

    capture: Annotated[str, Field(max_length=40)]


@router.get("/jobs/{number}/recordings", response={**READS, 200: RecordingsPage, 404: Problem})
def list_recordings(request: HttpRequest, number: int) -> Any:
    """A job's recordings with all that is shown of them."""
    return _page(number)


def _page(number: int, status: int = 200) -> HttpResponse:
    job = find_job(number)
    case = case_of(job)
    choices = tuple(SignalChoice(row.id, row.label, row.unit, belongs_to(row.id)) for row in signals().values())
    marks = tuple(MarkChoice(name, EVENT_WORDS[name]) for name in get_args(MarkName))
    page = RecordingsPage(recordings.views_of(job), choices, marks, captures_for(case), case.simulated is not None)
    return HttpResponse(
        adapter(RecordingsPage).dump_json(page, by_alias=True),
        content_type="application/json; charset=utf-8",
        status=status,
    )


@router.get("/jobs/{number}/expected", response={**READS, 200: list[ExpectedSignal], 404: Problem})
def expected(request: HttpRequest, number: int, want: Annotated[list[str], Query(max_length=60)]) -> Any:
    """What a healthy circuit shows of signals, each asked for as ``sensor_voltage:B1S1`` or ``battery_voltage``."""
    pairs = [(name.partition(":")[0], name.partition(":")[2] or None) for name in want]
    for _, of in pairs:
        if of is not None and not ADDRESS.fullmatch(of):
            raise refuse("want", "a signal and a sensor, as sensor_voltage:B1S1", of)
    return list(expected_of(find_job(number), pairs))


@router.post("/jobs/{number}/imports", response={**WRITES, 201: ImportView, 404: Problem}, openapi_extra=FILE)
def begin_import(request: HttpRequest, number: int) -> Any:
    """Take in a recording's file: CSV, MDF 4, or one that Dianoia kept. The body is the file itself. Nothing is kept of it yet."""
    job = find_job(number)
    made = imports.begin(job.pk, request, MOST_BYTES, recordings.import_order(job))  # type: ignore[arg-type]
    return Status(201, _import(made))


@router.post("/jobs/{number}/captures", response={**WRITES, 201: ImportView, 404: Problem})
def begin_capture(request: HttpRequest, number: int, body: Body[Capture]) -> Any:
    """Let the job's simulated instrument record. It goes on as with a file."""
    return Status(201, _import(record_capture(find_job(number), body.capture)))


@router.get("/jobs/{number}/imports/{name}", response={**READS, 200: ImportView, 404: Problem})
def look_at_import(request: HttpRequest, number: int, name: str) -> Any:
    """How far a file is, and what would be kept of it."""
    return _import(imports.find(number, name))


@router.put("/jobs/{number}/imports/{name}", response={**WRITES, 200: ImportView, 404: Problem})
def choose_columns(request: HttpRequest, number: int, name: str, body: Body[list[ChosenColumn]]) -> Any:
    """Read the file once more, with these columns."""
    made = imports.find(number, name)
    chosen = [adapter(ChosenColumn).dump_python(one) for one in body[: MOST_COLUMNS + 1]]
    imports.again(made, recordings.import_order(find_job(number), chosen))
    return _import(made)


@router.delete("/jobs/{number}/imports/{name}", response={**WRITES, 204: None, 404: Problem})
def give_up(request: HttpRequest, number: int, name: str) -> Any:
    """Give a file up: nothing of it is kept."""
    imports.find(number, name)
    imports.end(name)
    return HttpResponse(status=204)


@router.get("/jobs/{number}/imports/{name}/levels", response={**READS, 404: Problem}, include_in_schema=False)
def import_levels(
    request: HttpRequest, number: int, name: str, trace: int, from_s: Moment, to_s: Moment, points: Points = MOST_POINTS
) -> Any:
    """A stretch of what would be kept, see ``recording_levels``."""
    return _binary(drawn(imports.find(number, name).made, trace, from_s, to_s, points))


@router.post("/jobs/{number}/imports/{name}/keep", response={**WRITES, 201: RecordingsPage, 404: Problem})
def keep_import(request: HttpRequest, number: int, name: str, body: Body[Keep]) -> Any:
    """Put what was read to the job."""
    recordings.keep_import(find_job(number), imports.find(number, name), body.title, body.marks, author(request))
    return _page(number, 201)


@router.get("/jobs/{number}/recordings/{digest}/levels", response={**READS, 404: Problem}, include_in_schema=False)
def recording_levels(
    request: HttpRequest,
    number: int,
    digest: str,
    trace: int,
    from_s: Moment,
    to_s: Moment,
    points: Points = MOST_POINTS,
) -> Any:
    """A stretch of a trace as numbers of 32 bits, least byte first: times, lowest, highest, each of the same length."""
    recordings.stored(find_job(number), digest)
    return _binary(drawn(path_of(digest), trace, from_s, to_s, points))


@router.put("/jobs/{number}/recordings/{digest}/marks", response={**WRITES, 200: RecordingsPage, 404: Problem})
def mark(request: HttpRequest, number: int, digest: str, body: Body[Marks]) -> Any:
    """Set the marks of a recording; its figures are measured again."""
    recordings.mark(find_job(number), digest, body.marks, author(request))
    return _page(number)


@router.get("/jobs/{number}/recordings/{digest}.{kind}", response={**READS, 404: Problem}, include_in_schema=False)
def recording_file(request: HttpRequest, number: int, digest: str, kind: Literal["csv", "json", "parquet"]) -> Any:
    """A recording as a file."""
    recordings.stored(find_job(number), digest)
    body = path_of(digest).read_bytes() if kind == "parquet" else recordings.table_file(digest, kind)
    types = {"csv": "text/csv; charset=utf-8", "json": "application/json", "parquet": "application/vnd.apache.parquet"}
    name = f"job-{number}-{digest.removeprefix('sha256:')[:8]}.{kind}"
    return HttpResponse(
        body, content_type=types[kind], headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


@router.get("/jobs/{number}/case.zip", response={**READS, 404: Problem}, include_in_schema=False)
def export_zip(request: HttpRequest, number: int) -> Any:
    """The case file with its recordings."""
    made = zipped(find_job(number))
    return HttpResponse(
        made,
        content_type="application/zip",
        headers={"Content-Disposition": f'attachment; filename="job-{number}.zip"'},
    )


def _binary(body: bytes) -> HttpResponse:
    return HttpResponse(
        body, content_type="application/octet-stream", headers={"Cache-Control": "private, max-age=300"}
    )


def _import(made: Import) -> ImportView:
    read = made.read
    plain = {
        "id": made.id,
        "state": made.state,
        "findings": [adapter(Finding).dump_python(item) for item in made.findings],
        "columns": read.get("columns", []),
        "chosen": read.get("chosen", []),
        "shown": read.get("view"),
        "marks": list(made.marks),
    }
    found: ImportView = from_plain(ImportView, plain)
    return found
