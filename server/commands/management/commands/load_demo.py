"""Loads the demo depot's jobs, once: nothing is done where jobs are already there."""

import json
from pathlib import Path
from secrets import token_urlsafe
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.core.management.base import BaseCommand

from dianoia.case.load import case_from_json
from dianoia.case.types import Case
from server.jobs.show import show_job
from server.jobs.start import start_job
from server.jobs.zipped import put_samples
from server.ledger.entries import NOBODY, Author
from server.ledger.models import Job
from server.people.roles import Role, add_person

#: Who works at the demo's depot.
PEOPLE: tuple[tuple[str, Role], ...] = (("Ana", "technician"), ("Beppo", "technician"), ("Chiara", "foreman"))


FOREMAN = next(name for name, role in PEOPLE if role == "foreman")


def _kept() -> Path:
    """Where the demo foreman's password stands, for this machine's user alone."""
    return Path(settings.VAR_DIR, "demo-foreman.txt")


def _password() -> str:
    """A new one, kept to be told."""
    made = token_urlsafe(9)
    _kept().touch(mode=0o600)
    _kept().write_text(made, encoding="utf-8")
    return made


def _author(number: int) -> Author:
    """The technicians in turn; nobody where there are none."""
    found = User.objects.filter(username=PEOPLE[number % 2][0]).first()
    return Author(int(found.pk), found.username) if found else NOBODY


def samples_of(case: Case) -> dict[str, bytes]:
    """The samples of a demo case's recordings."""
    folder = Path(settings.BASE_DIR, "demo", "recordings")
    names = {item.recording: folder / f"{item.recording.removeprefix('sha256:')}.parquet" for item in case.recordings}
    return {digest: path.read_bytes() for digest, path in names.items() if path.is_file()}


class Command(BaseCommand):
    """``manage.py load_demo``."""

    help = "Load the demo jobs that are not there yet; into a store with other jobs none."

    def handle(self, *args: Any, **options: Any) -> None:
        """The depot's people, and every case file of demo/cases, in the order of their names."""
        if settings.BENCH and not User.objects.exists():
            for name, role in PEOPLE:
                add_person(name, role, _password() if role == "foreman" else None)
        if settings.BENCH and _kept().is_file():
            self.stdout.write(f"Accounts take the password of {FOREMAN}: {_kept().read_text(encoding='utf-8')}")
        files = sorted(Path(settings.BASE_DIR, "demo", "cases").glob("*.json"))
        cases = [case_from_json(path.read_text(encoding="utf-8")) for path in files]
        there = {job.header["vehicle"]["label"] for job in Job.objects.all()}
        if there and not there & {case.vehicle.label for case in cases}:
            self.stdout.write("Jobs of your own are there: no demo job is added.")
            return
        for number, case in enumerate(cases, start=1):
            label = json.dumps(case.vehicle.label, ensure_ascii=False)
            if case.vehicle.label in there:
                continue
            job = start_job(case, by=_author(number)).job
            put_samples(samples_of(case))
            show_job(job)  # opens at once, the first time too
            self.stdout.write(f"{number} of {len(files)}: {label}, {job.summary['decision']}")
