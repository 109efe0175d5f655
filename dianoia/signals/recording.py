"""What a recording is: traces of known signals, each with its own times."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from dianoia.signals.known import SignalRow, signals

Samples = NDArray[np.float64]


@dataclass(frozen=True, eq=False, slots=True)
class Trace:
    """One signal over time."""

    column: str
    """Heading in the source."""
    signal: str
    """Name of the live value, or ``volts`` and ``amps`` of a scope."""
    of: str | None
    """Sensor by bank and position (``B1S1``), or the point a scope's lead lies on; None where it belongs to the whole engine."""
    at_s: Samples
    """Seconds since the recording's start, rising, shape (n,)."""
    values: Samples
    """In the signal's unit, or the index of its word, shape (n,); finite."""
    bad: int = 0
    """Cells of the source that were no value of this signal."""

    @property
    def row(self) -> SignalRow:
        """What it is."""
        return signals()[self.signal]

    @property
    def name(self) -> str:
        """Its name in a kept file: signal and sensor."""
        return f"{self.signal}|{self.of or ''}"

    def gap_before(self, place: int) -> float:
        """Seconds from the sample before to one; 0 for the first."""
        return float(self.at_s[place] - self.at_s[place - 1]) if place > 0 else 0.0

    def between(self, from_s: float, to_s: float) -> "Trace":
        """The stretch from one moment to another, both included."""
        first, last = np.searchsorted(self.at_s, (from_s, np.nextafter(to_s, np.inf)))
        return Trace(self.column, self.signal, self.of, self.at_s[first:last], self.values[first:last], self.bad)


@dataclass(frozen=True, slots=True)
class Event:
    """Something that happened while a recording ran."""

    at_s: float
    event: str
    """``start``, ``closed-loop``, ``latched-off``; or a mark: ``rich``, ``lean``, ``snap``, ``fuel-cut``, ``note`` ..."""
    note: str = ""
    error_s: float = 0.0
    """How much earlier it may have been."""


@dataclass(frozen=True, eq=False, slots=True)
class Recording:
    """Traces of one file, in the order of its columns."""

    traces: tuple[Trace, ...]
    rows: int
    """Rows of the source."""
    unknown: tuple[str, ...] = ()
    """Headings that were left out."""
    marks: tuple[Event, ...] = field(default=())
    """What a person marked."""

    @property
    def from_s(self) -> float:
        """First moment of any trace."""
        return min((float(trace.at_s[0]) for trace in self.traces if len(trace.at_s)), default=0.0)

    @property
    def to_s(self) -> float:
        """Last moment of any trace."""
        return max((float(trace.at_s[-1]) for trace in self.traces if len(trace.at_s)), default=0.0)

    def find(self, signal: str, of: str | None = None) -> Trace | None:
        """The trace of a signal; of None: the first one of that signal."""
        return next((one for one in self.traces if one.signal == signal and of in (None, one.of)), None)
