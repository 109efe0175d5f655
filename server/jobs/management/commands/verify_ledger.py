"""Checks the stored ledger."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from server.jobs import guards, ledger
from server.jobs.models import Entry


class Command(BaseCommand):
    """``manage.py verify_ledger``: exit code 1 and a line for each problem where something was changed."""

    help = "Check every entry of the ledger against its chain, and every job against its entries."

    def handle(self, *args: Any, **options: Any) -> None:
        """Say what is wrong, or the newest hash."""
        found = [*(f"trigger {name} is missing" for name in guards.missing()), *ledger.problems()]
        for line in found:
            self.stdout.write(line)
        if found:
            raise CommandError(f"The ledger does not hold: {len(found)} problem(s).")
        self.stdout.write(f"The ledger holds: {Entry.objects.count()} entries, newest hash {ledger.head()}")
