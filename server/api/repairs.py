"""The repair of a job, from its first step to its papers."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Body, Router, Status

from server.api.common import PICTURE, Key, answer, author
from server.jobs import photos, steps, times
from server.jobs.bodies import Close, Minutes, Tick
from server.jobs.close import close_job
from server.jobs.results import worked_out
from server.jobs.stored import JobNotFound, find_job
from server.ledger.models import Photo
from server.limits import PICTURE_BYTES
from server.papers import paper
from server.papers.paper import Size, Which
from server.problems import Problem
from server.statuses import READS, WRITES
from server.work.view_types import JobView, Ticked

router = Router()


@router.post("/jobs/{number}/steps/{step}", response={**WRITES, 200: list[Ticked], 404: Problem})
def tick_step(request: HttpRequest, number: int, step: str, body: Body[Tick]) -> Any:
    """Tick a step of a repair sheet off, or take the tick back, with a note."""
    return list(steps.tick(find_job(number), step, body, author(request)))


@router.post(
    "/jobs/{number}/steps/{step}/photos", response={**WRITES, 201: list[Ticked], 404: Problem}, openapi_extra=PICTURE
)
def add_photo(request: HttpRequest, number: int, step: str, key: Key = None) -> Any:
    """Keep a photo of a step, shrunk, without its place data. The body is the picture itself. Sent again with the same key it is
    not kept twice.
    """
    job = find_job(number)
    photos.add_photo(job, step, request.read(PICTURE_BYTES + 1), author(request), key)
    return Status(201, list(steps.ticks_of(job)))


@router.post(
    "/jobs/{number}/readings/{place}/photos",
    response={**WRITES, 201: list[tuple[int, ...]], 404: Problem},
    openapi_extra=PICTURE,
)
def add_reading_photo(request: HttpRequest, number: int, place: int, key: Key = None) -> Any:
    """Keep a photo of a reading, of a screen or a plug, as one of a step. Answers with the numbers of the photos at each reading."""
    job = find_job(number)
    photos.add_reading_photo(job, place, request.read(PICTURE_BYTES + 1), author(request), key)
    return Status(201, list(photos.reading_photos_of(job, job.lines)))


@router.get("/photos/{number}.jpg", response={**READS, 404: Problem}, include_in_schema=False)
def read_photo(request: HttpRequest, number: int) -> Any:
    """A photo; it never changes."""
    found = Photo.objects.filter(pk=number).first()
    if found is None:
        raise JobNotFound(number)
    return HttpResponse(
        bytes(found.image), content_type="image/jpeg", headers={"Cache-Control": "private, max-age=31536000, immutable"}
    )


@router.put("/jobs/{number}/time", response={**WRITES, 200: JobView, 404: Problem}, by_alias=True)
def correct_time(request: HttpRequest, number: int, body: Body[Minutes]) -> Any:
    """Say how long the job took, where the clock is wrong."""
    times.correct(find_job(number), body, author(request))
    return answer(worked_out(find_job(number)).view)


@router.post("/jobs/{number}/close", response={**WRITES, 200: JobView, 404: Problem}, by_alias=True)
def hand_over(request: HttpRequest, number: int, body: Body[Close]) -> Any:
    """Close the job: as proven, or with the reason why it is closed unproven. The next reading opens it again."""
    view = close_job(find_job(number), body.reason, author(request)).view
    paper.keep_printed(find_job(number))
    return answer(view)


@router.get("/jobs/{number}/papers/{which}.pdf", response={**READS, 404: Problem}, include_in_schema=False)
def paper_pdf(request: HttpRequest, number: int, which: Which, size: Size | None = None) -> Any:
    """A paper of the job as PDF: for the customer, or for the file."""
    made = paper.pdf(find_job(number), which, size)
    return HttpResponse(
        made,
        content_type="application/pdf",
        headers={"Content-Disposition": f'inline; filename="job-{number}-{which}.pdf"'},
    )


@router.get("/jobs/{number}/papers/{which}.png", response={**READS, 404: Problem}, include_in_schema=False)
def paper_picture(
    request: HttpRequest, number: int, which: Which, page: int = 0, at: int | None = None, size: Size | None = None
) -> Any:
    """A page of it as a picture. at: the job's entries, so that a browser never shows an older one."""
    pages = paper.pictures(find_job(number), which, size)
    return HttpResponse(pages[min(max(page, 0), len(pages) - 1)], content_type="image/png")
