"""The app of the stored jobs."""

from django.apps import AppConfig
from django.db.models.signals import post_migrate


class JobsConfig(AppConfig):
    """Installs the guards of the ledger after every migration."""

    name = "server.jobs"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Connect what happens after a migration."""
        from server.jobs import guards

        post_migrate.connect(guards.install, sender=self, dispatch_uid="ledger-guards")
