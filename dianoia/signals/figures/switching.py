"""Figures of a switching oxygen sensor's voltage."""

from collections import deque
from collections.abc import Sequence

import numpy as np

from dianoia.signals.crossings import Crossings, crossings, passages, times_at
from dianoia.signals.figures.figure import Figure, cannot_tell, extent
from dianoia.signals.levels import levels_of
from dianoia.signals.recording import Event, Trace
from dianoia.signals.timing import Timing

#: Volts that a change has to pass: general practice for zirconia cells, whose signal swings between 0.1 and 0.9 V.
LOW, HIGH = 0.3, 0.6
#: Volts of the switching point, and of the band that a module's bias holds a cold cell in.
MIDDLE, BIAS = 0.45, (0.40, 0.50)
#: A spell is flat where the signal keeps within so many volts for so many seconds.
FLAT_VOLTS, FLAT_S = 0.03, 1.0
#: Samples that a passage has to hold, spacings that a half wave has to last, and samples that a visit has to have, to be told.
PASSAGE_STEPS, HALF_WAVE_STEPS, VISIT_SAMPLES = 2.0, 2.5, 2.0
#: Spacing above which changes are not counted: a fast loop changes side every 0.25 s, and would be missed.
COUNTED_STEP_S = 0.25
#: Seconds after a mark in which an answer is looked for, and those that a missing answer needs.
ANSWER_S, SILENCE_S = 30.0, 3.0
#: Marks that the mixture is changed by, and whether the signal should rise.
RISES = {"rich": True, "snap": True, "lean": False, "fuel-cut": False}
_COARSE = "sampled too coarsely"


def switching_figures(
    trace: Trace, timing: Timing, marks: Sequence[Event], started: Event | None, running: bool
) -> list[Figure]:
    """All figures of a switching sensor. started: the engine's start, None where it was not seen; running: whether the engine ran
    already when the recording began.
    """
    found = crossings(trace.values, LOW, HIGH)
    active = _active_at(trace, found)
    figures = extent(trace, timing)
    changes = _changes(trace, timing, found, active)
    figures += [_first_activity(trace, timing, active, started, running), changes]
    coarse = changes.reason == _COARSE
    figures += [
        cannot_tell(name, _COARSE) if coarse else _passage(trace, timing, found, name) for name in ("rise_s", "fall_s")
    ]
    figures += [_rich_share(trace, timing, active), *_still(trace)]
    return figures + [figure for mark in first_of_each(marks) for figure in _answer(trace, timing, mark, marks)]


def _active_at(trace: Trace, found: Crossings) -> int | None:
    """The sample at which the signal became active: it left the band of its bias or its first side, and soon went to the other side.

    A cold cell that only drifts out of the band is not active.
    """
    if found.first_outside is None or len(found.after) == 0:
        return None
    if found.first_outside == 0:
        return int(found.after[0])
    soon = trace.at_s[found.before[0]] - trace.at_s[found.first_outside] < ANSWER_S
    return found.first_outside if soon else int(found.before[0])


def _first_activity(trace: Trace, timing: Timing, active: int | None, started: Event | None, running: bool) -> Figure:
    began = started.at_s if started else float(trace.at_s[0])
    name = "first_activity_s"
    if active is None:
        return Figure(name, None, None, began, float(trace.at_s[-1]))
    at = float(trace.at_s[active])
    if running:
        return cannot_tell(name, "the engine ran already when the recording began")
    if at < began:
        return cannot_tell(name, "it was active before the engine started")
    error = max(timing.step_s, trace.gap_before(active)) + (started.error_s if started else 0.0)
    return Figure(name, at - began, error, began, at)


def _changes(trace: Trace, timing: Timing, found: Crossings, active: int | None) -> Figure:
    """Changes a minute, over the time from the first activity on that samples cover."""
    name, ended = "switches_per_min", float(trace.at_s[-1])
    first = active or 0
    began = float(trace.at_s[first])
    covered = ended - began - sum(to - max(start, began) for start, to in timing.spacing.gaps if to > began)
    if covered < 2.0:
        return cannot_tell(name, "less than two seconds of signal")
    at = times_at(trace, found, MIDDLE)
    count = int(np.count_nonzero(at > began))
    if count and _is_coarse(trace, timing, first, covered / count, count):
        return cannot_tell(name, _COARSE)
    return Figure(name, 60.0 * count / covered, 60.0 / covered, began, ended)


def _is_coarse(trace: Trace, timing: Timing, first: int, half_wave_s: float, count: int) -> bool:
    """Whether changes may have been missed."""
    values = trace.values[first:]
    outside = np.count_nonzero((values < LOW) | (values > HIGH)) * timing.spacing.step_s / max(timing.step_s, 1e-9)
    few = outside < VISIT_SAMPLES * count
    return bool(timing.step_s > COUNTED_STEP_S or half_wave_s < HALF_WAVE_STEPS * timing.step_s or few)


