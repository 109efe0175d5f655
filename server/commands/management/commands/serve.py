"""Serves the application."""

from functools import partial
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from server.ledger.forgetting import empty_log
from server.ledger.nightly import copy_nightly
from server.ledger.store_lock import hold
from server.people.bench import is_loopback
from server.people.tidying import tidy
from server.serving import server
from server.work import diagnosis_tasks
from server.work.memory import keep_heaps_few
from server.work.processes import pool


class Command(BaseCommand):
    """``manage.py serve [--listen ADDRESS:PORT]``. The ledger's guards have to be there; a bench listens to this machine only."""

    help = "Serve the application (waitress)."
    requires_system_checks = "__all__"

    def add_arguments(self, parser: CommandParser) -> None:
        """Where to listen, and with how many threads."""
        parser.add_argument("--listen", default="127.0.0.1:8000")
        parser.add_argument("--threads", type=int, default=24)

    def handle(self, *args: Any, **options: Any) -> None:
        """Raises CommandError for a bench that others could reach."""
        host = options["listen"].rsplit(":", 1)[0]
        if settings.BENCH and not is_loopback(host):
            raise CommandError(
                "DIANOIA_BENCH serves this machine only: listen to 127.0.0.1, or leave it out and people sign in."
            )
        self.check(databases=["default"])
        running = hold()  # kept until the process ends
        copy_nightly((tidy, empty_log))
        keep_heaps_few()
        pool.start(settings.WORKERS, partial(diagnosis_tasks.begin, settings.ENGINE_BYTES // max(settings.WORKERS, 1)))
        from server.wsgi import application

        with running:
            server(application, options["listen"], options["threads"]).run()
