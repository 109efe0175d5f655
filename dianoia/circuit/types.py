"""What a circuit is built from, and what a fault does to it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.network import Array, Network, Port


@dataclass(frozen=True)
class Change:
    """A port and how strongly a fault changes it. strength: (draws,) ohms in series or siemens across, at least 0.
    source: (draws,) volts aiding the branch's current, only for a port in series.
    """

    port: Port
    strength: Array
    source: Array | None = None


@dataclass(frozen=True)
class Effect:
    """What one fault does to the network. No changes: it only alters which phase is seen, as a driver that is stuck."""

    changes: tuple[Change, ...] = ()


@dataclass(frozen=True)
class Circuit:
    """One network in one setting and phase, with what every fault does in it.

    branch_at: the branch whose current flows at a point; switched: the branch by which the phases differ, with the fewest ohms in the
    first of them; None where they differ in voltages only.
    """

    network: Network
    effects: dict[str, Effect]
    branch_at: dict[str, str]
    switched: str | None = None


Choice = NDArray[np.int64]
