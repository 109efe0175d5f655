"""Figures of air-fuel and wideband sensors: lambda, cell current, hundredths of a volt on the wires."""

from collections.abc import Sequence

import numpy as np

from dianoia.signals.figures.figure import Figure, cannot_tell, extent
from dianoia.signals.figures.switching import SILENCE_S, first_of_each, window_of
from dianoia.signals.recording import Event, Trace
from dianoia.signals.timing import Timing

#: Seconds before a mark that say where the signal stood.
_BEFORE_S = 3.0
#: An answer is larger than so many standard deviations of the noise before the mark.
_NOISES = 5.0
#: Shares of the change at which delay and step response are read.
_BEGUN, _STEP = 0.1, 0.632


def wideband_figures(trace: Trace, timing: Timing, marks: Sequence[Event]) -> list[Figure]:
    """All figures of a signal that follows the mixture in proportion."""
    figures = extent(trace, timing)
    return figures + [figure for mark in first_of_each(marks) for figure in _answer(trace, timing, mark, marks)]


def _answer(trace: Trace, timing: Timing, mark: Event, marks: Sequence[Event]) -> list[Figure]:
    """Change, delay (a tenth of it) and step response (63 % of it, from the delay on)."""
    prefix = mark.event.replace("-", "_")
    change, delay, response = f"{prefix}_change", f"{prefix}_delay_s", f"{prefix}_t63_s"
    began, ended = window_of(mark, marks, trace)
    before = trace.between(began - _BEFORE_S, began)
    part = trace.between(began, ended)
    if len(before.values) < 3 or len(part.values) < 4 or ended - began < SILENCE_S:
        return [cannot_tell(name, "too little was recorded around the mark") for name in (change, delay, response)]
    stood, noise = float(np.median(before.values)), _noise(before.values, timing)
    settled = _settled(part.values, stood, mark)
    went = settled - stood
    figures = [Figure(change, went, noise + timing.resolution, began, ended)]
    if abs(went) < _NOISES * noise:
        return [*figures, Figure(delay, None, None, began, ended), cannot_tell(response, "there was no answer")]
    begun, stepped = (_reached(part, stood + share * went, went > 0) for share in (_BEGUN, _STEP))
    figures.append(Figure(delay, begun - began, timing.step_s, began, begun))
    if stepped - begun < 2 * timing.step_s:
        return [*figures, cannot_tell(response, "sampled too coarsely")]
    return [*figures, Figure(response, stepped - begun, timing.step_s, begun, stepped)]


def _settled(values: np.ndarray, stood: float, mark: Event) -> float:
    """Where it settled after a mark; of a snap the farthest point."""
    if mark.event == "snap":
        return float(values[np.abs(values - stood).argmax()])
    return float(np.median(values[-max(1, len(values) // 3) :]))


def _noise(values: np.ndarray, timing: Timing) -> float:
    return max(float(np.diff(values).std() / np.sqrt(2)) if len(values) > 2 else 0.0, timing.resolution / 2, 1e-9)


def _reached(part: Trace, level: float, up: bool) -> float:
    """When a level is first passed, on the line between two samples."""
    beyond = np.flatnonzero(part.values >= level if up else part.values <= level)
    place = int(beyond[0])
    if place == 0:
        return float(part.at_s[0])
    a, b = part.values[place - 1], part.values[place]
    share = (level - a) / (b - a) if b != a else 1.0
    return float(part.at_s[place - 1] + share * (part.at_s[place] - part.at_s[place - 1]))
