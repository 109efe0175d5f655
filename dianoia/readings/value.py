"""The value of a reading as quantities or words, and how well it fits a display."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dianoia.case.choices import SCAN_KIND
from dianoia.case.ledger import Reading, ScanReading, ScopeReading, TraceReading
from dianoia.case.live import span_of
from dianoia.circuit.network import Array
from dianoia.quantities.parse import parse
from dianoia.quantities.show import show, show_range
from dianoia.quantities.types import Kind, Quantity
from dianoia.readings.display import SLIP, SLIP_RANGE, WIDTH, Display, Figure, Words
from dianoia.readings.scale import distance

_KINDS: dict[str, Kind] = {"voltage": "voltage", "resistance": "resistance", "current": "current"}
#: Chance that one figure of several is astray by itself.
SLIP_OF_ONE = 0.01
#: From this share of the time on, a scan tool calls a heater commanded on.
COMMANDED = 0.02


def figures(reading: Reading) -> dict[str, Quantity | str]:
    """Every figure of a (checked) reading by name: quantities, or words where the instrument shows words."""
    if isinstance(reading, ScopeReading):
        kinds: dict[str, Kind] = {
            "high": "voltage", "low": "voltage", "duty_low": "ratio", "frequency": "frequency"
        }  # fmt: skip
        texts = {name: getattr(reading.value, name) for name in kinds}
        return {name: parse(text, kinds[name]) for name, text in texts.items() if text is not None}
    if isinstance(reading, TraceReading):
        return _trace(reading)
    if span := span_of(reading):
        low, high = ("min", "max") if isinstance(reading, ScanReading) else ("low", "high")
        return {low: span.low, high: span.high}
    if isinstance(reading, ScanReading):
        return {"value": _scan(reading)}
    if reading.measure in _KINDS:
        return {"value": parse(str(reading.value), _KINDS[reading.measure])}
    return {"value": str(reading.value)}


def _scan(reading: ScanReading) -> Quantity | str:
    text = reading.value.strip().lower()
    kind = SCAN_KIND.get(reading.pid)
    if reading.pid == "heater_command" and text not in ("on", "off"):
        return parse(text, "ratio")
    if kind is None or text == "n/a":
        return text
    return parse(reading.value, kind)


def _trace(reading: TraceReading) -> dict[str, Quantity | str]:
    kind = SCAN_KIND.get(reading.signal, "number")
    value = reading.value
    found: dict[str, Quantity | str] = {
        name: parse(getattr(value, name), kind) for name in ("min", "max", "mean") if getattr(value, name) is not None
    }
    if value.switches_per_min is not None:
        found["switches_per_min"] = Quantity("number", value.switches_per_min)
    for name in ("first_activity_s", "rise_s", "fall_s", "delay_s"):
        seconds = getattr(value, name)
        if seconds is not None:
            found[name] = Quantity("time", seconds)
    return found


def agree(one: Reading, other: Reading) -> bool:
    """Whether two readings of the same show the same, as far as instrument and hand allow."""
    ours, theirs = figures(one), figures(other)
    return ours.keys() == theirs.keys() and all(_alike(shown, theirs[name]) for name, shown in ours.items())


def _alike(one: Quantity | str, other: Quantity | str) -> bool:
    if not isinstance(one, Quantity) or not isinstance(other, Quantity):
        return one == other
    if one.over_limit or other.over_limit:
        return one.over_limit == other.over_limit
    return float(distance(one.value, np.array(other.value), one.kind)) < 2.0 * WIDTH


@dataclass(frozen=True)
class Fit:
    """Log-likelihood (hypotheses, draws) of a reading, and of it together with its being a slip of the hand."""

    all: Array
    slipped: Array


def fit(reading: Reading, displays: Mapping[str, Display], slip: float = SLIP) -> Fit | None:
    """How well all figures of a reading fit; None where no figure is on the display.

    slip: chance that the reading is a slip of the hand. A scope's or a recording's figures are one reading: they are
    astray together, or (seldom) one of them alone.
    """
    shown = [(item, displays[name]) for name, item in figures(reading).items() if name in displays]
    if not shown:
        return None
    if len(shown) == 1:
        fitted = _fit_one(*shown[0], slip)
        return Fit(fitted, np.full((1, 1), np.log(slip) + _astray_alone(shown[0][1])))
    near, slipped = np.zeros(1), np.full(1, np.log(slip))
    for item, display in shown:
        own, astray = _fit_of_several(item, display)
        near, slipped = near + own, slipped + astray
    return Fit(np.logaddexp(np.log1p(-slip) + near, slipped), slipped)


def _fit_one(shown: Quantity | str, display: Display, slip: float) -> Array:
    if isinstance(display, Words):
        return display.fit(shown if isinstance(shown, str) else show(shown.value, shown.kind), slip)
    if isinstance(shown, Quantity):
        return display.fit(shown, slip)
    return _in_words(shown, display).fit(shown, slip)


def _in_words(shown: str, display: Figure) -> Words:
    """A number's display where a word is noted for it: ``n/a``, or whether there is any."""
    if shown == "n/a":
        missing = np.isnan(display.shown).astype(float)
        return Words({"n/a": missing, "a value": 1.0 - missing})
    on = (display.shown > COMMANDED).astype(float)
    return Words({"on": on, "off": 1.0 - on})


def _astray_alone(display: Display) -> float:
    return display.astray() if isinstance(display, Words) else -float(np.log(SLIP_RANGE))


def _fit_of_several(shown: Quantity | str, display: Display) -> tuple[Array, Array | float]:
    """A figure's log-likelihood by itself, and where the reading as a whole was a slip."""
    if isinstance(display, Figure) and isinstance(shown, Quantity):
        return display.fit_and_astray(shown, SLIP_OF_ONE)
    return _fit_one(shown, display, SLIP_OF_ONE), _astray_alone(display)


def is_commanded(reading: ScanReading) -> bool:
    """Whether a scan value of the heater's command says that it is on, all or part of the time."""
    shown = _scan(reading)
    return shown.value > COMMANDED if isinstance(shown, Quantity) else shown == "on"


def said(reading: Reading) -> str:
    """The value in words: ``13.8 V``, ``OL``, ``flashing``, ``0.1 to 0.85 V, switching``."""
    moves = getattr(reading, "moves", None)
    if span := span_of(reading):
        ends = show_range(span.low.value, span.high.value, span.low.kind)
        return f"{ends}, {moves}" if moves else ends
    parts = []
    for name, shown in figures(reading).items():
        text = show(shown.value, shown.kind) if isinstance(shown, Quantity) else shown
        parts.append(text if name == "value" else f"{name.replace('_', ' ')} {text}")
    parts += [moves] if moves else []
    return ", ".join(parts)


def is_finite(shown: Quantity | str) -> bool:
    """Whether a figure is a number that is not OL."""
    return isinstance(shown, Quantity) and bool(np.isfinite(shown.value))
