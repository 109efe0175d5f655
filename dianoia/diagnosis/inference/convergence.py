"""Belief after a ledger, converged: other random seeds would show the same.

Theory. A chance is a ratio of sums over draws d. P(f) = sum over h with f of p(h) Z(h) / sum over all h of p(h) Z(h). Here Z(h) is the mean of the ledger's likelihood p(r | h, d) over the draws. After a long ledger few draws of any fixed set still fit,
and the mean rests on those. So the hypotheses that can matter are taken by themselves, with more draws, taken more densely where
the ones before fit (see ``learn``), in rounds, until the standard error of every chance is below ``TOLERANCE``. With weights W(h, d)
that sum to one over a loop's draws and hypotheses, the standard error of a ratio is (delta method, A. B. Owen, Monte Carlo theory,
methods and examples, chapter 9)

    s(f)^2 = sum over loops, sum over d of ( sum over h with f of W(h, d) - P(f) sum over h of W(h, d) )^2

The other hypotheses, less than ``LEFT_OUT`` together, keep the chance that the first draws gave them.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dianoia.case.observed import Observed
from dianoia.circuit.network import Array
from dianoia.circuit.types import Choice
from dianoia.diagnosis.faults.space import JointSpace
from dianoia.diagnosis.inference.belief import Belief, speaking
from dianoia.diagnosis.inference.engine import Engine
from dianoia.diagnosis.inference.evidence import Evidence, apply, gross_errors_of, take_in
from dianoia.diagnosis.inference.learn import high_side_chance, learn
from dianoia.diagnosis.inference.loops import DrawSettings, Subset
from dianoia.readings.model import LoopModel

#: Draws of each round, in each loop.
ROUNDS = (512, 1024, 2048, 4096, 8192)
#: Standard error of a chance below which belief is converged.
TOLERANCE = 0.007
#: Share of the tolerance below which the first round is enough: where its draws missed what fits they do not know how far off they are.
AT_ONCE = 0.2
#: So many draws at least must speak for the likeliest hypothesis where a fault's chance is further than ``OPEN`` from none and from all,
#: and where none is: fewer do not know what they miss.
SPEAKING, SPEAKING_SETTLED, OPEN = 16.0, 3.0, 0.03
#: Share of the tolerance below which a loop keeps its draws while another one's are taken anew.
ENOUGH_OF_ONE = 0.6
#: Chance that hypotheses left out may have, all together.
LEFT_OUT = 1e-2
#: The same of those that a new reading brings up.
NEWLY_LEFT_OUT = 2e-2
#: Faults below this chance are not looked at for the standard error.
_SHOWN = 0.003


@dataclass(frozen=True)
class SubsetPosterior:
    """A ledger weighed with some of the hypotheses."""

    rows: Choice
    """Rows of the whole space that its engine knows."""
    engine: Engine
    belief: Belief
    taken: Sequence[Evidence]
    """What each reading said."""
    posterior: Array
    """(rows,) their chances, summing to 1."""

    @property
    def standard_error(self) -> float:
        """The largest of a fault's chance; no less than it is, with both loops at their worst for the same fault."""
        return float(np.sqrt(sum(error**2 for error in self.errors.values())))

    @cached_property
    def errors(self) -> Mapping[str, float]:
        """Loop -> the largest standard error of a fault's chance by its draws."""
        return standard_errors(self.engine, self.belief, self.posterior)

    def tells(self, share: float = 1.0) -> bool:
        """Whether its draws tell enough. share: of the tolerance that is allowed."""
        chance = self.posterior @ self.engine.space.incidence[1]
        settled = bool(((chance < OPEN) | (chance > 1.0 - OPEN)).all())
        return self.standard_error < share * TOLERANCE and self.speaking >= (SPEAKING_SETTLED if settled else SPEAKING)

    @property
    def speaking(self) -> float:
        """How many draws speak for the likeliest hypothesis, in the loop where the fewest do."""
        best = int(self.posterior.argmax())
        chances = (self.belief.draws(loop)[rows[best]] for loop, rows in self.engine.space.rows.items())
        return min(float(speaking(chance)[0]) for chance in chances)

    def knows(self, rows: Choice) -> bool:
        """Whether it was asked about all of these."""
        return bool(np.isin(rows, self.rows).all())


