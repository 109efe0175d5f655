"""What a circuit is built from, and what a fault does to it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.network import Array, Network, Port


@dataclass(frozen=True)
class Change:
    """A port and how strongly a fault changes it."""

    port: Port
    strength: Array
    """(draws,) ohms in series or siemens across, at least 0."""
    source: Array | None = None
    """(draws,) volts aiding the branch's current, only for a port in series."""


@dataclass(frozen=True)
class Effect:
    """What one fault does to the network. No changes: it only alters which phase is seen, as a driver that is stuck."""

    changes: tuple[Change, ...] = ()


@dataclass(frozen=True)
class Circuit:
    """One network in one setting and phase, with what every fault does in it."""

    network: Network
    effects: dict[str, Effect]
    branch_at: dict[str, str]
    """The branch whose current flows at a point."""
    switched: str | None = None
    """The branch by which the phases differ, with the fewest ohms in the first of them; None where they differ in
    voltages only.
    """


Choice = NDArray[np.int64]
