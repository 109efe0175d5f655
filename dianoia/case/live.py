"""Live values: which readings may be spans or be said to move, and whose display such a reading is held against."""

from dataclasses import fields
from typing import Any

from dianoia.case.choices import SCAN_KIND
from dianoia.case.ledger import Probe, Reading, ScanReading, ScopeProbe, State, TraceProbe, VoltageReading
from dianoia.case.terms import Pid
from dianoia.quantities.parse import parse_live
from dianoia.quantities.types import Span

#: Terminals of the cell's own wires, whose voltage moves with the mixture.
SIGNAL_TERMINALS = frozenset(
    ("signal", "signal_return", "cell_positive", "cell_negative", "nernst", "virtual_ground", "pump")
)
#: Scan values that move while a healthy engine runs.
MOVING_PIDS: frozenset[Pid] = frozenset(
    ("sensor_voltage", "cell_current", "lambda", "short_trim", "long_trim", "nox", "o2")
)
#: Scan values whose recordings the circuit predicts.
_RECORDED: frozenset[Pid] = frozenset(("sensor_voltage", "cell_current"))
#: Shown where a scan tool has no value.
NO_VALUE = ("n/a",)
_STATE = tuple(field.name for field in fields(State))


def may_move(reading: Reading) -> bool:
    """Whether a reading is of something that may be a span, or be said to stand still, drift or switch."""
    if isinstance(reading, ScanReading):
        return reading.pid in MOVING_PIDS
    if not isinstance(reading, VoltageReading):
        return False
    return any(point.rpartition(".")[2] in SIGNAL_TERMINALS for point in (reading.red, reading.black))


def span_of(reading: Reading) -> Span | None:
    """The span a (checked) reading says; None where it is one look, or nothing that may be a span."""
    if not isinstance(reading, ScanReading | VoltageReading) or not may_move(reading):
        return None
    kind = SCAN_KIND[reading.pid] if isinstance(reading, ScanReading) else "voltage"
    if reading.value.strip().lower() in NO_VALUE:
        return None
    said = parse_live(reading.value, kind)
    return said if isinstance(said, Span) else None


def display_of(reading: Reading) -> Probe | None:
    """The probe whose display a reading is held against: mostly its own. A span is held against the ends of a recording,
    or of a scope's picture, never against a mean. None where it says nothing yet: a single value of what was seen to
    move, or a span of what no recording is predicted of.
    """
    if not isinstance(reading, ScanReading | VoltageReading):
        return reading
    if span_of(reading) is None:
        return None if reading.moves in ("slow", "switching") else reading
    state: dict[str, Any] = {name: getattr(reading, name) for name in _STATE}
    if isinstance(reading, VoltageReading):
        return ScopeProbe(measure="scope", red=reading.red, black=reading.black, **state)
    return TraceProbe(measure="trace", signal=reading.pid, **state) if reading.pid in _RECORDED else None
