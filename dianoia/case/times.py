"""Times as noted, in one form."""

import re
from datetime import UTC, datetime, timedelta

from dianoia.errors import refuse

_DATE = r"\d{4}-\d\d-\d\d"
_FORM = re.compile(rf"({_DATE})(?:[T ](\d\d:\d\d(?::\d\d)?)(?:\.\d+)?(Z|[+-]\d\d:\d\d)?)?")
#: No place on earth is further from UTC; no job is older or newer.
_FURTHEST, _YEARS = timedelta(hours=14), range(1970, 2101)


def one_form(text: str, field: str = "taken") -> str:
    """A date, or a date and time with or without an offset, to the millisecond. Raises RefusedInput naming ``field``.

    >>> one_form("2026-03-14 09:30Z")
    '2026-03-14T09:30:00+00:00'
    """
    match = _FORM.fullmatch(text.strip())
    expected = "a date and time such as 2026-03-14T09:30:00+01:00"
    if not match:
        raise refuse(field, expected, text)
    try:
        time = datetime.fromisoformat(text.strip().replace(" ", "T"))
    except ValueError as problem:
        raise refuse(field, expected, text) from problem
    offset = time.utcoffset() or timedelta()
    if time.year not in _YEARS or abs(offset) > _FURTHEST:
        raise refuse(field, expected, text)
    if not match.group(2):
        return time.date().isoformat()
    return time.isoformat(timespec="milliseconds" if time.microsecond else "seconds")


def now() -> str:
    """This moment, as ``one_form`` writes it."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")
