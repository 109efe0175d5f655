"""Copies the store."""

import sqlite3
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from server.ledger import copies


class Command(BaseCommand):
    """``manage.py backup``."""

    help = "Copy the store while it is in use, check the copy, and remove copies that are too old."

    def handle(self, *args: Any, **options: Any) -> None:
        """Raises CommandError where no copy could be taken."""
        if not copies.store_path().exists():
            raise CommandError("There is no store yet.")
        try:
            self.stdout.write(f"Copied to {copies.copy_now()}")
        except (copies.BadCopy, OSError, sqlite3.Error) as problem:
            raise CommandError(f"No copy was taken: {problem}") from problem
