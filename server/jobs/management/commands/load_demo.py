"""Loads the demo depot's jobs, once: nothing is done where jobs are already there."""

import json
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.core.management.base import BaseCommand

from dianoia.case.load import case_from_json
from server.jobs import store
from server.jobs.ledger import NOBODY, Author
from server.jobs.models import Job
from server.people.roles import Role, add_person

#: Who works at the demo's depot.
PEOPLE: tuple[tuple[str, Role], ...] = (("Ana", "technician"), ("Beppo", "technician"), ("Chiara", "foreman"))


def _author(number: int) -> Author:
    """The technicians in turn; nobody where there are none."""
    found = User.objects.filter(username=PEOPLE[number % 2][0]).first()
    return Author(int(found.pk), found.username) if found else NOBODY


class Command(BaseCommand):
    """``manage.py load_demo``."""

    help = "Load the demo jobs into an empty database."

    def handle(self, *args: Any, **options: Any) -> None:
        """The depot's people, and every case file of demo/cases, in the order of their names."""
        if settings.BENCH and not User.objects.exists():
            for name, role in PEOPLE:
                add_person(name, role)
        if Job.objects.exists():
            self.stdout.write("Jobs are there already: the demo data is left as it is.")
            return
        files = sorted(Path(settings.BASE_DIR, "demo", "cases").glob("*.json"))
        for number, path in enumerate(files, start=1):
            job = store.create(case_from_json(path.read_text(encoding="utf-8")), by=_author(number)).job
            label = json.dumps(job.header["vehicle"]["label"], ensure_ascii=False)
            self.stdout.write(f"{number} of {len(files)}: {label}, {job.summary['decision']}")
