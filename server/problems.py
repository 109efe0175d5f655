"""What is wrong with a request, as the API answers it."""

from dataclasses import dataclass, field

from dianoia.errors import Finding


@dataclass(frozen=True)
class Problem:
    """What is wrong with a request, in words and field by field."""

    message: str
    findings: tuple[Finding, ...] = field(default=())
    by: str = ""
    """Who else has changed the same meanwhile."""
