"""Kinds of cell: one file each, and this list of them; a NOx sensor with its unit is a circuit of its own (``nox.py``).

What else is to be known of a kind is its row in families.json.
"""

from collections.abc import Mapping

from dianoia.circuit.cells.airfuel import AirFuel
from dianoia.circuit.cells.cell import Cell
from dianoia.circuit.cells.switching import Switching
from dianoia.circuit.cells.titania import Titania
from dianoia.circuit.cells.wideband import Wideband
from dianoia.circuit.draws import Draws
from dianoia.circuit.known import KnownValues

_CELLS: Mapping[str, type[Cell]] = {
    "zirconia": Switching, "titania": Titania, "limiting-current": AirFuel, "two-cell": Wideband,
}  # fmt: skip


def cell_of(known: KnownValues, draws: Draws) -> Cell:
    """The cell of a sensor, with one set of draws."""
    return _CELLS[known.family.cell](known, draws)
