"""Where to draw more thickly: what a ledger's first readings say about the healthy parts.

Theory. Readings narrow what is unknown of a vehicle (its battery, the element's nominal value, a duty, a fault's
size) until few of a hundred draws still fit, and chance decides which hypothesis has one. So the draws are taken anew
now and then, more densely where belief lies, each weighing as much less as it is drawn more often (importance sampling).
Each sample is thickened by itself, over ``BINS`` equal stretches of 0..1, and only where the draws that fit lie
together more than so few of them would by chance.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dianoia.circuit.draws import MINOR_DRAWS
from dianoia.circuit.network import Array
from dianoia.diagnosis.inference.belief import Belief
from dianoia.readings.heater_model import HeaterModel

#: Equal stretches of a sample's range.
BINS = 16
#: Share of the draws that stay spread evenly over a sample's whole range.
SPREAD = 0.3
#: How far a draw speaks for its surroundings.
REACH = 0.06
#: So many draws must speak, or their weights are evened out until they do.
SPEAKING = 20.0
#: A sample is drawn more thickly only where its weights lie together more than this (in nats), and the most that are.
TOGETHER, MOST = 0.12, 7
#: Hypotheses below this chance do not matter to where draws are needed.
_BELIEVED = 1e-4

#: Sample -> share of the draws in each stretch.
Density = Mapping[str, tuple[float, ...]]


@dataclass(frozen=True)
class Learnt:
    """density: by loop; high_side: chance that the module switches the heater's positive end, None where not in play;
    times: how often they were taken anew before, and now: each time more of them, and others.
    """

    density: Mapping[str, Density]
    high_side: float | None = None
    times: int = 1

    def minor_draws(self, draws: int) -> int:
        """How many of a heater loop's draws go to the less usual wiring."""
        return MINOR_DRAWS + round((draws - 2 * MINOR_DRAWS) * (self.high_side or 0.0))


def learn(belief: Belief, posterior: Array) -> Learnt:
    """How to take the draws anew by what is believed."""
    by_loop = {loop: density(belief, posterior, loop) for loop in belief.models}
    return Learnt(by_loop, high_side_chance(belief, posterior))


def high_side_chance(belief: Belief, posterior: Array) -> float | None:
    """Chance that the module switches the heater's positive end; None where no heater loop is in play."""
    model = belief.models.get("heater")
    if not isinstance(model, HeaterModel):
        return None
    own = np.bincount(belief.space.rows["heater"], weights=posterior, minlength=len(model.hypotheses))
    return float((own @ belief.draws("heater"))[model.high_side].sum())


def density(belief: Belief, posterior: Array, loop: str) -> Density:
    """The samples of a loop that its draws should be taken more thickly of, and where."""
    model = belief.models[loop]
    own = np.bincount(belief.space.rows[loop], weights=posterior, minlength=len(model.hypotheses))
    own = np.where(own > _BELIEVED, np.sqrt(own), 0.0)
    weight = _evened(own @ belief.draws(loop) / own.sum(), model.draw_weight)
    shares = {name: _shares(sample, weight) for name, sample in model.samples().items()}
    together = {name: float((share * np.log(share * BINS)).sum()) for name, share in shares.items()}
    best = sorted((name for name in shares if together[name] > TOGETHER), key=lambda name: -together[name])[:MOST]
    return {name: tuple((1.0 - SPREAD) * shares[name] + SPREAD / BINS) for name in best}


def standing_draws(belief: Belief, posterior: Array, loop: str) -> float:
    """How many of a loop's draws still speak, on average over what is believed."""
    own = np.bincount(belief.space.rows[loop], weights=posterior, minlength=len(belief.models[loop].hypotheses))
    draws = belief.draws(loop)
    return float(own @ (1.0 / (draws * draws).sum(axis=1)))


def _evened(weight: Array, before: Array) -> Array:
    """The draws' weights, taken back towards those before any reading until enough of them speak."""
    said = np.log(np.maximum(weight, 1e-30) / before)
    low, high = 0.0, 1.0
    best = _tempered(said, before, 1.0)
    if _speaking(best) >= SPEAKING:
        return best
    for _ in range(12):
        middle = (low + high) / 2.0
        best = _tempered(said, before, middle)
        low, high = (middle, high) if _speaking(best) >= SPEAKING else (low, middle)
    return best


def _tempered(said: Array, before: Array, power: float) -> Array:
    weight: Array = before * np.exp(power * (said - said.max()))
    return weight / weight.sum()


def _speaking(weight: Array) -> float:
    return float(1.0 / (weight * weight).sum())


def _shares(sample: Array, weight: Array) -> Array:
    """Share of the weight in each stretch, each draw reaching a little around it."""
    centres = (np.arange(BINS) + 0.5) / BINS
    mirrored = np.stack([sample, -sample, 2.0 - sample])
    near = np.exp(-0.5 * ((centres[:, None, None] - mirrored[None]) / REACH) ** 2).sum(axis=1)
    share: Array = (near / near.sum(axis=0)) @ weight
    return share / share.sum()
