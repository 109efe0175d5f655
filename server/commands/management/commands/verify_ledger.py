"""Checks the stored ledger."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from server.ledger import copies
from server.ledger.entries import head
from server.ledger.models import Entry
from server.ledger.verification import problems, problems_of_copies, problems_of_heads


class Command(BaseCommand):
    """``manage.py verify_ledger``: exit code 1 and a line for each problem where something was changed."""

    help = "Check every entry of the ledger against its chain, every job, photo and name against its entries, and older copies against the chain."

    def handle(self, *args: Any, **options: Any) -> None:
        """Say what is wrong, or the newest hash."""
        found = [
            *problems(),
            *problems_of_copies(copies.copies()),
            *problems_of_heads(copies.heads_path()),
        ]
        for line in found:
            self.stdout.write(line)
        if found:
            raise CommandError(f"The ledger does not hold: {len(found)} problem(s).")
        self.stdout.write(f"The ledger holds: {Entry.objects.count()} entries, newest hash {head()}")
