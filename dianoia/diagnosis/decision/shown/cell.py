"""Whether readings at its own terminals show the cell to be bad."""

from dianoia.case.observed import Observed
from dianoia.diagnosis.decision.ledger import Ledger
from dianoia.diagnosis.decision.shown.again import again
from dianoia.diagnosis.decision.shown.heat import cell_hot
from dianoia.diagnosis.decision.shown.sensor_faults import CELL
from dianoia.diagnosis.faults.tables import faults
from dianoia.families.types import SIGNAL_TERMINALS

#: Faults of a cell that a cold one shows, too.
_ALSO_COLD = ("cell-shorted", "cell-heater-leak")
_SIGNAL_WIRES = tuple(
    name for name, row in faults().items()
    if row.loop == "signal" and row.component == "wiring" and row.definite and name.startswith("wire-")
)  # fmt: skip


def cell_apart(ledger: Ledger) -> tuple[int, ...]:
    """The cell read bad at its own terminals, hot (a short or a leak cold, too), and confirmed."""
    own = [place for place in ledger.of_sensor(_is_cell_apart) if _hot_enough(ledger, place)]
    bad = ledger.bad(own, CELL)
    if not bad or ledger.good(own, CELL):
        return ()
    checked = [place for place in bad if ledger.at(place).checked]
    wires = ledger.good(ledger.since_mended(_wires_tried), _SIGNAL_WIRES)
    repeated = again(ledger, bad)
    return tuple(sorted({*bad, *wires, *repeated})) if len(bad) > 1 or checked or wires or repeated else ()


def _hot_enough(ledger: Ledger, place: int) -> bool:
    item = ledger.at(place)
    if ledger.bad((place,), _ALSO_COLD) and item.probe.reads_ohms:
        return True
    return (item.probe.sensor_c == "hot" or item.probe.key == "running") and bool(cell_hot(ledger))


def _is_cell_apart(item: Observed) -> bool:
    probe = item.probe
    points = {point.partition(".")[0] for point in probe.points}
    own = (probe.reads_volts or probe.reads_ohms) and probe.of is None and points == {"sensor"}
    return own and bool(probe.terminals & SIGNAL_TERMINALS)


def _wires_tried(item: Observed) -> bool:
    """The signal wire grounded, fed or bridged, and the scan value watched."""
    probe = item.probe
    bridged = probe.jumper is not None and any(point.rpartition(".")[2] in SIGNAL_TERMINALS for point in probe.jumper)
    return probe.of is None and (bridged or bool(probe.conditions & {"signal-grounded", "signal-fed"}))
