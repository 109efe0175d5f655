"""Times as logs write them: seconds, milliseconds, clock times, dates."""

import re
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from dianoia.signals.recording import Samples

_CLOCK = re.compile(r"(?:.*[ T])?(\d{1,2}):(\d{2})(?::(\d{2}(?:[.,]\d+)?))?(?:[:.](\d{3}))?\s*(?:Z|[+-]\d\d:?\d\d)?")
_MINUTES = re.compile(r"(\d{1,3}):(\d{2}[.,]\d+)")
_DAY_S = 86_400.0
#: Numbers above this are milliseconds since 1970, and above a thousand times this microseconds.
_EPOCH_MS = 1e11


def seconds_of(text: str | None) -> float:
    """Seconds since midnight (``12:03:04.5``), or since the log's start (``03:04.5``); NaN for what is no clock time.

    >>> seconds_of("2026-12-02 00:01:02,5"), seconds_of("01:02.5")
    (62.5, 62.5)
    """
    cell = (text or "").strip()
    if found := _MINUTES.fullmatch(cell):
        return int(found[1]) * 60 + float(found[2].replace(",", "."))
    found = _CLOCK.fullmatch(cell)
    if not found:
        return float("nan")
    seconds = float((found[3] or "0").replace(",", ".")) + (int(found[4]) / 1000 if found[4] else 0.0)
    return int(found[1]) * 3600 + int(found[2]) * 60 + seconds


def over_midnight(at_s: "Samples") -> "Samples":
    """Clock times that go on counting over midnight."""
    import numpy as np

    back = np.flatnonzero(np.diff(at_s) < -0.5 * _DAY_S) + 1
    if len(back) == 0:
        return at_s
    days = np.zeros(len(at_s))
    days[back] = 1.0
    return at_s + np.cumsum(days) * _DAY_S


def in_seconds(numbers: "Samples", factor: float | None) -> "Samples":
    """Numbers of a time column in seconds. factor: seconds a unit, None where no unit is said."""
    if factor is not None:
        return numbers if factor == 1.0 else numbers * factor
    first = numbers[0] if len(numbers) else 0.0
    if first > 1000 * _EPOCH_MS:
        return numbers * 1e-6
    return numbers * 1e-3 if first > _EPOCH_MS else numbers
