"""What a screen and a paper are told of a recording: every label, unit and text of its figures."""

from dataclasses import dataclass

from dianoia.case.recordings import RecordedColumn
from dianoia.signals.answer import base_unit
from dianoia.signals.figures.figure import Figure, rounded
from dianoia.signals.figures.known import figure_rows
from dianoia.signals.measure import Measured, MeasuredRecording
from dianoia.signals.recording import Event

#: Unit of a figure -> how many of them a base unit is.
_PER_BASE = {"%": 100.0}
#: Events in the words of a plot.
EVENT_WORDS = {
    "start": "engine started", "closed-loop": "closed loop", "latched-off": "heater switched off", "rich": "enriched", "lean": "made lean",
    "snap": "throttle snapped", "fuel-cut": "fuel cut", "fresh-air": "fresh air", "unplugged": "unplugged", "plugged": "plugged in",
    "wiggle": "wiggled", "note": "note",
}  # fmt: skip


@dataclass(frozen=True)
class FigureView:
    """A figure as it is shown."""

    name: str
    label: str
    text: str
    """Its value with unit, ``never`` or ``cannot tell``."""
    error: str
    """How far it may be off, with its sign; empty where that is not said."""
    reason: str
    """Why it cannot be told; empty where it can."""
    from_s: float | None
    """Start of the stretch it was read off; None where it was not told."""
    to_s: float | None
    """End of that stretch."""


@dataclass(frozen=True)
class TraceView:
    """A signal of a recording as it is shown."""

    column: str
    """Heading in the source."""
    signal: str
    label: str
    """Sensor and signal in words."""
    of: str | None
    unit: str
    """Unit of its samples."""
    words: tuple[str, ...]
    """Words that it takes, by the sample's value; none for a number."""
    samples: int
    rate_hz: float | None
    """Fresh values a second; None where that is not known."""
    lowest: float
    """Lowest sample, in its unit."""
    highest: float
    """Highest sample, in its unit."""
    left_out: int
    """Cells of the source that were no value."""
    gaps: tuple[tuple[float, float], ...]
    """Spans without a sample, in seconds."""
    figures: tuple[FigureView, ...]


@dataclass(frozen=True)
class EventView:
    """An event on a plot."""

    at_s: float
    event: str
    label: str
    marked: bool
    """Whether a person marked it."""
    note: str = ""


@dataclass(frozen=True)
class SamplesView:
    """A recording's signals and events as they are shown."""

    from_s: float
    to_s: float
    rows: int
    traces: tuple[TraceView, ...]
    events: tuple[EventView, ...]


def samples_view(measured: MeasuredRecording) -> SamplesView:
    """All that is shown of a recording."""
    recording = measured.recording
    events = tuple(_event(event, event in recording.marks) for event in measured.events)
    return SamplesView(
        recording.from_s, recording.to_s, recording.rows, tuple(_trace(one) for one in measured.traces), events
    )


def _event(event: Event, marked: bool) -> EventView:
    return EventView(round(event.at_s, 3), event.event, EVENT_WORDS.get(event.event, event.event), marked, event.note)


def _trace(measured: Measured) -> TraceView:
    trace, row = measured.trace, measured.trace.row
    label = f"{trace.of} {row.label}" if trace.of else row.label
    rate = 1.0 / measured.timing.step_s if measured.timing.step_s else None
    some = len(trace.values) > 0
    return TraceView(
        trace.column,
        trace.signal,
        label,
        trace.of,
        row.unit,
        row.vocabulary,
        len(trace.values),
        rounded(rate),
        float(trace.values.min()) if some else 0.0,
        float(trace.values.max()) if some else 0.0,
        trace.bad,
        measured.timing.spacing.gaps[:200],
        tuple(_figure(figure, measured) for figure in measured.figures),
    )


def _figure(figure: Figure, measured: Measured) -> FigureView:
    row, signal = figure_rows()[figure.name], measured.trace.row
    unit = signal.unit if row.unit == "signal" else row.unit
    scale = 1.0 / signal.base if row.unit == "signal" else _PER_BASE.get(unit, 1.0)
    if not figure.told:
        return FigureView(figure.name, row.label, "cannot tell", "", figure.reason, None, None)
    text = "never" if figure.value is None else _shown(figure.value * scale, unit)
    error = "" if figure.value is None or figure.error is None else f"± {_shown(figure.error * scale, unit, 2)}"
    return FigureView(figure.name, row.label, text, error, "", figure.from_s, figure.to_s)


def _shown(value: float, unit: str, digits: int = 3) -> str:
    """A number as a person writes it.

    >>> _shown(1234.5, "rpm"), _shown(0.0000123, "V", 2)
    ('1230 rpm', '0 V')
    """
    rounded_value = float(f"{value:.{digits}g}")
    text = "0" if abs(rounded_value) < 1e-4 else f"{rounded_value:.6f}".rstrip("0").rstrip(".")
    return f"{text} {unit}".strip() if not unit.startswith("/") else f"{text}{unit}"


def case_columns(measured: MeasuredRecording) -> tuple[RecordedColumn, ...]:
    """A recording's signals and figures as the case file holds them."""
    return tuple(_column(one) for one in measured.traces)


def _column(measured: Measured) -> RecordedColumn:
    trace, told = measured.trace, [figure for figure in measured.figures if figure.told]
    rate = 1.0 / measured.timing.step_s if measured.timing.step_s else None
    return RecordedColumn(
        column=trace.column[:200],
        signal=trace.signal,
        of=trace.of,
        unit=base_unit(measured),
        samples=len(trace.values),
        rate_hz=rounded(rate),
        figures={figure.name: float(f"{figure.value:.6g}") for figure in told if figure.value is not None},
        never=tuple(figure.name for figure in told if figure.value is None),
        cannot_tell=tuple(figure.name for figure in measured.figures if not figure.told),
    )
