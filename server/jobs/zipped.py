"""A job as one file: its case and its recordings."""

import json
from io import BytesIO
from zipfile import ZIP_DEFLATED, ZIP_STORED, ZipFile

from dianoia.case.load import to_plain
from server.jobs.stored import case_of
from server.ledger.models import Job
from server.ledger.recordings import path_of


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
