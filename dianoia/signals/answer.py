"""What is told of a recording: ``dianoia-figures/1``."""

from typing import Any

from dianoia.signals.figures.figure import rounded
from dianoia.signals.measure import Measured, MeasuredRecording
from dianoia.signals.recording import Event

FORMAT = "dianoia-figures/1"
#: Base unit of a signal's figures.
_BASE = {"mA": "A", "%": "ratio", "Ω": "ohm", "": "ratio"}


def figures_plain(measured: MeasuredRecording, source: str) -> dict[str, Any]:
    """A measured recording as the format's JSON."""
    recording = measured.recording
    return {
        "format": FORMAT,
        "source": source,
        "rows": recording.rows,
        "from_s": rounded(recording.from_s),
        "to_s": rounded(recording.to_s),
        "signals": [_signal(one) for one in measured.traces],
        "unknown_columns": list(recording.unknown),
        "events": [_event(event) for event in measured.events],
        "faults": [],
    }


def _event(event: Event) -> dict[str, Any]:
    return {"at_s": rounded(event.at_s), "event": event.event, **({"note": event.note} if event.note else {})}


def _signal(measured: Measured) -> dict[str, Any]:
    trace, timing, figures = measured.trace, measured.timing, measured.figures
    untold = [figure for figure in figures if not figure.told]
    return {
        "column": trace.column,
        "signal": trace.signal,
        "of": trace.of,
        "unit": base_unit(measured),
        "samples": len(trace.values),
        "rate_hz": rounded(1.0 / timing.step_s) if timing.step_s else None,
        "figures": {figure.name: rounded(figure.value) for figure in figures},
        "cannot_tell": [figure.name for figure in untold],
        "because": {figure.name: figure.reason for figure in untold},
        "errors": {figure.name: rounded(figure.error) for figure in figures if figure.error is not None},
        "stretches": {
            figure.name: [rounded(figure.from_s), rounded(figure.to_s)]
            for figure in figures
            if figure.from_s is not None
        },
        "gaps": [[rounded(start), rounded(end)] for start, end in timing.spacing.gaps[:100]],
        "left_out": trace.bad,
    }


def base_unit(measured: Measured) -> str:
    """Unit of a trace's figures that are values of the signal."""
    row = measured.trace.row
    if row.vocabulary:
        return ""
    return "%" if row.id == "o2" else _BASE.get(row.unit, row.unit)


def figures_text(measured: MeasuredRecording, source: str) -> str:
    """A measured recording as lines of text."""
    recording = measured.recording
    lines = [f"{source}: {recording.rows:,} rows, {recording.from_s:g} to {recording.to_s:g} s"]
    for one in measured.traces:
        unit, trace = base_unit(one), one.trace
        of = f"{trace.of} " if trace.of else ""
        lines.append(f"{of}{trace.row.label} ({trace.column}): {len(trace.values):,} samples, in {unit or 'words'}")
        lines += [f"  {figure.name:18} {_told(figure.value, figure.error)}" for figure in one.figures if figure.told]
        lines += [f"  {figure.name:18} cannot tell: {figure.reason}" for figure in one.figures if not figure.told]
    lines += [f"at {event.at_s:g} s: {event.event} {event.note}".rstrip() for event in measured.events]
    if recording.unknown:
        lines.append("Columns left out: " + ", ".join(recording.unknown))
    return "\n".join(lines)


def _told(value: float | None, error: float | None) -> str:
    if value is None:
        return "never"
    return f"{value:.4g}" + (f" ± {error:.2g}" if error is not None else "")
