"""Builds a job's papers: all words come from the core, all setting is in the templates."""

import json
from dataclasses import asdict
from datetime import datetime
from pathlib import Path
from shutil import copytree
from tempfile import TemporaryDirectory
from typing import Any, Literal
from zlib import compress, decompress

import typst

from dianoia.case.times import now
from dianoia.papers.paper import Paper
from dianoia.repair.sheets import torque
from dianoia.repair.time import time_words
from server.jobs.customers import customer_of
from server.jobs.results import papered
from server.jobs.stored import case_of
from server.jobs.workshop import mark, workshop
from server.ledger.models import Job, Photo, Printed
from server.papers.curves import curves_of
from server.work.view_types import JobView

_HERE = Path(__file__).parent / "templates"
_MARK = "mark.png"
Which = Literal["customer", "file"]
Size = Literal["a4", "letter"]
#: On each paper of a job that no real vehicle was measured for.
SIMULATED = "Simulated vehicle. This paper is for training and demonstration; no real vehicle was measured."
_PAPER: dict[Size, str] = {"a4": "a4", "letter": "us-letter"}


def pdf(job: Job, which: Which, size: Size | None = None) -> bytes:
    """A paper as PDF. size: the workshop's own unless said."""
    made = _set(job, which, size)
    assert isinstance(made, bytes)
    return made


def pictures(job: Job, which: Which, size: Size | None = None, ppi: float = 100.0) -> list[bytes]:
    """Its pages as PNG."""
    made: Any = _set(job, which, size, format="png", ppi=ppi)
    return [made] if isinstance(made, bytes) else list(made)


def _set(job: Job, which: Which, size: Size | None, **how: Any) -> Any:
    """Set a paper. The templates read their pictures beside them, so all of it lies in one folder meanwhile."""
    words = words_of(job, size)
    with TemporaryDirectory(prefix="dianoia-paper-") as folder:
        copytree(_HERE, folder, dirs_exist_ok=True)
        for number in (row["number"] for row in words["photos"]):
            Path(folder, f"{number}.jpg").write_bytes(bytes(Photo.objects.get(pk=number).image))
        if words["mark"]:
            Path(folder, words["mark"]).write_bytes(mark())
        for row in words.get("recordings", ()):
            Path(folder, row["file"]).write_text(row.pop("svg"), encoding="utf-8")
        inputs = {"drawing": words.pop("drawing"), "data": json.dumps(words)}
        return typst.compile(str(Path(folder, f"{which}.typ")), root=folder, sys_inputs=inputs, **how)


def words_of(job: Job, size: Size | None = None) -> dict[str, Any]:
    """All that the templates are given. What was printed when the job was closed as proven stays; whose the vehicle is may be removed."""
    page = _PAPER[size or workshop().paper or "a4"]
    words, customer = printed(job) or _worked_out(job), customer_of(job)
    whose = {"customer": customer.name, "plate": customer.plate, "vin": customer.vin}
    return {**words, **whose, "size": page, "mark": _MARK if mark() else ""}


def keep_printed(job: Job) -> None:
    """Keep what the papers say if the job is closed as proven: a later version may say something else, and this was handed over."""
    closed = case_of(job).closed
    if closed is None or closed.reason:
        return
    body = compress(json.dumps(_worked_out(job)).encode())
    Printed.objects.update_or_create(job=job, defaults={"closed_at": closed.at, "body": body})


def printed(job: Job) -> dict[str, Any] | None:
    """What was printed when the job was closed as proven; None where it is not closed so."""
    closed, kept = case_of(job).closed, Printed.objects.filter(job=job).first()
    if closed is None or kept is None or closed.reason or closed.at != kept.closed_at or closed.readings != job.lines:
        return None
    words: dict[str, Any] = json.loads(decompress(bytes(kept.body)))
    return words


def _worked_out(job: Job) -> dict[str, Any]:
    paper, worked = papered(job)
    return _told(job, paper, worked.view)


