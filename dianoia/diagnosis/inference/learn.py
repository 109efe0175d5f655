"""Where to take draws: what a ledger says about the healthy parts and about the size of faults.

Theory. Readings narrow what is unknown of a vehicle (its battery, the element's nominal value, a duty, a fault's size). So draws are
taken where belief lies, each weighing as much less as it is taken more often (importance sampling), in several ways at once
(A. B. Owen and Y. Zhou, Safe and effective importance sampling, 2000): for each of the likeliest hypotheses by itself, for all others
together, and some as they come, which bounds the weights. In each way every sample is gathered by itself, over ``BINS`` equal stretches
of 0..1, and only where the draws that fit lie together more than so few of them would by chance.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache

import numpy as np

from dianoia.circuit.draws import DRAWS, MINOR_DRAWS
from dianoia.circuit.gathering import DrawStrategy
from dianoia.circuit.network import Array
from dianoia.diagnosis.inference.belief import Belief, evened, speaking
from dianoia.readings.heater_model import HeaterModel

#: Equal stretches of a sample's range.
BINS = 64
#: Share of the draws that stay spread evenly over a sample's whole range.
SPREAD = 0.05
#: How far a draw speaks for its surroundings: the less, the closer the draws that fit lie and the more they are, between these.
REACH, LEVELS = (0.012, 0.06), 6
#: So many draws must speak, or their weights are evened out until they do.
SPEAKING = 20.0
#: A sample is gathered only where its weights lie together more than ``TOGETHER`` (in nats, times the draws that speak; about as much they
#: would by chance). Where few draws speak at most ``MOST`` samples are gathered, and more where more do.
TOGETHER, MOST = 2.4, 7
#: Hypotheses below this chance do not matter to where draws are needed.
_BELIEVED = 1e-4
#: So many hypotheses get draws gathered for them alone, from this share of the draws on.
ALONE, LEAST_ALONE = 5, 0.04
#: Share of a heater's draws kept at least for either wiring where the vehicle's is not known.
MINOR_SHARE = MINOR_DRAWS / DRAWS


@dataclass(frozen=True)
class LearnedProposal:
    """How draws are gathered around what readings have shown."""

    ways: Mapping[str, tuple[DrawStrategy, ...]] = field(default_factory=dict)
    """By loop, how its draws are gathered."""
    high_side: float | None = None
    """Chance that the module switches the heater's positive end, None where not in play."""

    def minor_draws(self, draws: int) -> int:
        """How many of a heater loop's draws go to the less usual wiring."""
        least = round(draws * MINOR_SHARE)
        return least + round((draws - 2 * least) * (self.high_side or 0.0))


def learn(belief: Belief, posterior: Array) -> LearnedProposal:
    """How to take draws by what is believed."""
    return LearnedProposal(
        {loop: ways(belief, posterior, loop) for loop in belief.models}, high_side_chance(belief, posterior)
    )


def high_side_chance(belief: Belief, posterior: Array) -> float | None:
    """Chance that the module switches the heater's positive end; None where no heater loop is in play."""
    model = belief.models.get("heater")
    if not isinstance(model, HeaterModel):
        return None
    own = np.bincount(belief.space.rows["heater"], weights=posterior, minlength=len(model.hypotheses))
    return float((own @ belief.draws("heater"))[model.high_side].sum())


def ways(belief: Belief, posterior: Array, loop: str) -> tuple[DrawStrategy, ...]:
    """How the draws of a loop should be gathered: for each of the likeliest hypotheses by itself, and for all others together."""
    model = belief.models[loop]
    own = np.bincount(belief.space.rows[loop], weights=posterior, minlength=len(model.hypotheses))
    own = np.where(own > _BELIEVED, np.sqrt(own), 0.0)
    own = own / own.sum()
    alone = [row for row in np.argsort(-own)[:ALONE] if own[row] > LEAST_ALONE]
    groups = np.eye(len(own))[alone] * own
    rest = own - groups.sum(axis=0)
    groups = np.vstack([groups, rest]) if rest.sum() > LEAST_ALONE else groups
    chances, draws, samples = groups.sum(axis=1), belief.draws(loop), model.samples()
    table = np.stack([*samples.values()])
    return tuple(
        DrawStrategy(
            float(chance / chances.sum()), _together([*samples], table, group @ draws / chance, model.draw_weight)
        )
        for chance, group in zip(chances, groups, strict=True)
    )


def _together(names: list[str], table: Array, weight: Array, before: Array) -> dict[str, Array]:
    """The samples of which the draws that fit lie together, and where.

    table: (names, draws) samples; weight, before: (draws,) of each draw after readings and before.
    """
    weight = evened(weight[None], before[None], SPEAKING)[0]
    count = float(speaking(weight)[0])
    middle = (table @ weight)[:, None]
    wide = np.sqrt(np.maximum((table - middle) ** 2 @ weight, 0.0))
    shares = _shares(table, weight, np.clip(wide * count**-0.2, *REACH))
    together = (shares * np.log(shares * BINS)).sum(axis=1)
    most = int(MOST * np.sqrt(count / SPEAKING))
    best = [row for row in np.argsort(-together)[:most] if together[row] > TOGETHER / count]
    return {names[row]: (1.0 - SPREAD) * shares[row] + SPREAD / BINS for row in best}


def _shares(table: Array, weight: Array, reach: Array) -> Array:
    """(samples, BINS) share of the weight in each stretch, each draw reaching a little around it, reflected at both ends."""
    place = np.minimum((table * BINS).astype(np.int64), BINS - 1)
    counted = np.stack([np.bincount(own, weights=weight, minlength=BINS) for own in place])
    level = np.rint(np.log(reach / REACH[0]) / np.log(REACH[1] / REACH[0]) * (LEVELS - 1)).astype(np.int64)
    shares = np.empty_like(counted)
    for own in np.unique(level):
        shares[level == own] = counted[level == own] @ _near(int(own)).T
    return shares / shares.sum(axis=1, keepdims=True)


@cache
def _near(level: int) -> Array:
    """(BINS, BINS) how much of a draw in one stretch counts in each, at one of the ``LEVELS`` of reach."""
    reach = REACH[0] * (REACH[1] / REACH[0]) ** (level / (LEVELS - 1))
    centres = (np.arange(BINS) + 0.5) / BINS
    mirrored = np.stack([centres, -centres, 2.0 - centres])
    near = np.exp(-0.5 * ((centres[:, None] - mirrored[:, None]) / reach) ** 2).sum(axis=0)
    spread: Array = near / near.sum(axis=0)
    return spread
