"""A case checked as a whole: its fields, and that the faults it names are listed."""

from dianoia.case import check as fields
from dianoia.case.types import Case
from dianoia.diagnosis.faults.tables import faults
from dianoia.errors import Finding, RefusedInput


def check(case: Case) -> None:
    """Raises RefusedInput with every finding; returns nothing where the case can be diagnosed."""
    fields.check(case)
    _refuse(
        [finding for place in range(len(case.readings)) for finding in _of_fault(case, place, f"readings[{place}].")]
    )


def check_newest(case: Case) -> None:
    """Raises RefusedInput with every finding about the last reading, its fields named without its place; the rest of the
    case was checked before.
    """
    fields.check_newest(case)
    _refuse(_of_fault(case, len(case.readings) - 1, ""))


def _of_fault(case: Case, place: int, at: str) -> list[Finding]:
    reading = case.readings[place]
    named = reading.said_fault
    known = named is None or named in faults()
    return [] if known else [Finding(f"{at}of_fault", "the id of a fault, as suspects and found give it", str(named))]


def _refuse(findings: list[Finding]) -> None:
    if findings:
        raise RefusedInput(findings)
