"""Ohm's and Kirchhoff's laws on a handful of nodes.

Node equations G v = i with every source as a current beside its own resistance (Norton); one node is the reference.
A lamp's or a diode's resistance depends on its own voltage and is found by repeated solving.

>>> net = Net("n")
>>> net.source("n", "top", 12.0, 0.001); net.resistor("top", "middle", 100.0); net.resistor("middle", "n", 200.0)
>>> round(net.solve()["middle"], 3)
8.0
"""

from collections.abc import Callable

import numpy as np

#: Leakage of every node to the reference, in siemens: damp insulation of some ten gigaohms.
LEAK_S = 1e-10
#: No joint has less, in ohms.
LEAST_OHMS = 1e-3
#: Repeated solving ends when no voltage moves more than this, in volts, or after so many rounds.
SETTLED_V, ROUNDS = 1e-4, 60


class Net:
    """Resistors and sources between named nodes. Voltages are against ``reference``."""

    def __init__(self, reference: str = "battery.negative") -> None:
        self.reference = reference
        self._resistors: list[tuple[str, str, float]] = []
        self._curved: list[tuple[str, str, Callable[[float], float]]] = []
        self._currents: list[tuple[str, str, float]] = []

    def resistor(self, a: str, b: str, ohms: float) -> None:
        """A resistance in ohms between two nodes."""
        self._resistors.append((a, b, max(ohms, LEAST_OHMS)))

    def source(self, a: str, b: str, volts: float, ohms: float) -> None:
        """A source that holds b at ``volts`` above a through ``ohms``."""
        ohms = max(ohms, LEAST_OHMS)
        self._resistors.append((a, b, ohms))
        self._currents.append((a, b, volts / ohms))

    def current(self, a: str, b: str, amps: float) -> None:
        """A current into b and out of a."""
        self._currents.append((a, b, amps))

    def curved(self, a: str, b: str, ohms_at: Callable[[float], float]) -> None:
        """Something whose resistance in ohms depends on the volts from a to b."""
        self._curved.append((a, b, ohms_at))

    def has(self, node: str) -> bool:
        """Whether a node belongs to the network."""
        return node == self.reference or any(node in (a, b) for a, b, _ in (*self._resistors, *self._curved))

    def solve(self) -> dict[str, float]:
        """Node -> volts."""
        names = dict.fromkeys(node for a, b, _ in (*self._resistors, *self._curved) for node in (a, b))
        index = {node: place for place, node in enumerate(name for name in names if name != self.reference)}
        volts = np.zeros(len(index))
        for _ in range(ROUNDS if self._curved else 1):
            before, volts = volts, self._once(index, volts)
            if np.max(np.abs(volts - before), initial=0.0) < SETTLED_V:
                break
        return {self.reference: 0.0, **{node: float(volts[place]) for node, place in index.items()}}

    def _once(self, index: dict[str, int], volts: np.ndarray) -> np.ndarray:
        at = {**index, self.reference: len(index)}
        known = np.append(volts, 0.0)
        # the reference's own row is dropped at the end
        matrix, flows = np.eye(len(at)) * LEAK_S, np.zeros(len(at))
        curved = [(a, b, ohms(float(known[at[a]] - known[at[b]]))) for a, b, ohms in self._curved]
        for a, b, ohms in (*self._resistors, *curved):
            i, j, siemens = at[a], at[b], 1.0 / max(ohms, LEAST_OHMS)
            matrix[i, i] += siemens
            matrix[j, j] += siemens
            matrix[i, j] -= siemens
            matrix[j, i] -= siemens
        for a, b, amps in self._currents:
            flows[at[b]] += amps
            flows[at[a]] -= amps
        found = np.linalg.solve(matrix[:-1, :-1], flows[:-1])
        return 0.5 * (found + volts) if self._curved and volts.any() else found
