"""Two cells: the sensing cell held 0.45 V above a virtual ground, pump current as the signal, a trim resistor to the pump wire."""

import numpy as np
from numpy.typing import NDArray

from dianoia.case.setting import Setting
from dianoia.circuit.cells.cell import RICH, Cell
from dianoia.circuit.network import Array, Network

#: What the sensing cell is held at, in volts.
SENSED_V = 0.45


class Wideband(Cell):
    """See the module."""

    continuous = True
    measured_at = "pump"
    sensed = True
    span_v = 0.12

    def bias_v(self, kind: NDArray[np.int64]) -> Array:
        """See ``Cell``."""
        return self.draws.uniform("reference", 2.3, 2.8)

    def at_module(self, network: Network, bias_v: Array, powered: float) -> None:
        """See ``Cell``."""
        network.branch("bias", self.low, self.top, self.draws.log_uniform("sense", 3e4, 2e5), powered * SENSED_V)
        network.branch("return ground", "module.power_ground", self.low, 15.0, powered * bias_v)
        network.branch("pump source", "module.power_ground", "module_pin.pump", 30.0, powered * bias_v)

    def sources(self, bias_v: Array) -> dict[str, Array]:
        """See ``Cell``."""
        sensed = np.full(self.draws.count, SENSED_V)
        return {"bias": sensed, "return ground": bias_v, "pump source": bias_v}

    def ohms(self, phase: str) -> Array:
        """See ``Cell``."""
        return self.draws.log_uniform("cell ohms", 80.0, 400.0)

    def volts(self, setting: Setting, phase: str) -> Array:
        """See ``Cell``."""
        return np.full(self.draws.count, SENSED_V)

    def beside(self, network: Network, hot: Array, cold_ohms: Array, phase: str) -> None:
        """See ``Cell``."""
        swing = self.draws.uniform("pump swing", 0.02, 0.25) * hot
        pump_v = swing if phase == RICH else -swing
        network.branch(
            "pump cell", f"sensor.{self.negative}", "sensor.pump", np.where(hot > 0, 120.0, cold_ohms), pump_v
        )
        if "trim" in self.known.family.terminals:
            network.branch("trim resistor", "sensor.trim", "sensor.pump", self.draws.uniform("trim", 30.0, 300.0))
