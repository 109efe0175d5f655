"""Recordings of a job as its case file holds them: what was recorded, its marks and figures. The samples are in a file of their own."""

from dataclasses import dataclass, field
from typing import Annotated, Literal

from pydantic import Field

from dianoia.case.strict import STRICT

#: So many recordings at one job, columns of a recording, and marks on it.
MOST_RECORDINGS, MOST_COLUMNS, MOST_MARKS = 40, 60, 100
#: The hash of a recording's samples.
RecordingHash = Annotated[str, Field(pattern=r"^sha256:[0-9a-f]{64}$")]
Seconds = Annotated[float, Field(ge=0, le=10_000_000, allow_inf_nan=False)]
MarkName = Literal["start", "rich", "lean", "snap", "fuel-cut", "fresh-air", "unplugged", "plugged", "wiggle", "note"]


@dataclass(frozen=True, kw_only=True)
class OfRecording:
    """Of a reading whose figures were read off a recording."""

    recording: RecordingHash | None = None
    """Hash of the samples; None for figures that were typed."""
    from_s: Seconds | None = None
    """Start of the stretch they were read off; None for all of it."""
    to_s: Seconds | None = None
    """End of that stretch."""


@dataclass(frozen=True, kw_only=True)
class Mark:
    """What was done at a moment of a recording."""

    __pydantic_config__ = STRICT
    at_s: Seconds
    """Seconds since the recording's start."""
    event: MarkName
    note: Annotated[str, Field(max_length=200)] = ""


@dataclass(frozen=True, kw_only=True)
class RecordedColumn:
    """One signal of a recording."""

    __pydantic_config__ = STRICT
    column: Annotated[str, Field(max_length=200)]
    """Heading in the source."""
    signal: Annotated[str, Field(max_length=40)]
    of: Annotated[str, Field(max_length=60)] | None = None
    """Sensor by bank and position, or the point that a scope's lead lies on; None where it belongs to the whole engine."""
    unit: Annotated[str, Field(max_length=10)] = ""
    """Unit of its figures."""
    samples: Annotated[int, Field(ge=0)] = 0
    rate_hz: Annotated[float, Field(ge=0, allow_inf_nan=False)] | None = None
    """Fresh values a second."""
    figures: dict[str, Annotated[float, Field(allow_inf_nan=False)]] = field(default_factory=dict)
    """Figures in base units."""
    never: Annotated[tuple[str, ...], Field(max_length=60)] = ()
    """Figures of what never happened."""
    cannot_tell: Annotated[tuple[str, ...], Field(max_length=60)] = ()
    """Figures that the recording cannot tell."""


@dataclass(frozen=True, kw_only=True)
class CaseRecording:
    """A recording of a job."""

    __pydantic_config__ = STRICT
    recording: RecordingHash
    """Hash of its samples' file."""
    title: Annotated[str, Field(max_length=120)] = ""
    rows: Annotated[int, Field(ge=0)] = 0
    """Rows of the source."""
    from_s: float = 0.0
    to_s: Annotated[float, Field(ge=0, allow_inf_nan=False)] = 0.0
    """Last moment, in seconds since the start."""
    columns: Annotated[tuple[RecordedColumn, ...], Field(max_length=MOST_COLUMNS)] = ()
    marks: Annotated[tuple[Mark, ...], Field(max_length=MOST_MARKS)] = ()
    instrument: Literal["simulated"] | None = None
    """Whether a simulated instrument recorded it; None for a real one."""
    taken: Annotated[str, Field(max_length=40)] | None = None
    """When it was put to the job, ISO 8601."""
    purged: Annotated[str, Field(max_length=300)] | None = None
    """Why its samples were removed; None while they are kept."""
