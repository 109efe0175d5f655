"""Tests. Properties are tried on the same examples everywhere, however slow the machine."""

from hypothesis import settings

settings.register_profile("steady", derandomize=True, deadline=None)
settings.load_profile("steady")
