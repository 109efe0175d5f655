"""What the diagnosis asks of a circuit: displays for probes, under every hypothesis and draw."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, Protocol

import numpy as np

from dianoia.case.measures import Probe
from dianoia.case.terms import HeaterSwitch
from dianoia.circuit.network import Array
from dianoia.circuit.types import Choice
from dianoia.readings.folded import Folded
from dianoia.readings.outcomes import Display, Outcomes

Hypothesis = tuple[str, ...]


@dataclass(frozen=True)
class Traits:
    """What is to be known of a fault besides its effect on the network."""

    latch: float = 0.0
    """Chance that the module has shut the heater off over it."""
    bus: Literal["held", "cut"] | None = None
    """The lines are held, or the unit is cut off from them."""
    only_where: HeaterSwitch | None = None
    """The side that the module switches, where it is no fault with the other."""


Traited = Mapping[str, Traits]


@dataclass(frozen=True)
class ReadingLikelihood:
    """A reading's log-likelihood."""

    alone: Array
    """(hypotheses,)."""
    fits: Folded[np.float32]
    """(hypotheses, draws)."""
    gross_errors: Folded[np.float16]
    """As ``fits``, where the reading was a gross error, at half precision: nothing is believed by it."""

    @property
    def fit(self) -> Array:
        """(hypotheses, draws)."""
        return self.fits.whole

    def of(self, rows: Choice) -> tuple[Array, Array]:
        """Both for some of the hypotheses, (rows, draws) each."""
        return self.fits.of(rows), self.gross_errors.of(rows).astype(np.float32)


class LoopModel(Protocol):
    """One loop of the sensor's circuit (heater, signal, NOx) with its faults."""

    name: str
    position: int
    """Of the sensor on the pipe."""
    hypotheses: tuple[Hypothesis, ...]
    draw_weight: Array
    """(draws,) how usual each draw is."""
    system_v: float
    weighed: dict[object, ReadingLikelihood | None]

    def prepare(self, probes: Iterable[Probe]) -> None:
        """Work out the probes' predictions, each state once."""

    def each_draw(self, name: str) -> Array:
        """(draws,) a named sample of 0..1. Raises UnknownDraw where draws.csv does not list it."""

    def samples(self) -> Mapping[str, Array]:
        """Every named sample of 0..1 that the draws were made from, (draws,)."""

    def displays(self, probe: Probe) -> Mapping[str, Display] | None:
        """What the probe's instrument shows; None where this loop has nothing to say to it."""

    def healthy(self, probe: Probe) -> Mapping[str, Display] | None:
        """The same of a healthy circuit alone, (1, draws)."""

    @property
    def draws_before(self) -> Array:
        """See above."""

    @property
    def kinds(self) -> Choice:
        """(draws,) which draws are of one kind of vehicle: alike in what is not a matter of tolerance."""

    def when_heated(self) -> Array | None:
        """(draws,) logarithm of how much likelier each draw is where the heater is seen to draw current; None where it says nothing."""

    def conditioned(self, battery_v: Mapping[str, float]) -> "LoopModel":
        """This model with the battery voltage (volts) known in some key positions."""

    @property
    def unconditioned(self) -> "LoopModel":
        """The model that this one was conditioned from; itself where the battery voltage is not known."""

    def answering(self, probe: Probe, hypotheses: Sequence[Hypothesis]) -> "LoopModel":
        """A model that knows at least these of the hypotheses and shows the same under each. This one where what the probe needs is at
        hand, else one that has no others, and so is soon done with it.
        """

    def outcomes(self, probe: Probe) -> tuple[Outcomes, ...]:
        """The figures of the probe's display, each binned; none where ``displays`` is None."""

    @property
    def kept(self) -> tuple[int, ...]:
        """How many things of each kind are kept."""

    def drop_answers(self) -> None:
        """Keep what is foreseen, what a healthy circuit shows, and what was said of each reading; all else is worked out again if it
        is asked for.
        """

    def working(self, probe: Probe) -> Array:
        """(draws,) True where a healthy circuit is at work in the probe's state (driver on, not latched off)."""
