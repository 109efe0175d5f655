"""Samples of recordings: files by their hash, beside the store. The ledger says which there have to be."""

import json
import os
import shutil
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.conf import settings

from dianoia.signals.hashing import hash_of
from server.ledger.models import Entry, Job, Kind

#: Bytes that stay free on the disk beside a recording.
RESERVE = 200_000_000


class NoSpace(Exception):
    """The disk is too full for a recording."""


def folder() -> Path:
    """Where samples lie."""
    return Path(settings.VAR_DIR) / "recordings"


def path_of(digest: str, among: Path | None = None) -> Path:
    """The file of a recording. digest: ``sha256:...``; among: a folder of copies, None for the store's own."""
    return (among or folder()) / f"{digest.removeprefix('sha256:')}.parquet"


def has_space(size: int) -> bool:
    """Whether the disk takes so many bytes more."""
    folder().mkdir(parents=True, exist_ok=True)
    return shutil.disk_usage(folder()).free - size > RESERVE


def keep(made: Path, digest: str) -> None:
    """Move a file into the store; the same samples are kept once. Raises NoSpace and OSError."""
    if not has_space(made.stat().st_size):
        raise NoSpace
    made.chmod(0o600)
    made.replace(path_of(digest))


@dataclass(frozen=True)
class StoredRecording:
    """A recording of a job as the case file holds it, with who put it there."""

    plain: dict[str, Any]
    by: str
    at: str


def recordings_of(job: Job) -> list[StoredRecording]:
    """A job's recordings in order, with their newest marks, and what was purged said with it."""
    found: dict[str, StoredRecording] = {}
    for row in job.ledger.filter(kind__in=(Kind.RECORDING, Kind.MARKS, Kind.PURGED)):
        body = json.loads(row.body)
        if row.kind == Kind.RECORDING:
            found[body["recording"]["recording"]] = StoredRecording(body["recording"], row.by, row.at)
            continue
        before = found[body["recording"]]
        changed = (
            {"purged": body["reason"]}
            if row.kind == Kind.PURGED
            else {"marks": body["marks"], "columns": body["columns"]}
        )
        found[body["recording"]] = StoredRecording({**before.plain, **changed}, before.by, before.at)
    return list(found.values())


def wanted(using: str = "default") -> dict[str, tuple[int, bool]]:
    """Hash of each recording that was not purged -> a job that has it, and whether its samples have to be there: those that came with
    a case file may have stayed elsewhere.
    """
    found: dict[str, tuple[int, bool]] = {}
    rows = Entry.objects.using(using).filter(kind__in=(Kind.RECORDING, Kind.PURGED)).order_by("number")
    for row in rows.iterator(chunk_size=500):
        body = json.loads(row.body)
        if row.kind == Kind.PURGED:
            found.pop(body["recording"], None)
        elif not body["recording"].get("purged"):
            digest = body["recording"]["recording"]
            needed = not body.get("imported") or found.get(digest, (0, False))[1]
            found[digest] = (row.job_id, needed)
    return found


def problems_of_recordings(using: str = "default", among: Path | None = None) -> Iterator[str]:
    """Samples that are missing, or are not what was recorded. among: a folder of copies."""
    for digest, (job, needed) in wanted(using).items():
        path = path_of(digest, among)
        short = digest[:19]
        if not path.is_file():
            if needed:
                yield f"recording {short} of job {job} is missing"
        elif hash_of(path) != digest:
            yield f"recording {short} of job {job} is not what was recorded"


def copy_to(target: Path) -> None:
    """Put all samples into a folder of copies: as links on the same disk, otherwise as copies."""
    kept = list(folder().glob("*.parquet")) if folder().is_dir() else []
    if kept:
        target.mkdir(parents=True, exist_ok=True)
    for path in kept:
        goal = target / path.name
        if goal.exists():
            continue
        try:
            os.link(path, goal)
        except OSError:  # another disk
            part = goal.with_suffix(".part")
            shutil.copy2(path, part)
            part.rename(goal)


def put_back_from(source: Path) -> None:
    """Bring back the samples that a folder of copies has and the store has not."""
    kept = list(source.glob("*.parquet")) if source.is_dir() else []
    if kept:
        folder().mkdir(parents=True, exist_ok=True)
    for path in kept:
        if not path_of(path.stem).exists():
            shutil.copy2(path, folder() / path.name)


def remove(digest: str, copies: list[Path]) -> list[Path]:
    """Remove samples from the store and from folders of copies on this machine's disk. Returns the folders that keep them."""
    path_of(digest).unlink(missing_ok=True)
    kept = []
    for among in copies:
        path = path_of(digest, among)
        try:
            if among.is_dir() and among.stat().st_dev == folder().stat().st_dev:
                path.unlink(missing_ok=True)
        except OSError:
            pass
        if path.exists():
            kept.append(among)
    return kept
