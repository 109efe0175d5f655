"""What cells that step between two levels have in common: zirconia and titania."""

import numpy as np

from dianoia.circuit.cells.cell import Cell
from dianoia.circuit.network import Array

#: Share of the cells that read off whose volts are sound: they step at another mixture, and only trims and gas tell. Few: the trade
#: takes a prompt answer to rich and lean for a sound cell.
CHANGES_OVER_ELSEWHERE = 0.12


class Stepping(Cell):
    """A cell that only says which side the mixture is on."""

    def off_rich(self) -> Array:
        """See ``Cell``."""
        elsewhere = self.draws.unit("changes over elsewhere") < CHANGES_OVER_ELSEWHERE
        found: Array = np.where(elsewhere, 0.0, super().off_rich())
        return found
