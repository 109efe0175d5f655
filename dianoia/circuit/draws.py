"""Tolerance draws: stratified samples of everything about a healthy vehicle that is not known exactly.

Every hypothesis is predicted with the same draws, so that what two hypotheses have in common cancels. What is seldom
is drawn more often than it comes and weighs less for it, or a hundred draws would not hold it together with anything
else that is seldom.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache, cached_property, lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.gathering import DrawStrategy
from dianoia.circuit.network import Array
from dianoia.errors import DianoiaError
from dianoia.tables import read_rows, require

#: How many draws the engine works with.
DRAWS = 120
#: Of a heater's draws kept at least for either wiring where the vehicle's is not known.
MINOR_DRAWS = 20
#: Share of a sample that makes up either tail, and how far it reaches beyond a range, in widths of it.
TAIL, REACH = 0.05, 0.1
#: Share of the draws that stay as they come where others are gathered, and the sample that says which way.
AS_THEY_COME, WAY = 0.15, "way"
_FILE = Path(__file__).parent / "data" / "draws.csv"


@dataclass(frozen=True)
class DrawRow:
    """A row of draws.csv."""

    name: str
    key: str
    """Hexadecimal bytes that seed the sample, so that a name may change and no figure with it."""
    loops: str
    """Whose models take it."""


class UnknownDraw(DianoiaError):
    """A sample that draws.csv does not list."""


@cache
def keys() -> Mapping[str, tuple[int, ...]]:
    """Name of a sample -> what it is seeded with. Raises BrokenTable."""
    found: dict[str, tuple[int, ...]] = {}
    for row in read_rows(_FILE, DrawRow):
        key = tuple(bytes.fromhex(row.key)) if row.key and not set(row.key) - set("0123456789abcdef") else ()
        require(bool(key) and key not in found.values(), _FILE.name, row.name, "hexadecimal bytes of its own", row.key)
        require(row.name not in found, _FILE.name, row.name, "a name that stands once", row.name)
        found[row.name] = key
    return found


@cache
def names_of(loop: str) -> tuple[str, ...]:
    """The samples that a loop's model may take, in their order."""
    return tuple(row.name for row in read_rows(_FILE, DrawRow) if loop in row.loops.split())