def _passage(trace: Trace, timing: Timing, found: Crossings, name: str) -> Figure:
    """Median seconds of a rise or fall between the two levels."""
    rising = name == "rise_s"
    of_kind = Crossings(
        found.before[found.rising == rising],
        found.after[found.rising == rising],
        found.rising[found.rising == rising],
        None,
    )
    if len(of_kind.before) == 0:
        return cannot_tell(name, "no rise was seen" if rising else "no fall was seen")
    taken = passages(trace, of_kind, LOW, HIGH)
    place = int(np.argsort(taken)[len(taken) // 2])
    middle = float(np.median(taken))
    if middle < PASSAGE_STEPS * timing.step_s:
        return cannot_tell(name, _COARSE)
    stretch = float(trace.at_s[of_kind.before[place]]), float(trace.at_s[of_kind.after[place]])
    return Figure(name, middle, timing.step_s, *stretch)


def _rich_share(trace: Trace, timing: Timing, active: int | None) -> Figure:
    if active is None:
        return cannot_tell("rich_share", "it was never active")
    values, at_s = trace.values[active:], trace.at_s[active:]
    if len(values) < 2 or at_s[-1] - at_s[0] < 2.0:
        return cannot_tell("rich_share", "less than two seconds of signal")
    share = float(np.count_nonzero(values > MIDDLE) / len(values))
    if not timing.spacing.regular:
        steps = np.diff(at_s)
        share = float(steps[values[:-1] > MIDDLE].sum() / steps.sum())
    error = 2.0 * timing.step_s / max(float(at_s[-1] - at_s[0]), timing.step_s)
    changes = max(1, len(crossings(values, LOW, HIGH).after))
    return Figure("rich_share", share, min(1.0, error * changes / 2), float(at_s[0]), float(at_s[-1]))


def _still(trace: Trace) -> list[Figure]:
    """Seconds within the band of the bias, and the longest flat spell."""
    drawn = levels_of(trace, float(trace.at_s[0]), float(trace.at_s[-1]))
    if len(drawn.at_s) < 3:
        return [cannot_tell("bias_s", "fewer than three samples"), cannot_tell("flat_s", "fewer than three samples")]
    lasting = np.gradient(drawn.at_s)
    in_band = (drawn.lowest >= BIAS[0]) & (drawn.highest <= BIAS[1])
    step = float(lasting.max())
    began, ended = _longest_flat(drawn.at_s.tolist(), drawn.lowest.tolist(), drawn.highest.tolist())
    flat = ended - began if ended - began >= FLAT_S else 0.0
    return [
        Figure("bias_s", float(lasting[in_band].sum()), 2 * step, float(trace.at_s[0]), float(trace.at_s[-1])),
        Figure("flat_s", flat, 2 * step, began, ended),
    ]


def _longest_flat(at_s: list[float], lowest: list[float], highest: list[float]) -> tuple[float, float]:
    """Start and end of the longest stretch within ``FLAT_VOLTS``: two pointers with the lowest and highest between them."""
    lows: deque[int] = deque()
    highs: deque[int] = deque()
    first, best = 0, (at_s[0], at_s[0])
    for place, at in enumerate(at_s):
        while lows and lowest[lows[-1]] >= lowest[place]:
            lows.pop()
        while highs and highest[highs[-1]] <= highest[place]:
            highs.pop()
        lows.append(place)
        highs.append(place)
        while highest[highs[0]] - lowest[lows[0]] > FLAT_VOLTS:
            first += 1
            if lows[0] < first:
                lows.popleft()
            if highs[0] < first:
                highs.popleft()
            if not lows or not highs:
                break
        if first <= place and at - at_s[first] > best[1] - best[0]:
            best = (at_s[first], at)
    return best


def first_of_each(marks: Sequence[Event]) -> list[Event]:
    """The first mark of each change of the mixture."""
    found: dict[str, Event] = {}
    for mark in marks:
        if mark.event in RISES:
            found.setdefault(mark.event, mark)
    return list(found.values())


def window_of(mark: Event, marks: Sequence[Event], trace: Trace) -> tuple[float, float]:
    """The stretch in which a mark's answer is looked for: until the next mark, at most ``ANSWER_S``."""
    later = min((other.at_s for other in marks if other.at_s > mark.at_s), default=float(trace.at_s[-1]))
    return mark.at_s, min(later, mark.at_s + ANSWER_S, float(trace.at_s[-1]))


def _answer(trace: Trace, timing: Timing, mark: Event, marks: Sequence[Event]) -> list[Figure]:
    """Delay and size of the answer to a mark."""
    prefix, up = mark.event.replace("-", "_"), RISES[mark.event]
    delay, size = f"{prefix}_delay_s", f"{prefix}_peak"
    began, ended = window_of(mark, marks, trace)
    part = trace.between(began - timing.step_s, ended)
    if len(part.values) < 3:
        return [cannot_tell(delay, "nothing was recorded after the mark")]
    reached = np.flatnonzero(part.values > HIGH if up else part.values < LOW)
    peak = float(part.values.max() if up else part.values.min())
    figures = [Figure(size, peak, timing.resolution / 2, began, ended)]
    if len(reached) == 0:
        silent = ended - began >= SILENCE_S
        never = Figure(delay, None, None, began, ended)
        return [*figures, never if silent else cannot_tell(delay, "too little was recorded after the mark")]
    if part.at_s[reached[0]] <= began:
        return [*figures, cannot_tell(delay, "it stood there before the mark")]
    at = float(part.at_s[reached[0]])
    return [*figures, Figure(delay, at - began, timing.step_s, began, at)]
