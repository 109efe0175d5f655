"""A zirconia cell: a voltage behind a source resistance that falls from megohms when cold; the module adds its bias."""

import numpy as np
from numpy.typing import NDArray

from dianoia.case.setting import Setting
from dianoia.circuit.cells.cell import RICH
from dianoia.circuit.cells.steps import Stepping
from dianoia.circuit.network import Array, Network

#: Usual module biases in volts and how usual each is.
BIASES = ((0.45, 0.0, 1.0, 1.7), (0.66, 0.16, 0.1, 0.08))


class Switching(Stepping):
    """See the module."""

    high_ohms = (2e5, 2e7)

    def bias_kind(self) -> NDArray[np.int64]:
        """See ``Cell``."""
        return super().bias_kind() if self.known.bias_v is not None else self.draws.evened("bias", BIASES[1])

    def bias_v(self, kind: NDArray[np.int64]) -> Array:
        """See ``Cell``."""
        if self.known.bias_v is not None:
            return np.full(self.draws.count, self.known.bias_v) * self.draws.uniform("bias error", 0.95, 1.05)
        return np.array(BIASES[0])[kind] * self.draws.uniform("bias error", 0.93, 1.07)

    def at_module(self, network: Network, bias_v: Array, powered: float) -> None:
        """See ``Cell``."""
        self.grounded_return(network)
        source = np.where(bias_v < 0.05, 1e8, self.draws.log_uniform("bias source", 1e5, 1e6))
        network.branch("bias", self.low, self.top, source, powered * bias_v)

    def ohms(self, phase: str) -> Array:
        """See ``Cell``."""
        return self.draws.log_uniform("source", 300, 8e3)

    def volts(self, setting: Setting, phase: str) -> Array:
        """See ``Cell``."""
        if setting.key != "running":
            return self.draws.uniform("standing", 0.0, 0.2)
        return (
            self.draws.uniform("rich level", 0.74, 0.95)
            if phase == RICH
            else self.draws.uniform("lean level", 0.03, 0.2)
        )
