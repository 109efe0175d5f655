"""Removes a customer's data from a job."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from server.jobs import customers, store


class Command(BaseCommand):
    """``manage.py remove_customer NUMBER``: the technical record stays, and that the data was removed is written down."""

    help = "Remove name, plate and VIN from a job; readings and decisions stay."

    def add_arguments(self, parser: CommandParser) -> None:
        """The job's number."""
        parser.add_argument("number", type=int)

    def handle(self, *args: Any, **options: Any) -> None:
        """Raises CommandError for a job that is not there."""
        try:
            customers.remove(store.find(options["number"]))
        except store.JobNotFound as problem:
            raise CommandError(str(problem)) from problem
        self.stdout.write(f"The customer's data of job {options['number']} is removed.")
