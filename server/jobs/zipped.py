"""A job as one file: its case and its recordings."""

import json
import zlib
from collections.abc import Mapping
from hashlib import sha256
from io import BytesIO
from pathlib import Path
from tempfile import TemporaryDirectory
from zipfile import ZIP_DEFLATED, ZIP_STORED, BadZipFile, ZipFile

from dianoia.case.load import case_from_json, to_plain
from dianoia.case.types import Case
from dianoia.diagnosis.verdict.check import check
from dianoia.errors import refuse
from dianoia.signals.apart import load_apart
from server.jobs.stored import case_of
from server.ledger.models import Job
from server.ledger.recordings import has_space, path_of

#: Bytes that a zipped job may unpack to.
MOST_UNPACKED = 200_000_000


def unzipped(data: bytes) -> tuple[Case, dict[str, bytes]]:
    """The case of a zipped job, and the samples of its recordings by their hash, all of them checked. Raises RefusedInput."""
    try:
        with ZipFile(BytesIO(data)) as file:
            members = {item.filename: item for item in file.infolist()}
            if sum(item.file_size for item in members.values()) > MOST_UNPACKED:
                raise refuse(
                    "file", f"a zipped job of at most {MOST_UNPACKED // 1_000_000} MB unpacked", "a larger one"
                )
            if "case.json" not in members:
                raise refuse("file", "a zipped job with a case.json", ", ".join(list(members)[:5]) or "nothing")
            case = case_from_json(file.read("case.json").decode())
            found = {}
            for noted in case.recordings:
                name = f"recordings/{noted.recording.removeprefix('sha256:')}.parquet"
                if name in members:
                    found[noted.recording] = file.read(name)
    except (BadZipFile, zlib.error, UnicodeDecodeError, NotImplementedError, RuntimeError) as problem:
        raise refuse("file", "a whole zipped job", f"a damaged one ({problem.__class__.__name__})") from problem
    for digest, samples in found.items():
        if f"sha256:{sha256(samples).hexdigest()}" != digest:
            raise refuse("file", "samples as they were recorded", f"others for {digest[:19]}")
    check(case)
    for samples in found.values():
        _readable(samples)
    return case, found


def _readable(samples: bytes) -> None:
    """Raises RefusedInput where samples cannot be read. It is tried in a process of its own, with its limits."""
    with TemporaryDirectory(prefix="dianoia-") as folder:
        path = Path(folder, "samples")
        path.write_bytes(samples)
        load_apart(path)


def put_samples(found: Mapping[str, bytes]) -> None:
    """Put samples that came with a job into the store. Raises RefusedInput where the disk is too full."""
    for digest, data in found.items():
        if path_of(digest).exists():
            continue
        if not has_space(len(data)):
            raise refuse("file", "room on the server's disk", "too little: free some space, then open it again")
        part = path_of(digest).with_suffix(".part")
        part.touch(mode=0o600)
        part.write_bytes(data)
        part.replace(path_of(digest))


def zipped(job: Job) -> bytes:
    """The case file, and the samples of each recording that is kept. Without them the case opens as well."""
    case, made = case_of(job), BytesIO()
    with ZipFile(made, "w", ZIP_DEFLATED) as file:
        file.writestr("case.json", json.dumps(to_plain(case), indent=1, ensure_ascii=False))
        for noted in case.recordings:
            path = path_of(noted.recording)
            if noted.purged is None and path.is_file():
                file.write(path, f"recordings/{path.name}", ZIP_STORED)
    return made.getvalue()
