"""Brings an existing store to the present version."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from server.ledger import copies


class Command(BaseCommand):
    """``manage.py upgrade``: a store that has to change is copied first."""

    help = "Create the store, or bring it to the present version; it is copied before it changes."

    def handle(self, *args: Any, **options: Any) -> None:
        """Copy where there is something to lose, then migrate."""
        executor = MigrationExecutor(connection)
        pending = executor.migration_plan(executor.loader.graph.leaf_nodes())
        if pending and executor.loader.applied_migrations:
            self.stdout.write(f"Copied to {copies.copy_now()} before the upgrade")
        call_command("migrate", verbosity=0)
