"""Figures of two sensors of one recording: twins of two banks, front against rear."""

import numpy as np

from dianoia.signals.figures.figure import Figure, cannot_tell
from dianoia.signals.recording import Recording, Samples, Trace
from dianoia.signals.timing import Timing

#: Points of the common grid, seconds of the longest shift looked at, and correlation below which a shift says nothing.
_POINTS, _SHIFT_S, _ALIKE = 20_000, 5.0, 0.6
#: Seconds that two traces need to have in common.
_COMMON_S = 10.0
#: Signals that twins are compared by.
_COMPARED = ("sensor_voltage", "cell_current", "lambda")


def pair_figures(trace: Trace, timing: Timing, recording: Recording, other: Timing | None) -> list[Figure]:
    """Figures of a trace against its twin on the other bank, and of a rear sensor against the front one.

    other: timing of the trace it is compared with; None where there is none.
    """
    partner, kind = partner_of(trace, recording)
    if partner is None or other is None:
        return []
    if kind == "twin":
        return _twins(trace, partner, max(timing.step_s, other.step_s))
    return [_passed_on(trace, partner)]


def partner_of(trace: Trace, recording: Recording) -> tuple[Trace | None, str]:
    """The trace it is compared with, and whether that is its ``twin`` or its ``front``; for twins once, at bank 2."""
    if trace.signal not in _COMPARED or trace.of is None:
        return None, ""
    if trace.of[3] == "2" and (front := recording.find(trace.signal, f"{trace.of[:3]}1")) is not None:
        return front, "front"
    if trace.of[1] == "2" and (twin := recording.find(trace.signal, f"B1{trace.of[2:]}")) is not None:
        return twin, "twin"
    return None, ""


def _twins(trace: Trace, twin: Trace, step_s: float) -> list[Figure]:
    """How alike both move, how much later this one does, and how far it moves in comparison."""
    names = ("twin_correlation", "twin_delay_s", "twin_ratio")
    began, ended = _common(trace, twin)
    if ended - began < _COMMON_S:
        return [cannot_tell(name, "less than ten seconds of both") for name in names]
    count = int(min(_POINTS, max(200.0, (ended - began) / max(step_s / 2, 1e-4))))
    grid = np.linspace(began, ended, count)
    mine, theirs = (np.interp(grid, one.at_s, one.values) for one in (trace, twin))
    spread, ratio = _swing(theirs), cannot_tell(names[2], "the twin stands still")
    if spread > 0:
        ratio = Figure(names[2], _swing(mine) / spread, 0.05 * _swing(mine) / spread + 0.02, began, ended)
    if mine.std() < 1e-6 or theirs.std() < 1e-6:
        return [
            cannot_tell(names[0], "one of them stands still"),
            cannot_tell(names[1], "one of them stands still"),
            ratio,
        ]
    shift, alike = _best_shift(mine, theirs, (ended - began) / (count - 1))
    correlation = Figure(names[0], alike, 2.0 / np.sqrt(max(count * 0.01, 4.0)), began, ended)
    if alike < _ALIKE:
        return [correlation, cannot_tell(names[1], "they do not move alike"), ratio]
    return [correlation, Figure(names[1], shift, step_s, began, ended), ratio]


def _best_shift(mine: Samples, theirs: Samples, step_s: float) -> tuple[float, float]:
    """Seconds by which mine comes later, and the correlation then. Through the frequency domain."""
    count = len(mine)
    a, b = mine - mine.mean(), theirs - theirs.mean()
    size = 1 << (2 * count - 1).bit_length()
    products = np.fft.irfft(np.fft.rfft(a, size) * np.conj(np.fft.rfft(b, size)), size)
    most = min(count - 1, int(_SHIFT_S / step_s))
    shifts = np.arange(-most, most + 1)
    found = products[shifts]
    place = int(found.argmax())
    return float(shifts[place]) * step_s, float(found[place] / (count * a.std() * b.std()))


def _passed_on(trace: Trace, front: Trace) -> Figure:
    """Share of the front sensor's swing that the rear one shows."""
    name, (began, ended) = "passed_on", _common(trace, front)
    if ended - began < _COMMON_S:
        return cannot_tell(name, "less than ten seconds of both")
    mine, theirs = (_swing(one.between(began, ended).values) for one in (trace, front))
    if theirs <= 0:
        return cannot_tell(name, "the front sensor stands still")
    return Figure(name, mine / theirs, 0.05 * mine / theirs + 0.02, began, ended)


def _common(one: Trace, other: Trace) -> tuple[float, float]:
    return float(max(one.at_s[0], other.at_s[0])), float(min(one.at_s[-1], other.at_s[-1]))


def _swing(values: Samples) -> float:
    """From the lowest twentieth to the highest."""
    if len(values) < 2:
        return 0.0
    low, high = np.percentile(values[:: max(1, len(values) // _POINTS)], (5, 95))
    return float(high - low)