def _told(job: Job, paper: Paper, view: JobView) -> dict[str, Any]:
    moments = _moments(view)
    return {
        **asdict(paper), "workshop": workshop().name or "",
        "vehicle": view.case.vehicle.label, "codes": " ".join(item.code for item in view.case.codes), "where": view.where,
        "place": view.place, "complaint": view.case.complaint, "title": view.summary.title, "date": _day(moments[-1] if moments else now()),
        "proven": view.verdict.repair.state == "proven", "closed": _closed(view),
        "time": time_words(view.time),
        "worth": view.time.says, "unseen": view.time.unseen,
        "simulated": SIMULATED if view.case.of_simulated else "",
        "family": view.family_label, "number": job.pk, "how_sure": view.how_sure, "because": list(view.verdict.because),
        "before": _before(view), "decided": _decided(view, moments), "open": list(view.still_open), "lines": _lines(view), "figures": _figures(view), "entries": view.entries, "seal": view.seal, "photos": _photos(view),
        "recordings": curves_of(job),
        "proof": [{"what": item.what, "expect": item.expect, "by": item.by} for item in view.verdict.repair.proof],
        "steps": [{"do": step.do, "note": tick.note, "by": tick.by} for tick, step in _ticked(view)], "format": view.case.format,
    }  # fmt: skip


def _before(view: JobView) -> list[dict[str, str]]:
    """What is still to be read before the new sensor goes in."""
    return [
        {"what": words.step, "expect": item.expect, "withdraws": item.withdraws}
        for item, words in zip(view.verdict.before_fitting, view.before_words, strict=True)
    ]


def _decided(view: JobView, moments: list[str]) -> list[dict[str, Any]]:
    """The decisions that were acted on, each with when it stood and on how many readings."""
    return [
        {
            "at": _moment(moments[item.reading]) if moments else "", "readings": f"{item.readings} reading{'s' if item.readings != 1 else ''}",
            "says": item.says, "how_sure": item.how_sure, "because": list(item.because),
        }
        for item in view.verdict.repair.decided
    ]  # fmt: skip


def _closed(view: JobView) -> dict[str, str] | None:
    closed = view.verdict.repair.closed
    return {"by": closed.by, "at": _moment(closed.at), "reason": closed.reason} if closed else None


def _moments(view: JobView) -> list[str]:
    """When each reading was taken, or written where that was not noted."""
    return [line.taken or note.at for line, note in zip(view.case.readings, view.written, strict=True)]


def _ticked(view: JobView) -> list[tuple[Any, Any]]:
    steps = {step.id: step for sheet in view.sheets for step in sheet.steps}
    return [(tick, steps[tick.step]) for tick in view.ticks if tick.done and tick.step in steps]


def _photos(view: JobView) -> list[dict[str, Any]]:
    """Photos with the step or the reading that each is of."""
    does = {step.id: step.do for sheet in view.sheets for step in sheet.steps}
    of_steps = [
        {"number": number, "of": does.get(tick.step, tick.step)} for tick in view.ticks for number in tick.photos
    ]
    return of_steps + [
        {"number": number, "of": f"Reading {place + 1}"}
        for place, numbers in enumerate(view.photos)
        for number in numbers
    ]


def _lines(view: JobView) -> list[dict[str, Any]]:
    """The ledger, each reading with its state, name and time."""
    rows = []
    for place, line in enumerate(view.ledger):
        judged, reading, written = view.verdict.judged[place], view.case.readings[place], view.written[place]
        rows.append({
            "n": place + 1, "value": line.value or "", "where": f"{line.where}; {line.state}" if line.state else line.where,
            "expected": judged.expected, "result": "" if reading.struck else judged.result, "struck": reading.struck or "",
            "by": written.by, "at": _moment(reading.taken or written.at), "note": reading.note or "",
            "instrument": "Simulated instrument." if reading.instrument else "",
        })  # fmt: skip
    return rows


def _figures(view: JobView) -> list[str]:
    """Figures used, and where they come from."""
    sensor = view.case.sensor
    told = []
    if sensor and sensor.heater_ohms_20c:
        told.append("Heater at 20 °C: {:g} to {:g} ohm".format(*sensor.heater_ohms_20c))
    if sensor and sensor.heater_amps:
        told.append("Heater current: {:g} to {:g} A".format(*sensor.heater_amps))
    if sensor and sensor.bias_v is not None:
        told.append(f"Module bias: {sensor.bias_v:g} V")
    if sensor and sensor.torque_nm:
        told.append(f"Fitted with {torque(sensor.torque_nm)}")
    source = sensor.spec_source if sensor and sensor.spec_source else "general figures of such a sensor"
    return [*told, f"From: {source}"]


def _day(moment: str) -> str:
    try:
        return datetime.fromisoformat(moment).strftime("%d %B %Y").lstrip("0")
    except ValueError:
        return moment


def _moment(text: str) -> str:
    try:
        return datetime.fromisoformat(text).strftime("%d %b %H:%M").lstrip("0")
    except ValueError:
        return text