class Draws:
    """Named stratified samples, reproducible from a seed. Each method returns an array of shape (count,)."""

    def __init__(self, seed: int = 7, count: int = DRAWS, ways: Sequence[DrawStrategy] = ()) -> None:
        self.count = count
        self._ways = tuple(ways)
        self._seed = seed
        self._kept: dict[str, Array] = {}
        self._factors: dict[str, Array] = {}
        self._with_tails: dict[str, Array] = {}
        if self._ways:
            self._gather()

    @property
    def weight(self) -> Array:
        """(count,) how usual each draw is, by what was drawn more often than it comes; about 1 on average."""
        return np.prod([np.ones(self.count), *self._factors.values()], axis=0)

    def samples(self) -> Mapping[str, Array]:
        """Every sample taken so far."""
        return dict(self._kept)

    def rare(self, name: str, chance: float, drawn: float) -> Array:
        """Like ``unit``, but the share ``drawn`` of all draws lies below ``chance``, each weighing less for it."""
        place = self.unit(name)
        low = place < drawn
        self._factors[name] = np.where(low, chance / drawn, (1.0 - chance) / (1.0 - drawn))
        return np.where(low, place * chance / drawn, chance + (place - drawn) * (1.0 - chance) / (1.0 - drawn))

    def unit(self, name: str) -> Array:
        """Uniform in 0..1, one value in each of ``count`` equal strata, shuffled; the same for the same name.

        Raises UnknownDraw where draws.csv has no row of that name.
        """
        if name not in self._kept:
            self._kept[name] = _strata(self._seed, _key(name), self.count)
        return self._kept[name]

    @cached_property
    def _way(self) -> NDArray[np.int64]:
        """(count,) which way each draw is gathered; one more than there are for those that stay as they come."""
        chances = [(1.0 - AS_THEY_COME) * way.chance for way in self._ways]
        found: NDArray[np.int64] = np.searchsorted(np.cumsum(chances), _strata(self._seed, _key(WAY), self.count))
        return found

    def _gather(self) -> None:
        """Take the samples that any way gathers, and with them how much less each draw weighs."""
        names = list(dict.fromkeys(name for way in self._ways for name in way.shares))
        plain = {name: _strata(self._seed, _key(name), self.count) for name in names}
        taken = {name: values.copy() for name, values in plain.items()}
        for number in range(len(self._ways) + 1):
            own = np.flatnonzero(self._way == number)
            spread = {name: _spread_again(values[own], self.count) for name, values in plain.items()}
            if number < len(self._ways):
                spread |= self._ways[number].gathered(spread)
            for name, values in spread.items():
                taken[name][own] = values
        self._kept.update(taken)
        times = np.sum([way.chance * (way.times(taken) + np.zeros(self.count)) for way in self._ways], axis=0)
        density = AS_THEY_COME + (1.0 - AS_THEY_COME) * times
        self._factors[WAY] = 1.0 / density

    def uniform(self, name: str, low: float, high: float) -> Array:
        """Evenly between low and high, with thin tails a little beyond, as no range is that sharp.

        A range above 0 stays above 0.
        """
        value: Array = low + (high - low) * self._tailed(name)
        return np.maximum(value, 0.5 * low) if low >= 0 else value

    def _tailed(self, name: str) -> Array:
        if name not in self._with_tails:
            self._with_tails[name] = np.interp(
                self.unit(name), (0.0, TAIL, 1.0 - TAIL, 1.0), (-REACH, TAIL, 1.0 - TAIL, 1.0 + REACH)
            )
        return self._with_tails[name]

    def log_uniform(self, name: str, low: float, high: float) -> Array:
        """Evenly in ratio between low and high, both above 0."""
        drawn: Array = np.exp(self.uniform(name, float(np.log(low)), float(np.log(high))))
        return drawn

    def log_between(self, name: str, low: Array, high: float) -> Array:
        """Evenly in ratio between each draw's own low end, (draws,), and a high one."""
        drawn: Array = low * (high / low) ** self.unit(name)
        return drawn

    def choice(self, name: str, weights: Sequence[float]) -> NDArray[np.int64]:
        """Index of one of the options, as often as its weight says."""
        edges = np.cumsum(np.asarray(weights, dtype=float) / np.sum(weights))
        picked: NDArray[np.int64] = np.minimum(np.searchsorted(edges, self.unit(name)), len(weights) - 1)
        return picked

    def evened(self, name: str, weights: Sequence[float]) -> NDArray[np.int64]:
        """Like ``choice``, but the unusual options are drawn more often, each draw weighing less for it."""
        share = np.asarray(weights, dtype=float) / np.sum(weights)
        drawn = np.sqrt(share) / np.sqrt(share).sum()
        picked = self.choice(name, list(drawn))
        self._factors[name] = (share / drawn)[picked]
        return picked


def _spread_again(some: Array, count: int) -> Array:
    """Some of ``count`` stratified values as strata of their own, in the same order."""
    rank = np.argsort(np.argsort(some))
    again: Array = (rank + np.mod(some * count, 1.0)) / max(some.size, 1)
    return again


@lru_cache(maxsize=1024)
def _strata(seed: int, key: tuple[int, ...], count: int) -> Array:
    """One value in each of ``count`` equal stretches of 0..1, shuffled; not to be written to."""
    rng = np.random.default_rng([seed, *key])
    strata: Array = (rng.permutation(count) + rng.random(count)) / count
    strata.setflags(write=False)
    return strata


def _key(name: str) -> tuple[int, ...]:
    known, again, _ = name.partition(AGAIN)
    if known not in keys():
        raise UnknownDraw(f"{_FILE.name} has no row {known!r}")
    return (*keys()[known], *again.encode())


#: Marks the second sample of a name.
AGAIN = " again"


class WideDraws(Draws):
    """Draws that leave the ranges by ``BEYOND`` of their width on either side, and lie closer in the middle.

    For simulated vehicles, which must not be drawn from what the engine assumes. Positive ranges stay positive.
    """

    def uniform(self, name: str, low: float, high: float) -> Array:
        """Bell-shaped, between somewhat below low and somewhat above high."""
        bell = (self.unit(name) + self.unit(name + AGAIN)) / 2.0
        value: Array = low + (high - low) * ((1.0 + 2.0 * BEYOND) * bell - BEYOND)
        return np.maximum(value, 0.5 * low) if low >= 0 else value


#: Share of a range's width by which simulated vehicles leave it on either side.
BEYOND = 0.2


@dataclass(frozen=True)
class Sampling:
    """How a loop's draws are taken."""

    count: int = DRAWS
    """How many."""
    minor: int = MINOR_DRAWS
    """How many of them at least for the less usual wiring, where the vehicle's is not known."""
    seed: int = 7
    make: Callable[[int, int], Draws] = Draws
    """Draws from a seed and a number."""

    def draws(self, count: int | None = None) -> Draws:
        """``count`` draws, all of them unless said."""
        return self.make(self.seed, self.count if count is None else count)
