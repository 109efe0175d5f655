"""Removes the samples of a recording that was made by mistake."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from dianoia.errors import RefusedInput
from server.jobs.recordings import purge
from server.jobs.stored import JobNotFound, find_job
from server.ledger.copies import RECORDINGS
from server.ledger.recordings import recordings_of


class Command(BaseCommand):
    """``manage.py purge_recording JOB HASH --reason WHY``."""

    help = "Remove a recording's samples from the store and from this disk's copies. Its hash and figures stay, marked as removed."

    def add_arguments(self, parser: CommandParser) -> None:
        """Job, the first characters of the hash, and why."""
        parser.add_argument("job", type=int)
        parser.add_argument("hash", help="the first eight characters or more, as in the recording's file name")
        parser.add_argument("--reason", required=True)

    def handle(self, *args: Any, **options: Any) -> None:
        """Say which copies keep it. Raises CommandError."""
        start = f"sha256:{options['hash'].removeprefix('sha256:')}"
        folders = [Path(root) / RECORDINGS for root in (settings.BACKUPS, settings.BACKUPS_SECOND) if root]
        try:
            job = find_job(options["job"])
            found = [
                item.plain["recording"] for item in recordings_of(job) if item.plain["recording"].startswith(start)
            ]
            if len(found) != 1:
                raise CommandError(
                    f"Job {job.pk} has {len(found)} recordings whose hash begins with {options['hash']}."
                )
            kept = purge(job, found[0], options["reason"], folders)
        except (RefusedInput, JobNotFound) as problem:
            raise CommandError(str(problem)) from problem
        self.stdout.write(f"Removed {found[0]} from the store and this disk's copies.")
        for folder in kept:
            self.stdout.write(f"Still kept in {folder}: remove it there by hand.")
