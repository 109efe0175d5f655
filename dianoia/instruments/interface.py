"""What an instrument offers, whatever stands behind it: single readings, streams of samples, frames, and a scan tool's commands."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Protocol


@dataclass(frozen=True, slots=True)
class Display:
    """What an instrument shows at one moment."""

    value: Any
    """As a person would type it: text, or text by name where an instrument shows several figures."""
    state: Mapping[str, Any]
    """The state it was taken in, by the names of a case file's reading."""


@dataclass(frozen=True, slots=True)
class Channel:
    """One signal of a stream."""

    name: str
    """Column heading, unit in brackets."""
    signal: str
    """Name of the live value (``sensor_voltage``), or of the points a scope's channel lies across."""
    of: str | None
    """Sensor by bank and position (``B1S1``); None where the value belongs to the whole engine."""
    unit: str
    """V, A, ohm, mA, %, s, or empty for a ratio or a word."""


@dataclass(frozen=True, slots=True)
class Row:
    """One row of a stream."""

    at_s: float
    """Seconds since the recording began."""
    values: Sequence[float | str | None]
    """One for each channel; None where the instrument shows nothing."""


@dataclass(frozen=True, slots=True)
class Frame:
    """One frame on a CAN bus."""

    at_s: float
    """Seconds since the recording began, at the frame's end."""
    can_id: int
    """Extended identifier, 29 bits."""
    data: bytes
    """Up to 8 bytes; empty for an error frame."""
    error: bool = False
    """Whether the controller saw an error frame instead."""


class ReadingSource(Protocol):
    """Takes single readings: a meter, a lamp, a clamp, a scan tool's live value."""

    def read(self, probe: Mapping[str, Any], span: bool = False) -> Display:
        """What a probe (a case file's reading without its value) shows now.

        span: a value that moves is given from lowest to highest. Raises RefusedInput where the probe cannot be taken.
        """


class SampleSource(Protocol):
    """Records values in time."""

    @property
    def channels(self) -> Sequence[Channel]:
        """Its signals, in the order of a row's values."""

    @property
    def rate_hz(self) -> float:
        """Rows a second."""

    def samples(self, seconds: float) -> Iterator[Row]:
        """Rows over so many seconds, in the order of time."""


class FrameSource(Protocol):
    """Records a CAN bus."""

    def frames(self, seconds: float) -> Iterator[Frame]:
        """Frames over so many seconds, in the order of time."""


class ScanTool(Protocol):
    """Asks the module."""

    def codes(self) -> Sequence[Mapping[str, str]]:
        """Codes with status and failure type."""

    def monitors(self) -> Mapping[str, str]:
        """Monitor -> ``complete`` or ``incomplete``."""

    def clear_codes(self) -> None:
        """Clear codes, monitors and learnt values."""

    def command(self, name: str, on: bool) -> None:
        """Begin or end a routine of the module (``heater-commanded``)."""
