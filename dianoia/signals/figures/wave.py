"""Figures of a scope's channel: levels, duty, frequency, how the duty ramps, what the supply drops under load."""

import numpy as np

from dianoia.signals.crossings import crossings, times_at
from dianoia.signals.figures.figure import Figure, cannot_tell, extent
from dianoia.signals.recording import Recording, Samples, Trace
from dianoia.signals.timing import Timing

#: Volts between the levels below which a line is steady.
STEADY_V = 0.5
#: Shares of the swing that a change has to pass.
_LOW, _HIGH = 0.3, 0.7
#: Samples that a period has to hold to be told, and periods that a ramp needs.
_PERIOD_STEPS, _RAMP_PERIODS = 4.0, 8
#: Samples looked at for the levels.
_LOOKED_AT = 50_000
_NAMES = ("duty_low", "frequency", "duty_low_first", "duty_low_last")


def wave_figures(trace: Trace, timing: Timing, recording: Recording) -> list[Figure]:
    """All figures of a scope's channel."""
    bottom, top = _levels(trace.values)
    began, ended = float(trace.at_s[0]), float(trace.at_s[-1])
    figures = extent(trace, timing)
    if top - bottom < STEADY_V:
        level = float(np.median(trace.values[:: max(1, len(trace.values) // _LOOKED_AT)]))
        noise = timing.resolution + (top - bottom) / 2
        figures += [Figure(name, level, noise, began, ended) for name in ("high", "low")]
        return [
            *figures,
            *(cannot_tell(name, "the line is steady") for name in _NAMES),
            *_drop(trace, timing, recording),
        ]
    figures += [
        Figure("high", top, timing.resolution, began, ended),
        Figure("low", bottom, timing.resolution, began, ended),
    ]
    return [*figures, *_pulses(trace, timing, bottom, top), *_drop(trace, timing, recording)]


def _levels(values: Samples) -> tuple[float, float]:
    """Lower and upper level: medians of what lies in the lower and the upper third between the extremes."""
    looked = values[:: max(1, len(values) // _LOOKED_AT)]
    low, high = (float(level) for level in np.percentile(looked, (1, 99)))
    third = (high - low) / 3
    return float(np.median(looked[looked <= low + third])), float(np.median(looked[looked >= high - third]))


def _pulses(trace: Trace, timing: Timing, bottom: float, top: float) -> list[Figure]:
    swing = top - bottom
    found = crossings(trace.values, bottom + _LOW * swing, bottom + _HIGH * swing)
    at = times_at(trace, found, (bottom + top) / 2)
    rises, falls = at[found.rising], at[~found.rising]
    if len(rises) < 2 or len(falls) < 2:
        return [cannot_tell(name, "fewer than two pulses") for name in _NAMES]
    period = float((rises[-1] - rises[0]) / (len(rises) - 1))
    if period < _PERIOD_STEPS * timing.step_s:
        return [cannot_tell(name, "sampled too coarsely") for name in _NAMES]
    lows = _low_times(falls, rises)
    periods = np.diff(rises)
    count = min(len(lows), len(periods))
    duties = np.clip(lows[:count] / periods[:count], 0.0, 1.0)
    began, ended = float(rises[0]), float(rises[-1])
    jitter = timing.step_s / period
    figures = [
        Figure("duty_low", float(lows[:count].sum() / periods[:count].sum()), jitter, began, ended),
        Figure("frequency", 1.0 / period, timing.step_s / period / (ended - began), began, ended),
    ]
    if count < _RAMP_PERIODS:
        return [*figures, *(cannot_tell(name, "fewer than eight pulses") for name in _NAMES[2:])]
    part = max(1, count // 8)
    ends = (duties[:part], float(rises[0]), float(rises[part])), (duties[-part:], float(rises[count - part]), ended)
    return figures + [
        Figure(name, float(part_of.mean()), jitter, start, end)
        for name, (part_of, start, end) in zip(_NAMES[2:], ends, strict=True)
    ]


def _low_times(falls: Samples, rises: Samples) -> Samples:
    """Seconds low in each period that begins with a rise."""
    inside = falls[(falls > rises[0]) & (falls < rises[-1])]
    ends = rises[np.searchsorted(rises, inside)]
    times: Samples = ends - inside
    return times


def _drop(trace: Trace, timing: Timing, recording: Recording) -> list[Figure]:
    """Volts that the supply loses while the control wire is pulled low, where both were recorded."""
    if trace.of is None or not trace.of.endswith("heater_supply"):
        return []
    control = next(
        (one for one in recording.traces if one.of and one.of.endswith("heater_control") and one.signal == "volts"),
        None,
    )
    if control is None or len(control.values) != len(trace.values):
        return [cannot_tell("drop_under_load", "the control wire was not recorded beside it")]
    bottom, top = _levels(control.values)
    driven, idle = control.values < bottom + _LOW * (top - bottom), control.values > bottom + _HIGH * (top - bottom)
    if top - bottom < STEADY_V or not driven.any() or not idle.any():
        return [cannot_tell("drop_under_load", "the control wire is steady")]
    drop = float(np.median(trace.values[idle]) - np.median(trace.values[driven]))
    return [Figure("drop_under_load", drop, 2 * timing.resolution, float(trace.at_s[0]), float(trace.at_s[-1]))]
