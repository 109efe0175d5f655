"""Every error the core raises on purpose.

DianoiaError
  RefusedInput (also ValueError)   one or more findings, each naming the field and what was expected
  BrokenTable                      a data file of the core is wrong; the message says where
"""

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Finding:
    """One thing that is wrong with an input."""

    field: str
    """Where, as a path (``readings[2].value``); empty for the input as a whole."""
    expected: str
    """What would have been right."""
    found: str
    """What was there, as text."""

    def __str__(self) -> str:
        place = f"{self.field}: " if self.field else ""
        return f"{place}expected {self.expected}; found {self.found}"


class DianoiaError(Exception):
    """Root of the core's errors."""


class RefusedInput(DianoiaError, ValueError):
    """Input that cannot be used. Carries every finding, not only the first."""

    def __init__(self, findings: Sequence[Finding]) -> None:
        self.findings = tuple(findings)
        super().__init__("\n".join(str(finding) for finding in self.findings))

    def __reduce__(self) -> tuple[type["RefusedInput"], tuple[tuple[Finding, ...]]]:
        return RefusedInput, (self.findings,)


class BrokenTable(DianoiaError):
    """A data file shipped with the core does not fit its schema."""


def refuse(field: str, expected: str, found: object) -> RefusedInput:
    """A RefusedInput with a single finding; ``found`` is shortened for display."""
    text = found if isinstance(found, str) else repr(found)
    shown = text if len(text) <= 60 else f"{text[:57]}..."
    return RefusedInput([Finding(field, expected, shown or "nothing")])