@dataclass(frozen=True)
class Converged:
    """Belief after a ledger."""

    chances: Array
    """(joint,)."""
    found: SubsetPosterior
    """The weighing they are from."""
    told: SubsetPosterior
    """The one that tells what was measured of each hypothesis beside what is held present."""
    gross_errors: Mapping[int, float]
    """Place -> chance of a gross error."""

    @property
    def measured(self) -> Array:
        """(told.rows,) log-likelihood of all that was measured."""
        return self.told.belief.measured()

    @property
    def standard_error(self) -> float:
        """The largest of a fault's chance."""
        return self.found.standard_error

    @property
    def high_side(self) -> float | None:
        """Chance that the module switches the positive end; None for no heater."""
        return high_side_chance(self.found.belief, self.found.posterior)


def converge(
    engine: Engine, readings: Sequence[Observed], earlier: Converged | None = None, seed: int = 0
) -> Converged:
    """Belief after a ledger.

    engine: of all hypotheses, its predictions of the readings worked out; seed: of the draws.
    earlier: after the same ledger without its newest reading. This spares the work where its draws still tell.
    """
    first = engine.belief(engine.models_for(readings))
    taken = take_in(first, readings)
    chances = first.posterior()
    grown = _grown(engine, first, chances, readings, earlier) if earlier is not None else None
    if grown is not None and grown.found.tells():
        return _kept(grown)
    found, told = (grown.found, grown.told) if grown is not None else (None, None)
    wanted = _believed_on_the_way(engine, first, taken, readings)
    learnt = learn(first, chances) if found is None else learn(found.belief, found.posterior)
    chances = chances if grown is None else grown.chances
    for turn, draws in enumerate(ROUNDS):
        if turn == 0 and found is not None:
            continue  # what was gathered before says more of where to go than the first draws do
        rows = _closed(engine.space, [*wanted, *_likeliest(chances)])
        contexts = _held_present(engine.space, chances)
        is_told = told is not None and told.knows(contexts)
        subset = Subset(rows if is_told else np.union1d(rows, contexts), _settled(found, rows) if is_told else {})
        found = _weighed(
            Engine(engine.subject, DrawSettings(draws, learnt, 1000 * seed + turn), subset), subset.rows, readings
        )
        told = told if is_told else found
        chances = _joined(first, found)
        if found.tells(AT_ONCE if turn == 0 else 1.0):
            break
        learnt = learn(found.belief, found.posterior)
    assert found is not None and told is not None
    return _kept(Converged(chances, found, told, _gross_errors(found, readings)))


def _kept(found: Converged) -> Converged:
    """With nothing kept of what was solved, only what it says of each reading."""
    found.found.engine.drop_answers()
    found.told.engine.drop_answers()
    return found


def _settled(found: SubsetPosterior | None, rows: Choice) -> dict[str, tuple[LoopModel, Choice]]:
    """The loops whose draws tell enough, if not all do, with their models; none where other hypotheses matter now."""
    if found is None or not found.knows(rows):
        return {}
    good = [loop for loop, error in found.errors.items() if error < ENOUGH_OF_ONE * TOLERANCE]
    models = {model.name: model for model in found.engine.models}
    return {loop: (models[loop], found.engine.own[loop]) for loop in good if len(good) < len(models)}


def _grown(
    engine: Engine, first: Belief, chances: Array, readings: Sequence[Observed], earlier: Converged
) -> Converged | None:
    """Belief with one more reading, by the draws of before; None where other hypotheses matter now."""
    before = earlier.found
    others = np.ones(chances.size, dtype=bool)
    others[before.rows] = False
    if float(chances[others].sum()) > NEWLY_LEFT_OUT:
        return None
    found = _weighed(before.engine, before.rows, readings)
    chances = _joined(first, found)
    if not earlier.told.knows(_held_present(engine.space, chances)):
        return None
    its = earlier.told
    told = found if its is before else _weighed(its.engine, its.rows, readings)
    return Converged(chances, found, told, _gross_errors(found, readings))


