"""Puts a copy of the store back."""

from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser

from server.ledger import copies
from server.ledger.store_lock import is_running


class Command(BaseCommand):
    """``manage.py restore FILE``: with the server stopped."""

    help = "Put a copy in the place of the store; what was there is copied first."

    def add_arguments(self, parser: CommandParser) -> None:
        """The copy."""
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        """Raises CommandError for a file that is no whole copy; then nothing was changed."""
        if is_running():
            raise CommandError("The server is running on this store: stop it first. Nothing was changed.")
        try:
            before = copies.put_back(options["file"])
        except copies.BadCopy as problem:
            raise CommandError(f"{problem} Nothing was changed.") from problem
        call_command("migrate", verbosity=0)
        call_command("verify_ledger", stdout=self.stdout)
        self.stdout.write(f"{options['file'].name} is back." + (f" What was there before: {before}" if before else ""))
