"""What a circuit is built from, and what a fault does to it."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.network import Array, Network, Port

#: Names of the states a circuit alternates between within one reading (driver on and off, mixture rich and lean).
Phase = str


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
    """What one fault does. phases: which phase is seen instead of another (a stuck driver is always "on")."""

    changes: tuple[Change, ...] = ()
    phases: dict[Phase, Phase] = field(default_factory=dict)


@dataclass(frozen=True)
class Circuit:
    """One network in one setting and phase, with what every fault does in it.

    branch_at: the branch whose current flows at a point.
    """

    network: Network
    effects: dict[str, Effect]
    branch_at: dict[str, str]


@dataclass(frozen=True)
class Weights:
    """How a reading mixes the phases. share: phase -> (hypotheses, draws), summing to 1 over the phases."""

    share: dict[Phase, Array]


Choice = NDArray[np.int64]
