"""The steps of a repair, ticked off: each tick is an entry of the ledger; the newest of a step stands."""

import json
from dataclasses import replace

from django.db import transaction

from dianoia.errors import refuse
from dianoia.repair.sheets import steps_known
from server.jobs.bodies import Tick
from server.jobs.photos import photos_of
from server.ledger.entries import Author, NewEntry, append, locked
from server.ledger.models import Job, Kind
from server.work.view_types import Ticked


def ticks_of(job: Job) -> tuple[Ticked, ...]:
    """The steps of a job as they stand, in the order they were first touched."""
    found: dict[str, Ticked] = {}
    for row in job.ledger.filter(kind=Kind.STEP):
        body = json.loads(row.body)
        found[body["step"]] = Ticked(body["step"], body["done"], body["note"], row.by, row.at)
    for step, numbers in photos_of(job).items():
        found[step] = replace(found.get(step, Ticked(step, False, "", "", "")), photos=numbers)
    return tuple(found.values())


@transaction.atomic
def tick(job: Job, step: str, body: Tick, by: Author) -> tuple[Ticked, ...]:
    """Tick a step off, take the tick back, or note something of it; the same again adds nothing. Raises RefusedInput."""
    if step not in steps_known():
        raise refuse("step", "a step of a repair sheet", step)
    job = locked(job)
    stands = next((item for item in ticks_of(job) if item.step == step), None)
    if stands is None or (stands.done, stands.note) != (body.done, body.note.strip()):
        append(job, [NewEntry(Kind.STEP, {"step": step, "done": body.done, "note": body.note.strip()})], by)
        job.save(update_fields=["entries"])
    return ticks_of(job)
