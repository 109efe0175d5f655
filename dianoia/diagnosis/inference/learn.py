"""Where to take draws more thickly: what a ledger says about the healthy parts and about the size of faults.

Theory. Readings narrow what is unknown of a vehicle (its battery, the element's nominal value, a duty, a fault's
size). So draws are taken more densely where belief lies, each weighing as much less as it is drawn more often (importance
sampling). Each sample is thickened by itself, over ``BINS`` equal stretches of 0..1, and only where the draws that fit lie
together more than so few of them would by chance.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache

import numpy as np

from dianoia.circuit.draws import MINOR_DRAWS, Way
from dianoia.circuit.network import Array
from dianoia.diagnosis.inference.belief import Belief, evened
from dianoia.readings.heater_model import HeaterModel

#: Equal stretches of a sample's range, and those in which it is counted first.
BINS, FINE = 16, 256
#: Share of the draws that stay spread evenly over a sample's whole range.
SPREAD = 0.05
#: How far a draw speaks for its surroundings.
REACH = 0.06
#: So many draws must speak, or their weights are evened out until they do.
SPEAKING = 20.0
#: A sample is drawn more thickly only where its weights lie together more than this (in nats, times the draws that speak: so much they
#: would by chance), and the most that are where few draws speak; more where more do.
TOGETHER, MOST = 2.4, 7
#: Hypotheses below this chance do not matter to where draws are needed.
_BELIEVED = 1e-4
#: So many hypotheses get draws gathered for them alone, from this share of the draws on.
ALONE, LEAST_ALONE = 5, 0.04


@dataclass(frozen=True)
class Learnt:
    """ways: by loop, how its draws are gathered; high_side: chance that the module switches the heater's positive end, None where not in
    play.
    """

    ways: Mapping[str, tuple[Way, ...]] = field(default_factory=dict)
    high_side: float | None = None

    def minor_draws(self, draws: int) -> int:
        """How many of a heater loop's draws go to the less usual wiring."""
        least = round(draws * MINOR_SHARE)
        return least + round((draws - 2 * least) * (self.high_side or 0.0))


#: Share of a heater's draws kept at least for either wiring where the vehicle's is not known.
MINOR_SHARE = MINOR_DRAWS / 120.0


def learn(belief: Belief, posterior: Array) -> Learnt:
    """How to take draws by what is believed."""
    return Learnt({loop: ways(belief, posterior, loop) for loop in belief.models}, high_side_chance(belief, posterior))


def high_side_chance(belief: Belief, posterior: Array) -> float | None:
    """Chance that the module switches the heater's positive end; None where no heater loop is in play."""
    model = belief.models.get("heater")
    if not isinstance(model, HeaterModel):
        return None
    return float(believed_draws(belief, posterior, "heater")[model.high_side].sum())


def believed_draws(belief: Belief, posterior: Array, loop: str) -> Array:
    """(draws,) the chance of each draw of a loop, over what is believed."""
    own = np.bincount(belief.space.rows[loop], weights=posterior, minlength=len(belief.models[loop].hypotheses))
    chance: Array = own @ belief.draws(loop)
    return chance


def ways(belief: Belief, posterior: Array, loop: str) -> tuple[Way, ...]:
    """How the draws of a loop should be gathered: for each of the likeliest hypotheses by itself, and for all others together."""
    model = belief.models[loop]
    own = np.bincount(belief.space.rows[loop], weights=posterior, minlength=len(model.hypotheses))
    own = np.where(own > _BELIEVED, np.sqrt(own), 0.0)
    own = own / own.sum()
    alone = [row for row in np.argsort(-own)[:ALONE] if own[row] > LEAST_ALONE]
    rest = own.copy()
    rest[alone] = 0.0
    groups = [np.eye(len(own))[row] * own[row] for row in alone] + ([rest] if rest.sum() > LEAST_ALONE else [])
    draws, samples, total = belief.draws(loop), model.samples(), sum(float(group.sum()) for group in groups)
    return tuple(
        Way(float(group.sum()) / total, _together(group @ draws / group.sum(), model.draw_weight, samples))
        for group in groups
    )


def _together(weight: Array, before: Array, samples: Mapping[str, Array]) -> dict[str, tuple[float, ...]]:
    """The samples of which the draws that fit lie together, and where."""
    weight = evened(weight[None], before[None], SPEAKING)[0]
    speaking = float(1.0 / (weight * weight).sum())
    shares = {name: _shares(sample, weight) for name, sample in samples.items()}
    together = {name: float((share * np.log(share * BINS)).sum()) for name, share in shares.items()}
    least, most = TOGETHER / speaking, int(MOST * np.sqrt(speaking / SPEAKING))
    best = sorted((name for name in shares if together[name] > least), key=lambda name: -together[name])[:most]
    return {name: tuple((1.0 - SPREAD) * shares[name] + SPREAD / BINS) for name in best}


def _shares(sample: Array, weight: Array) -> Array:
    """Share of the weight in each stretch, each draw reaching a little around it."""
    counted = np.bincount(np.minimum((sample * FINE).astype(np.int64), FINE - 1), weights=weight, minlength=FINE)
    share: Array = _near() @ counted
    return share / share.sum()


@cache
def _near() -> Array:
    """(BINS, FINE) how much of a draw in a fine stretch counts in each stretch; reflected at both ends."""
    centres, sample = ((np.arange(count) + 0.5) / count for count in (BINS, FINE))
    mirrored = np.stack([sample, -sample, 2.0 - sample])
    near = np.exp(-0.5 * ((centres[:, None, None] - mirrored[None]) / REACH) ** 2).sum(axis=1)
    spread: Array = near / near.sum(axis=0)
    return spread
