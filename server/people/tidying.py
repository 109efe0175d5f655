"""What is forgotten of people who came in, or tried to."""

from datetime import timedelta

from axes.models import AccessAttempt, AccessFailureLog, AccessLog
from django.core.management import call_command
from django.utils.timezone import now

#: Tries are kept for so long, for who looks into them.
KEPT = timedelta(days=30)


def tidy() -> None:
    """Forget old tries, and sessions that are over."""
    before = now() - KEPT
    for rows in (AccessAttempt, AccessLog, AccessFailureLog):
        rows.objects.filter(attempt_time__lt=before).delete()
    call_command("clearsessions")
