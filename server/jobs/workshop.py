"""The workshop's settings: one row, given to every job that brings none of its own."""

from dataclasses import replace

from dianoia.case.load import from_plain, to_plain
from dianoia.case.types import Case
from dianoia.case.workshop import Workshop
from server.jobs.models import Workshop as Row


def workshop() -> Workshop:
    """The settings; all unknown before they were first made."""
    row = Row.objects.first()
    settings: Workshop = from_plain(Workshop, row.settings, "workshop") if row else Workshop()
    return settings


def set_workshop(settings: Workshop) -> Workshop:
    """Replace the settings."""
    row = Row.objects.first() or Row()
    row.settings = to_plain(settings)
    row.save()
    return settings


def in_workshop(case: Case) -> Case:
    """The case with the workshop's settings, unless it brings its own."""
    return case if case.workshop else replace(case, workshop=workshop())
