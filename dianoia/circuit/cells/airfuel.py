"""A limiting-current cell: the module holds both wires a few tenths of a volt apart, the current says the mixture."""

import numpy as np
from numpy.typing import NDArray

from dianoia.case.setting import Setting
from dianoia.circuit.cells.cell import RICH, Cell
from dianoia.circuit.network import Array, Network


class AirFuel(Cell):
    """See the module."""

    continuous = True
    span_v = 0.12

    def bias_v(self, kind: NDArray[np.int64]) -> Array:
        """See ``Cell``."""
        return self.draws.uniform("reference", 2.4, 3.6)

    def at_module(self, network: Network, bias_v: Array, powered: float) -> None:
        """See ``Cell``."""
        network.branch("bias", "module.power_ground", self.top, self.draws.uniform("held", 20, 60), powered * bias_v)
        network.branch("return ground", "module.power_ground", self.low, 20.0, powered * (bias_v - self._apart()))

    def sources(self, bias_v: Array) -> dict[str, Array]:
        """See ``Cell``."""
        return {"bias": bias_v, "return ground": bias_v - self._apart()}

    def ohms(self, phase: str) -> Array:
        """See ``Cell``."""
        return self.draws.uniform("cell ohms", 200.0, 400.0)

    def volts(self, setting: Setting, phase: str) -> Array:
        """See ``Cell``."""
        draws = self.draws
        emf = draws.uniform("rich emf", 0.02, 0.3) if phase == RICH else -draws.uniform("lean emf", 0.02, 0.3)
        return self._apart() + emf

    def _apart(self) -> Array:
        return self.draws.uniform("apart", 0.27, 0.42)
