"""Lists jobs that were closed as proven and that the program would not call so today."""

from dataclasses import replace
from typing import Any

from django.core.management.base import BaseCommand

from dianoia.answer.answer import answer
from server.jobs.stored import case_of
from server.ledger.models import Job


class Command(BaseCommand):
    """``manage.py list_unproven``. What was printed for them stays as it was; nothing is changed."""

    help = "List jobs closed as proven that today's rules of proof would not close so, with what they lack."

    def handle(self, *args: Any, **options: Any) -> None:
        """A line for each such job, and one for each row of its proof that no reading meets."""
        cases = ((job, case_of(job)) for job in Job.objects.order_by("pk"))
        closed = [(job, case) for job, case in cases if case.closed is not None and not case.of_simulated]
        found = 0
        for job, case in closed:
            if case.closed and not case.closed.reason:
                repair = answer(replace(case, closed=None)).repair
                if repair.state not in ("none", "proven"):
                    found += 1
                    self.stdout.write(f"Job {job.pk}, {case.vehicle.label}: {repair.says}")
                    for item in repair.proof:
                        if item.by is None:
                            self.stdout.write(f"  not shown: {item.what}, should read {item.expect}")
        self.stdout.write(f"{found} of {len(closed)} closed jobs.")
