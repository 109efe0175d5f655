"""All figures of a recording."""

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

from dianoia.signals.events import closed_at, events_of, ran_before, start_of
from dianoia.signals.figures.figure import Figure, cannot_tell, extent
from dianoia.signals.figures.heater import heater_figures
from dianoia.signals.figures.known import figure_rows
from dianoia.signals.figures.nox import gas_figures, status_figures
from dianoia.signals.figures.pairs import pair_figures, partner_of
from dianoia.signals.figures.switching import switching_figures
from dianoia.signals.figures.wave import wave_figures
from dianoia.signals.figures.wideband import wideband_figures
from dianoia.signals.recording import Event, Recording, Trace
from dianoia.signals.timing import Spacing, Timing, spacing_of, timing_of

#: Samples that a trace needs to be measured.
FEWEST = 2


@dataclass(frozen=True, slots=True)
class Measured:
    """A trace with its figures."""

    trace: Trace
    timing: Timing
    figures: tuple[Figure, ...]
    """In base units."""


@dataclass(frozen=True, slots=True)
class MeasuredRecording:
    """A recording with all figures."""

    recording: Recording
    traces: tuple[Measured, ...]
    events: tuple[Event, ...]


def measure(recording: Recording) -> MeasuredRecording:
    """Figures of every trace, and what happened meanwhile."""
    spacings: dict[int, Spacing] = {}
    timings = []
    for trace in recording.traces:
        key = id(trace.at_s)
        if key not in spacings:
            spacings[key] = spacing_of(trace.at_s)
        timings.append(timing_of(trace, spacings[key]))
    events, started = events_of(recording), start_of(recording)

    def measured(trace: Trace, timing: Timing) -> Measured:
        partner, _ = partner_of(trace, recording)
        other = None if partner is None else timings[recording.traces.index(partner)]
        figures = _figures(trace, timing, recording, events, started)
        if len(trace.values) >= FEWEST:
            figures += pair_figures(trace, timing, recording, other)
        return Measured(trace, timing, tuple(figure.scaled(_scale(figure, trace)) for figure in figures))

    with ThreadPoolExecutor(2) as pool:  # numpy lets others run while it goes through a long trace
        found = list(pool.map(measured, recording.traces, timings))
    latched = [
        Event(round(figure.from_s or 0.0, 3), "latched-off", one.trace.of or "")
        for one in found
        for figure in one.figures
        if figure.name == "latched_off_s" and figure.value is not None
    ]
    return MeasuredRecording(recording, tuple(found), tuple(sorted((*events, *latched), key=lambda event: event.at_s)))


def _figures(
    trace: Trace, timing: Timing, recording: Recording, events: Sequence[Event], started: Event | None
) -> list[Figure]:
    """Figures of one trace, in the signal's unit."""
    if len(trace.values) < FEWEST:
        return [cannot_tell("min", "fewer than two samples"), cannot_tell("max", "fewer than two samples")]
    if trace.signal == "sensor_voltage":
        return switching_figures(trace, timing, events, started, ran_before(recording))
    if trace.signal in ("cell_current", "lambda"):
        return wideband_figures(trace, timing, events)
    if trace.signal in ("heater_current", "amps"):
        return [*extent(trace, timing), *heater_figures(trace, timing, recording, started)]
    if trace.signal == "volts":
        return wave_figures(trace, timing, recording)
    if trace.signal == "nox_status":
        return status_figures(trace, timing, started)
    if trace.signal in ("nox", "o2"):
        return gas_figures(trace, timing, events, recording)
    if trace.signal == "loop":
        return [_closed_loop(trace, timing, started)]
    return [] if trace.row.vocabulary else extent(trace, timing)


def _closed_loop(trace: Trace, timing: Timing, started: Event | None) -> Figure:
    """Seconds from the engine's start until the loop was first closed."""
    began, at = started.at_s if started else float(trace.at_s[0]), closed_at(trace)
    if at is not None and at <= trace.at_s[0]:
        return cannot_tell("closed_loop_s", "the loop was closed when the recording began")
    return Figure(
        "closed_loop_s", None if at is None else at - began, timing.step_s, began, at or float(trace.at_s[-1])
    )


def _scale(figure: Figure, trace: Trace) -> float:
    """Base units a unit: of a figure in the signal's own unit that of the signal."""
    return trace.row.base if figure_rows()[figure.name].unit == "signal" else 1.0
