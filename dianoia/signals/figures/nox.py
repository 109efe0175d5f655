"""Figures of a NOx sensor's values and status."""

from collections.abc import Sequence

import numpy as np

from dianoia.signals.figures.figure import Figure, cannot_tell, extent
from dianoia.signals.known import signals
from dianoia.signals.recording import Event, Recording, Samples, Trace
from dianoia.signals.timing import Timing

#: Index of the status that says that values count.
_VALID = float(signals()["nox_status"].vocabulary.index("valid"))
#: Seconds that fresh air takes to arrive, and those after them that are averaged.
_ARRIVES_S, _LASTS_S = 5.0, 60.0


def status_figures(trace: Trace, timing: Timing, started: Event | None) -> list[Figure]:
    """When a sensor's values first counted, and for what share of the time."""
    began, ended = started.at_s if started else float(trace.at_s[0]), float(trace.at_s[-1])
    valid = np.flatnonzero(trace.values == _VALID)
    share = Figure(
        "valid_share", len(valid) / len(trace.values), timing.step_s / max(ended - began, 1e-9), began, ended
    )
    if len(valid) == 0:
        return [Figure("valid_s", None, None, began, ended), share]
    if valid[0] == 0:
        return [cannot_tell("valid_s", "it was valid when the recording began"), share]
    at = float(trace.at_s[valid[0]])
    return [Figure("valid_s", at - began, timing.step_s, began, at), share]


def gas_figures(trace: Trace, timing: Timing, marks: Sequence[Event], recording: Recording) -> list[Figure]:
    """Extent of a sensor's values, what it showed in fresh air, and the share that it shows of the sensor before it."""
    figures = extent(trace, timing)
    for mark in marks:
        if mark.event in ("fresh-air", "fuel-cut"):
            figures.append(_fresh_air(trace, timing, mark, marks))
            break
    if trace.signal == "nox" and trace.of == "B1S2" and (before := recording.find("nox", "B1S1")) is not None:
        figures.append(_behind(trace, before, recording))
    return figures


def _fresh_air(trace: Trace, timing: Timing, mark: Event, marks: Sequence[Event]) -> Figure:
    later = min((other.at_s for other in marks if other.at_s > mark.at_s), default=float(trace.at_s[-1]))
    began, ended = mark.at_s + _ARRIVES_S, min(later, mark.at_s + _LASTS_S)
    part = trace.between(began, ended)
    if len(part.values) < 3:
        return cannot_tell("fresh_air", "too little was recorded after the mark")
    return Figure(
        "fresh_air", float(np.median(part.values)), timing.resolution + float(part.values.std()), began, ended
    )


def _behind(trace: Trace, before: Trace, recording: Recording) -> Figure:
    """Mean behind the catalyst over mean before it, while both are valid."""
    name = "passed_on"
    began, ended = max(trace.at_s[0], before.at_s[0]), min(trace.at_s[-1], before.at_s[-1])
    if ended - began < 10.0:
        return cannot_tell(name, "less than ten seconds of both")
    at_s = np.linspace(began, ended, 2000)
    both = [np.interp(at_s, one.at_s, one.values) for one in (trace, before)]
    counted = _valid_at(at_s, recording, "B1S2") & _valid_at(at_s, recording, "B1S1")
    if not counted.any() or both[1][counted].mean() < 10.0:
        return cannot_tell(name, "there was too little NOx before the catalyst, or a sensor was not valid")
    share = float(both[0][counted].mean() / both[1][counted].mean())
    return Figure(name, share, 0.1 * share + 0.02, float(began), float(ended))


def _valid_at(at_s: Samples, recording: Recording, of: str) -> np.ndarray:
    status = recording.find("nox_status", of)
    if status is None:
        return np.ones(len(at_s), dtype=bool)
    places = np.clip(np.searchsorted(status.at_s, at_s, side="right") - 1, 0, None)
    return np.asarray(status.values[places] == _VALID)
