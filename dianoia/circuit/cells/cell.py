"""What a kind of cell is in the signal loop: what the module holds its wires at, what it shows for a gas, how it ages."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from dianoia.case.setting import Setting
from dianoia.circuit.draws import Draws
from dianoia.circuit.known import KnownValues
from dianoia.circuit.network import Array, Network
from dianoia.families.types import HEATER_TERMINALS

#: Phases of the mixture at the cell.
RICH, LEAN = "rich", "lean"
#: Wires that are measured against the cell's own two.
_BESIDE = (*HEATER_TERMINALS, "pump", "trim")


class Cell:
    """A kind of cell. Subclasses say what differs; all resistances in ohms, voltages in volts, (draws,) each."""

    #: Whether the module measures a current and not a voltage.
    continuous = False
    #: Terminal whose current the module measures, where it does; None for the positive one.
    measured_at: str | None = None
    #: Whether the module has to see the sensing cell before it pumps.
    sensed = False
    #: Volts by which an aged cell is off at most about.
    span_v = 0.3
    #: A bad wire's resistance, lowest and highest.
    high_ohms: tuple[float, float] = (300.0, 3e4)

    def __init__(self, known: KnownValues, draws: Draws) -> None:
        self.known, self.draws = known, draws
        self.positive, self.negative = terminals_of(known.family.terminals)

    def bias_kind(self) -> NDArray[np.int64]:
        """(draws,) which of the usual biases the module has; 0 where only one is possible."""
        return np.zeros(self.draws.count, dtype=np.int64)

    def bias_v(self, kind: NDArray[np.int64]) -> Array:
        """(draws,) what the module holds the cell at. kind: see ``bias_kind``."""
        raise NotImplementedError

    def at_module(self, network: Network, bias_v: Array, powered: float) -> None:
        """Add the module's sources and its return. powered: 1 while it is, else 0."""
        raise NotImplementedError

    def sources(self, bias_v: Array) -> dict[str, Array]:
        """The branches of the module that hold the cell, and the volts of each."""
        return {"bias": bias_v}

    def ohms(self, phase: str) -> Array:
        """Of the hot cell."""
        raise NotImplementedError

    def volts(self, setting: Setting, phase: str) -> Array:
        """Of the hot cell by itself."""
        raise NotImplementedError

    def beside(self, network: Network, hot: Array, cold_ohms: Array, phase: str) -> None:
        """Add what else of the cell is in the circuit. hot: (draws,) 1 where it is."""

    def off_rich(self) -> Array:
        """How far a cell is off that reads rich or lean of the truth."""
        return self.draws.uniform("shift", 0.8 * self.span_v, 1.8 * self.span_v)

    def shifts(self, phase: str) -> dict[str, Array]:
        """Aged cells: how far their voltage is off. Some change over at another mixture than they should, at full volts."""
        draws, span = self.draws, self.span_v
        up = self.off_rich()
        squeeze = draws.uniform("squeeze", 0.6 * span, 1.1 * span)
        slow = draws.uniform("slow squeeze", 0.0, 0.25 * span)
        return {
            "cell-biased-rich": up if phase == LEAN else 0.15 * up,
            "cell-biased-lean": -up if phase == RICH else -0.15 * up,
            "cell-contaminated": -squeeze if phase == RICH else squeeze,
            "cell-slow": -slow if phase == RICH else slow,
        }

    @property
    def low(self) -> str:
        """The module's end of the cell's return."""
        return f"module_pin.{self.negative}" if self.negative else "module.power_ground"

    @property
    def top(self) -> str:
        """The module's end of the cell's signal."""
        return f"module_pin.{self.positive}"

    def grounded_return(self, network: Network) -> None:
        """Add the return that the module ties to its ground; none where the shell is the return."""
        if self.negative:
            network.branch(
                "return ground", self.low, "module.power_ground", self.draws.uniform("return ground", 0.02, 0.3)
            )


def terminals_of(terminals: Sequence[str]) -> tuple[str, str | None]:
    """The cell's positive and negative terminal; None where it returns through the shell."""
    names = [name for name in terminals if name not in _BESIDE]
    return names[0], (names[1] if len(names) > 1 else None)
