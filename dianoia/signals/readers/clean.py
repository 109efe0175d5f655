"""Raw traces made traces: in the signal's unit, rising times, finite values, a common start."""

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from dianoia.errors import refuse
from dianoia.signals.columns import conversion
from dianoia.signals.known import signals
from dianoia.signals.readers.source import RawTrace
from dianoia.signals.recording import Samples, Trace

#: Cells of a column that may be no value before it is refused as no column of numbers, as a share.
MOST_BAD = 0.5
#: What instruments write for words of ours.
_SYNONYMS = {"cl": "closed", "ol": "open"}


def cleaned(raw: Iterable[RawTrace]) -> tuple[Trace, ...]:
    """Traces whose seconds count from the first sample of any. Raises RefusedInput, naming column and line."""
    rising: set[int] = set()  # times that several columns share are looked through once
    traces = [_trace(one, rising) for one in raw]
    began = min((float(trace.at_s[0]) for trace in traces if len(trace.at_s)), default=0.0)
    if began == 0.0:
        return tuple(traces)
    counted = {id(trace.at_s): trace.at_s - began for trace in traces}
    return tuple(replace(trace, at_s=counted[id(trace.at_s)]) for trace in traces)


def _trace(raw: RawTrace, rising: set[int]) -> Trace:
    chosen = raw.chosen
    values = _values(raw)
    factor, offset = conversion(chosen.signal, chosen.unit, raw.heading)
    if (factor, offset) != (1.0, 0.0):
        values = values * factor + offset
    at_s, values, bad = _finite(raw, values)
    if id(at_s) not in rising:
        at_s, values = _rising(raw, at_s, values)
        if at_s is raw.at_s:
            rising.add(id(at_s))
    return Trace(raw.heading, chosen.signal, chosen.of, at_s, values, raw.bad + bad)


def _values(raw: RawTrace) -> Samples:
    if isinstance(raw.values, np.ndarray):
        return raw.values
    vocabulary = signals()[raw.chosen.signal].vocabulary
    index = {word: float(place) for place, word in enumerate(vocabulary)}
    return np.array([_index(cell, index) for cell in raw.values], dtype=float)


def _index(cell: str | None, index: dict[str, float]) -> float:
    if cell is None:
        return float("nan")
    word = cell.strip().lower().replace("_", "-")
    word = _SYNONYMS.get(word, word)
    if word in index:
        return index[word]
    return next((place for name, place in index.items() if name in word.replace(" ", "-")), float("nan"))


def _finite(raw: RawTrace, values: Samples) -> tuple[Samples, Samples, int]:
    """Samples that have a time and a value; refused where too few have one, or one is infinite."""
    if np.isfinite(values.sum()) and np.isfinite(raw.at_s.sum()):
        return raw.at_s, values, 0
    endless = np.isinf(values) | np.isinf(raw.at_s)
    if endless.any():
        place = int(np.argmax(endless))
        raise refuse(f"{raw.heading}, {raw.line_of(place)}", "a number that ends", "an infinite one")
    good = ~(np.isnan(values) | np.isnan(raw.at_s))
    lost = 0 if isinstance(raw.values, np.ndarray) else sum(cell is not None for cell in raw.values) - int(good.sum())
    told = int(good.sum()) + raw.bad + max(lost, 0)
    if not good.any() or raw.bad + max(lost, 0) > MOST_BAD * told:
        place = int(np.argmin(good))
        row = signals()[raw.chosen.signal]
        kind = " or ".join(row.vocabulary) if row.vocabulary else "numbers"
        raise refuse(f"{raw.heading}, {raw.line_of(place)}", f"a column of {kind}", "cells that are something else")
    return raw.at_s[good], values[good], max(lost, 0)


def _rising(raw: RawTrace, at_s: Samples, values: Samples) -> tuple[Samples, Samples]:
    """Samples whose times rise. A repeated row counts once; of two values at one moment the later stands."""
    steps = np.diff(at_s)
    if len(steps) == 0 or steps.min() > 0:
        return at_s, values
    back = np.flatnonzero(steps < 0)
    if len(back):
        place = int(back[0]) + 1
        told = f"{at_s[place]:g} s after {at_s[place - 1]:g} s"
        raise refuse(f"time, {raw.line_of(_source_row(raw, at_s, place))}", "times that rise", told)
    last = np.append(steps > 0, True)
    return at_s[last], values[last]


def _source_row(raw: RawTrace, at_s: Samples, place: int) -> int:
    """The source's row of a sample that is left."""
    if len(at_s) == len(raw.at_s):
        return place
    found = np.flatnonzero(raw.at_s == at_s[place])
    return int(found[0]) if len(found) else place
