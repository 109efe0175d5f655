"""Curves of a recording as a picture for paper: lines told apart by their dashes, events as upright lines."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from xml.sax.saxutils import escape

from dianoia.signals.levels import levels_of
from dianoia.signals.measure import MeasuredRecording
from dianoia.signals.recording import Event, Trace
from dianoia.signals.view import EVENT_WORDS

#: Signals that are printed, the most telling first, and so many plots at most.
_PRINTED = (
    "sensor_voltage",
    "cell_current",
    "lambda",
    "volts",
    "nox",
    "heater_current",
    "amps",
    "nox_status",
    "short_trim",
)
_MOST_PLOTS = 3
#: Sizes in units of the picture, whose width is that of an A4 sheet's text (174 mm); text of 22 is 8 points and more.
_WIDTH, _HEIGHT, _LEFT, _TEXT, _GAP = 1000.0, 170.0, 90.0, 22, 64.0
_POINTS = 700
_DASHES = ("", " stroke-dasharray='9 4'", " stroke-dasharray='2 3'", " stroke-dasharray='9 3 2 3'")


@dataclass(frozen=True)
class _Frame:
    """Where a plot lies."""

    top: float
    from_s: float
    to_s: float
    low: float
    high: float

    def x(self, at_s: float) -> float:
        """A moment's place."""
        return _LEFT + (_WIDTH - _LEFT) * (at_s - self.from_s) / max(self.to_s - self.from_s, 1e-9)

    def y(self, value: float) -> float:
        """A value's place."""
        return self.top + _HEIGHT * (1.0 - (value - self.low) / max(self.high - self.low, 1e-9))


def curves_svg(measured: MeasuredRecording) -> str:
    """The most telling curves of a recording as SVG, black on white; empty where there is none of them."""
    recording, top = measured.recording, 30.0
    parts: list[str] = []
    groups = [
        (name, [trace for trace in recording.traces if trace.signal == name and len(trace.values) > 1])
        for name in _PRINTED
    ]
    for _, traces in [group for group in groups if group[1]][:_MOST_PLOTS]:
        low, high = min(trace.values.min() for trace in traces), max(trace.values.max() for trace in traces)
        room = max((high - low) * 0.08, 0.02)
        frame = _Frame(top, recording.from_s, recording.to_s, float(low - room), float(high + room))
        parts += _plot(frame, traces, measured.events)
        top += _HEIGHT + _GAP
    if not parts:
        return ""
    return (
        f"<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 {_WIDTH:g} {top:g}' fill='none' stroke='black' "
        f"font-family='Libertinus Serif' font-size='{_TEXT}'>{''.join(parts)}</svg>"
    )


def _plot(frame: _Frame, traces: Sequence[Trace], events: Sequence[Event]) -> Iterator[str]:
    row = traces[0].row
    names = ", ".join(
        f"{trace.of or ''} {('solid', 'dashed', 'dotted', 'dash-dotted')[place % 4]}"
        for place, trace in enumerate(traces)
    )
    told = f"{row.label}{f', {row.unit}' if row.unit else ''}" + (
        f" ({names})" if len(traces) > 1 else f" {traces[0].of or ''}"
    )
    yield _words(_LEFT, frame.top - 8, told)
    yield (
        f"<rect x='{_LEFT:g}' y='{frame.top:g}' width='{_WIDTH - _LEFT:g}' height='{_HEIGHT:g}' stroke-width='1' stroke='#888888'/>"
    )
    ends = (frame.low, frame.high) if not row.vocabulary else (0.0, len(row.vocabulary) - 1.0)
    for value in (ends[0] + (ends[1] - ends[0]) * share for share in (0.1, 0.9)):
        yield _words(_LEFT - 8, frame.y(value) + 7, f"{value:.2g}", "end")
    for moment in (frame.from_s, frame.to_s):
        anchor = "start" if moment == frame.from_s else "end"
        yield _words(frame.x(moment), frame.top + _HEIGHT + 24, f"{moment:.4g} s", anchor)
    for place, trace in enumerate(traces):
        yield f"<polyline points='{_points(frame, trace)}' stroke-width='{2.2 if place == 0 else 1.3}'{_DASHES[place % 4]}/>"
    yield from _events(frame, events)


def _points(frame: _Frame, trace: Trace) -> str:
    drawn = levels_of(trace, frame.from_s, frame.to_s, _POINTS)
    found: list[str] = []
    for at_s, low, high in zip(drawn.at_s, drawn.lowest, drawn.highest, strict=True):
        found.append(f"{frame.x(at_s):.1f},{frame.y(low):.1f}")
        if high != low:
            found.append(f"{frame.x(at_s):.1f},{frame.y(high):.1f}")
    return " ".join(found)


def _events(frame: _Frame, events: Sequence[Event]) -> Iterator[str]:
    free = _LEFT
    for event in events:
        x, words = frame.x(event.at_s), EVENT_WORDS.get(event.event, event.event)
        yield f"<line x1='{x:.1f}' x2='{x:.1f}' y1='{frame.top:g}' y2='{frame.top + _HEIGHT:g}' stroke-width='1.2' stroke-dasharray='6 4'/>"
        width = len(words) * _TEXT * 0.5
        if x >= free and x + width < _WIDTH:
            yield f"<rect x='{x + 2:.1f}' y='{frame.top + 2:g}' width='{width:.0f}' height='22' fill='white' stroke='none'/>"
            yield _words(x + 4, frame.top + 20, words)
            free = x + width + 8


def _words(x: float, y: float, text: str, anchor: str = "start") -> str:
    return (
        f"<text x='{x:.1f}' y='{y:.1f}' text-anchor='{anchor}' fill='black' stroke='none'>{escape(text.strip())}</text>"
    )
