"""How far each reading speaks for something being at fault, and against it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.network import Array
from dianoia.diagnosis.inference.evidence import Evidence
from dianoia.quantities.show import percent

#: Natural log of a likelihood ratio below which a reading is not said to speak (1.5 to 1), and beyond which it is called "over".
TELLS, OVER = 0.4, 6.9
#: So many readings are told at the most.
_TOLD = 6


@dataclass(frozen=True)
class ReadingWeight:
    """A reading that speaks."""

    place: int
    """In the ledger."""
    speaks_for: bool
    """Or against."""
    says: str
    """How strongly."""


@dataclass(frozen=True)
class ChanceReasons:
    """Why something has the chance it has."""

    before: str
    """Any reading."""
    readings: tuple[ReadingWeight, ...]
    """Readings that moved it, strongest first."""


def why(taken: Sequence[Evidence], rows: NDArray[np.bool_], prior: Array) -> ChanceReasons:
    """What moved the chance of some hypotheses. rows: (joint,) True where they are; prior: (joint,) before any reading."""
    odds = log_ratios(taken, rows, prior)
    strongest = sorted(range(len(taken)), key=lambda number: -abs(odds[number]))[:_TOLD]
    told = [ReadingWeight(taken[n].place, odds[n] > 0, _times(odds[n])) for n in strongest if abs(odds[n]) >= TELLS]
    return ChanceReasons(f"{percent(float(prior[rows].sum() / prior.sum()))} before any reading", tuple(told))


def log_ratios(taken: Sequence[Evidence], rows: NDArray[np.bool_], prior: Array) -> list[float]:
    """Log-likelihood ratio of each reading alone, log p(r | rows) - log p(r | not rows); zeros where it is undefined."""
    if not taken or not rows.any() or rows.all():
        return [0.0] * len(taken)
    shares = np.stack([prior * rows / prior[rows].sum(), prior * ~rows / prior[~rows].sum()], axis=1)
    odds = np.stack([item.odds - item.odds.max() for item in taken])
    ours, others = np.log(np.maximum(np.exp(odds) @ shares, 1e-300)).T
    ratios: list[float] = (ours - others).tolist()
    return ratios


def _times(odds: float) -> str:
    """A ratio as a person says it.

    >>> _times(2.3), _times(-2.3), _times(0.5), _times(9.0)
    ('10 times likelier with it', '10 times likelier without it', '1.6 times likelier with it', 'over 1000 times likelier with it')
    """
    side = "with" if odds > 0 else "without"
    if abs(odds) > OVER:
        return f"over 1000 times likelier {side} it"
    return f"{float(f'{np.exp(abs(odds)):.2g}'):g} times likelier {side} it"
