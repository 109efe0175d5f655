"""Recordings of a job: put there, marked, shown, taken away."""

from dataclasses import dataclass, replace
from io import BytesIO
from pathlib import Path
from typing import Any

from django.db import transaction

from dianoia.case.job import job_of
from dianoia.case.load import from_plain, to_plain
from dianoia.case.recordings import MOST_RECORDINGS, CaseRecording, Mark
from dianoia.case.times import now
from dianoia.errors import RefusedInput, refuse
from dianoia.signals.measure import MeasuredRecording
from dianoia.signals.recording import Event
from dianoia.signals.view import SamplesView, case_columns, samples_view
from server.jobs.stored import case_of
from server.ledger.entries import NOBODY, Author, NewEntry, append, locked
from server.ledger.models import ColumnMemory, Job, Kind
from server.ledger.recordings import NoSpace, keep, path_of, recordings_of, remove
from server.work.imports import Import, imports
from server.work.samples import forget, measured, samples


@dataclass(frozen=True)
class RecordingView:
    """A recording of a job as it is shown."""

    noted: CaseRecording
    """As the case file holds it."""
    shown: SamplesView | None
    """Its signals and figures; None where the samples are not on this server."""
    by: str
    """Who put it to the job."""
    at: str
    """When, by the server's clock."""


def stored(job: Job, digest: str) -> CaseRecording:
    """A job's recording as the case file holds it. Raises RefusedInput."""
    plain = next((item.plain for item in recordings_of(job) if item.plain["recording"] == digest), None)
    if plain is None:
        raise refuse("recording", "a recording of this job", digest)
    found: CaseRecording = from_plain(CaseRecording, plain)
    return found


def views_of(job: Job) -> tuple[RecordingView, ...]:
    """A job's recordings in order."""
    return tuple(_view(item.plain, item.by, item.at) for item in recordings_of(job))


def _view(plain: dict[str, Any], by: str, at: str) -> RecordingView:
    noted: CaseRecording = from_plain(CaseRecording, plain)
    try:
        shown = None if noted.purged else samples_view(_measured(noted.recording, noted.marks))
    except RefusedInput:
        shown = None
    return RecordingView(noted, shown, by, at)


def _measured(digest: str, marks: tuple[Mark, ...]) -> MeasuredRecording:
    return measured(path_of(digest), [Event(mark.at_s, mark.event, mark.note) for mark in marks])


def keep_import(job: Job, made: Import, title: str, marks: tuple[Mark, ...], by: Author = NOBODY) -> None:
    """Put what was read to the job. Raises RefusedInput, and then nothing is kept."""
    read = made.read
    if made.state != "ready" or "recording" not in read:
        raise refuse("import", "a file that was read, with a column to keep", made.state)
    if any(item.plain["recording"] == read["recording"] for item in recordings_of(job)):
        imports.end(made.id)
        return
    noted = CaseRecording(
        recording=read["recording"],
        title=title.strip(),
        rows=read["rows"],
        from_s=read["from_s"],
        to_s=read["to_s"],
        columns=from_plain(CaseRecording, {"recording": read["recording"], "columns": read["kept"]}).columns,
        instrument="simulated" if made.simulated else None,
        taken=now(),
    )
    if marks:
        noted = _with_marks(noted, marks, made.made)
    try:
        keep(made.made, noted.recording)
    except NoSpace as problem:
        raise refuse("file", "room on the server's disk", "too little: free some space, then keep it") from problem
    _append(job, noted, by)
    _remember(read)
    imports.end(made.id)


def _with_marks(noted: CaseRecording, marks: tuple[Mark, ...], path: Path) -> CaseRecording:
    """The recording with other marks, and its figures measured again."""
    for mark in marks:
        if not noted.from_s <= mark.at_s <= noted.to_s:
            raise refuse("marks", f"moments from 0 to {noted.to_s:g} s", f"{mark.at_s:g} s")
    ordered = tuple(sorted(marks, key=lambda mark: mark.at_s))
    found = measured(path, [Event(mark.at_s, mark.event, mark.note) for mark in ordered])
    return replace(noted, marks=ordered, columns=case_columns(found))


@transaction.atomic
def _append(job: Job, noted: CaseRecording, by: Author) -> None:
    job = locked(job)
    if len(recordings_of(job)) >= MOST_RECORDINGS:
        raise refuse("recording", f"at most {MOST_RECORDINGS} recordings of a job", "one more")
    append(job, [NewEntry(Kind.RECORDING, {"recording": to_plain(noted)})], by)
    job.save(update_fields=["entries"])


def _remember(read: dict[str, Any]) -> None:
    """What the columns of this source were kept as, for the next file of the same tool."""
    headings = {column["place"]: column["heading"] for column in read["columns"]}
    kept = {headings[one["place"]]: {name: one[name] for name in ("signal", "of", "unit")} for one in read["chosen"]}
    ColumnMemory.objects.update_or_create(source=read["source"], defaults={"columns": kept})


def remembered() -> dict[str, Any]:
    """Source -> what its columns were kept as, of the newest sources."""
    return {row.source: row.columns for row in ColumnMemory.objects.order_by("-updated")[:200]}


def mark(job: Job, digest: str, marks: tuple[Mark, ...], by: Author = NOBODY) -> None:
    """Set a recording's marks; its figures are measured again. Raises RefusedInput."""
    noted = stored(job, digest)
    if noted.purged:
        raise refuse("recording", "a recording whose samples are kept", "one whose samples were removed")
    changed = _with_marks(noted, marks, path_of(digest))
    if changed.marks == noted.marks:
        return
    plain = to_plain(changed)
    body = {"recording": digest, "marks": plain.get("marks", []), "columns": plain["columns"]}
    with transaction.atomic():
        job = locked(job)
        append(job, [NewEntry(Kind.MARKS, body)], by)
        job.save(update_fields=["entries"])


def purge(job: Job, digest: str, reason: str, copies: list[Path], by: Author = NOBODY) -> list[Path]:
    """Remove the samples of a recording that was made by mistake; hash and figures stay, marked. Returns the folders of copies that
    keep them. Raises RefusedInput.
    """
    noted = stored(job, digest)
    if not reason.strip():
        raise refuse("reason", "why the samples are removed", "nothing")
    if not noted.purged:
        with transaction.atomic():
            job = locked(job)
            append(job, [NewEntry(Kind.PURGED, {"recording": digest, "reason": reason.strip()[:300]})], by)
            job.save(update_fields=["entries"])
    forget(path_of(digest))
    return remove(digest, copies)


def import_order(job: Job, chosen: list[dict[str, Any]] | None = None) -> dict[str, Any]:
    """What the reading process is told of a job."""
    known = job_of(case_of(job))
    sensor = known.address if known.bank and known.position else None
    return {"chosen": chosen, "sensor": sensor, "remembered": {} if chosen is not None else remembered()}


def table_file(digest: str, kind: str) -> bytes:
    """A recording as CSV or JSON for other programs. Raises RefusedInput."""
    from dianoia.signals.keep import table_of  # polars is loaded when the first recording is looked at

    table, made = table_of(samples(path_of(digest))), BytesIO()
    if kind == "csv":
        table.write_csv(made)
    else:
        table.write_json(made)
    return made.getvalue()
