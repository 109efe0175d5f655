"""Marks for parts of the tests."""

from typing import TypeVar

Tests = TypeVar("Tests")


def slow(tests: Tests) -> Tests:
    """Left out of ``make test-core``: whole jobs, many vehicles, the second car. ``make test`` runs them."""
    tests.tags = {"slow"}  # type: ignore[attr-defined]
    return tests
