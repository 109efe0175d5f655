"""A titania cell: a resistance in a pull-up, low when rich."""

import numpy as np
from numpy.typing import NDArray

from dianoia.case.setting import Setting
from dianoia.circuit.cells.cell import RICH
from dianoia.circuit.cells.steps import Stepping
from dianoia.circuit.network import Array, Network

#: What the sensor is pulled up to, in volts.
PULL_UPS = (1.0, 5.0)


class Titania(Stepping):
    """See the module."""

    def bias_kind(self) -> NDArray[np.int64]:
        """See ``Cell``."""
        return self.draws.choice("titania pull-up", [1.0] * len(PULL_UPS))

    def bias_v(self, kind: NDArray[np.int64]) -> Array:
        """See ``Cell``."""
        found: Array = np.array(PULL_UPS)[kind]
        return found

    def at_module(self, network: Network, bias_v: Array, powered: float) -> None:
        """See ``Cell``."""
        self.grounded_return(network)
        pull_up = self.draws.log_uniform("pull-up", 5e3, 6e4)
        network.branch("bias", "module.power_ground", self.top, pull_up, powered * bias_v)

    def ohms(self, phase: str) -> Array:
        """See ``Cell``."""
        if phase == RICH:
            return self.draws.log_uniform("titania " + phase, 300, 3e3)
        return self.draws.log_uniform("titania lean", 5e4, 5e5)

    def volts(self, setting: Setting, phase: str) -> Array:
        """See ``Cell``."""
        return np.zeros(self.draws.count)
