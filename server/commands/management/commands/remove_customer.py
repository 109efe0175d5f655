"""Removes a customer's data from a job."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from server.jobs import customers
from server.jobs.stored import JobNotFound, find_job
from server.ledger.forgetting import CopyQuery, copies_with, empty_log, said


class Command(BaseCommand):
    """``manage.py remove_customer NUMBER``: the technical record stays, and that the data was removed is written down."""

    help = "Remove name, plate and VIN from a job; readings and decisions stay."

    def add_arguments(self, parser: CommandParser) -> None:
        """The job's number."""
        parser.add_argument("number", type=int)

    def handle(self, *args: Any, **options: Any) -> None:
        """Raises CommandError for a job that is not there."""
        number = options["number"]
        try:
            customers.remove(find_job(number))
        except JobNotFound as problem:
            raise CommandError(str(problem)) from problem
        self.stdout.write(f"The customer's data of job {number} is removed.")
        self.stdout.write("What was typed into complaint, title and notes stays in the ledger.")
        held = CopyQuery("jobs_customer", "job_id = ? AND name || plate || vin <> ''", number)
        for line in said(empty_log(), copies_with([held])):
            self.stdout.write(line)