def _weighed(own: Engine, rows: Choice, readings: Sequence[Observed]) -> SubsetPosterior:
    own.work_out(item.probe for item in readings if item.counts)
    belief = own.belief(own.models_for(readings))
    taken = take_in(belief, readings)
    return SubsetPosterior(rows, own, belief, taken, belief.posterior())


def _gross_errors(found: SubsetPosterior, readings: Sequence[Observed]) -> Mapping[int, float]:
    return gross_errors_of(found.engine.belief(found.engine.models_for(readings)), found.taken)


def _joined(first: Belief, found: SubsetPosterior) -> Array:
    """(joint,) chances: of what was left out as the first draws say, of all else anew."""
    chance = first.posterior()
    left_out = np.ones(chance.size, dtype=bool)
    left_out[found.rows] = False
    rest = min(float(chance[left_out].sum()), LEFT_OUT)
    chance[left_out] *= rest / max(float(chance[left_out].sum()), 1e-300)
    chance[found.rows] = (1.0 - rest) * found.posterior
    return chance


def _likeliest(posterior: Array) -> Choice:
    """The hypotheses that all others together are less likely than ``LEFT_OUT`` beside."""
    order = np.argsort(-posterior)
    count = int(np.searchsorted(np.cumsum(posterior[order]), 1.0 - LEFT_OUT)) + 1
    return order[:count]


def _believed_on_the_way(
    engine: Engine, first: Belief, taken: Sequence[Evidence], readings: Sequence[Observed]
) -> list[int]:
    """The hypotheses that were likely before a repair, and what each repair takes away by itself."""
    if not any(item.repaired for item in taken):
        return []
    found: list[int] = []
    belief = engine.belief(engine.models_for(readings))
    for item in taken:
        if item.repaired:
            found += [int(row) for row in _likeliest(belief.posterior())]
            found += _single(engine.space, item.repaired)
        apply(belief, item)
    return found


def _single(space: JointSpace, names: Iterable[str]) -> list[int]:
    return [space.row_of[frozenset((name,))] for name in names if frozenset((name,)) in space.row_of]


def _closed(space: JointSpace, rows: Iterable[int]) -> Choice:
    """The rows with all that is left of them when faults are taken away, and that of no fault."""
    wanted = {int(row) for row in rows} | {space.row_of[frozenset()]}
    for row in list(wanted):
        wanted.update(_single(space, space.faults[row]))
    return np.array(sorted(wanted))


def _held_present(space: JointSpace, posterior: Array) -> Choice:
    """What is held to be present, alone and with each other fault: what shows whether a further fault is excluded."""
    best = space.faults[int(posterior.argmax())]
    contexts = [frozenset((name,)) for name in best] or [frozenset[str]()]
    listed = {space.row_of[context] for context in contexts} | {space.row_of[frozenset()]}
    for context in contexts:
        listed.update(row for names, row in space.row_of.items() if len(names) == len(context) + 1 and context <= names)
    listed.update(_single(space, space.incidence[0]))
    return np.array(sorted(listed))


def standard_errors(engine: Engine, belief: Belief, posterior: Array) -> dict[str, float]:
    """Loop -> the largest standard error of a fault's chance by the loop's draws."""
    has = engine.space.incidence[1]
    chance = posterior @ has
    shown = chance > _SHOWN
    found = dict.fromkeys(engine.loops, 0.0)
    if not shown.any():
        return found
    for loop, rows in engine.space.rows.items():
        draws = belief.draws(loop)
        own = np.zeros((len(draws), int(shown.sum())))
        np.add.at(own, rows, posterior[:, None] * has[:, shown])
        every = np.bincount(rows, weights=posterior, minlength=len(draws)) @ draws
        squares = ((own.T @ draws - chance[shown, None] * every) ** 2).sum(axis=1)
        found[loop] = float(np.sqrt(squares.max()))
    return found
