"""The app that has the store's tables."""

from django.apps import AppConfig
from django.db.models.signals import post_migrate


class LedgerConfig(AppConfig):
    """Installs the guards of the ledger after every migration."""

    name = "server.ledger"
    label = "jobs"  # tables and migrations keep the name that stores know
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Connect what happens after a migration."""
        from server.ledger import guards

        post_migrate.connect(guards.install, sender=self, dispatch_uid="ledger-guards")
