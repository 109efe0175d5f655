"""Live values: which readings may be spans or be said to move."""

from dataclasses import dataclass
from typing import get_args

from dianoia.case.ledger import Probe, ScanProbe, VoltageProbe
from dianoia.case.terms import Moves, Pid

#: Terminals of the cell's own wires, whose voltage moves with the mixture.
SIGNAL_TERMINALS = frozenset(
    ("signal", "signal_return", "cell_positive", "cell_negative", "nernst", "virtual_ground", "pump")
)
#: Of these, the wires of a continuous cell, which a module holds at volts of its maker's own choice.
HELD = frozenset(("cell_positive", "cell_negative", "nernst", "virtual_ground", "pump"))
#: Scan values that move while a healthy engine runs.
MOVING_PIDS: frozenset[Pid] = frozenset(
    ("sensor_voltage", "cell_current", "lambda", "short_trim", "long_trim", "nox", "o2")
)
#: Scan values that are what a cell's wires carry to the module, and those that a NOx sensor's unit sends.
OF_CELL: frozenset[Pid] = frozenset(("sensor_voltage", "cell_current", "lambda"))
OF_UNIT: frozenset[Pid] = frozenset(("can_messages", "nox_status", "nox", "o2"))
#: Shown where a scan tool has no value.
NO_VALUE = ("n/a",)


@dataclass(frozen=True)
class Movable:
    """What may be a span, or be said to stand still, drift or switch: these scan values, and volts at these terminals."""

    pids: tuple[Pid, ...]
    terminals: tuple[str, ...]
    moves: tuple[Moves, ...]


def movable() -> Movable:
    """For an entry to offer it."""
    return Movable(tuple(sorted(MOVING_PIDS)), tuple(sorted(SIGNAL_TERMINALS)), get_args(Moves))


def may_move(probe: Probe) -> bool:
    """Whether something is read that may be a span, or be said to stand still, drift or switch."""
    if isinstance(probe, ScanProbe):
        return probe.pid in MOVING_PIDS
    return isinstance(probe, VoltageProbe) and bool(probe.terminals & SIGNAL_TERMINALS)
