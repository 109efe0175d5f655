"""When the draws are taken anew, and by which readings: where too few of them still stand."""

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import replace
from threading import RLock
from typing import Generic, TypeVar

from dianoia.diagnosis.inference.belief import Belief
from dianoia.diagnosis.inference.engine import Engine
from dianoia.diagnosis.inference.evidence import take_in
from dianoia.diagnosis.inference.first_readings import FirstReadings, Key, Readings
from dianoia.diagnosis.inference.learn import Learnt, learn, standing_draws

#: Readings after which the draws may be taken anew; how few may still stand before they are; and the length of a
#: ledger from which they are left alone.
LEARN_AFTER, WORN, LEARN_UNTIL = 3, 8.0, 60
#: Ledgers of which it is kept where their draws were taken anew, and how.
_LEDGERS = 480
V = TypeVar("V")


class _Recent(Generic[V]):
    """What was found of the newest ledgers; safe to use from several threads."""

    def __init__(self) -> None:
        self._kept: OrderedDict[Key, V] = OrderedDict()
        self._lock = RLock()

    def get(self, key: Key) -> V | None:
        with self._lock:
            return self._kept.get(key)

    def keep(self, key: Key, value: V) -> None:
        with self._lock:
            self._kept[key] = value
            self._kept.move_to_end(key)
            while len(self._kept) > _LEDGERS:
                self._kept.popitem(last=False)

    def clear(self) -> None:
        with self._lock:
            self._kept.clear()


class ResamplingPolicy:
    """Says by how many of a ledger's first readings its draws are taken. believed: engine and belief after a ledger."""

    def __init__(self, believed: Callable[[FirstReadings], tuple[Engine, Belief]]) -> None:
        self._believed = believed
        self._taken, self._worn, self._densities = _Recent[int](), _Recent[bool](), _Recent[Learnt]()

    def clear(self) -> None:
        """Know nothing of any ledger."""
        for table in (self._taken, self._worn, self._densities):
            table.clear()

    def taken_by(self, ledger: FirstReadings) -> int:
        """By how many of a ledger's first readings its draws are taken, less than all; 0 for by none."""
        if ledger.count <= LEARN_AFTER:
            return 0
        if ledger.count > LEARN_UNTIL + 1:
            return self.taken_by(ledger.of(LEARN_UNTIL + 1))
        known = self._taken.get(ledger.key)
        if known is None:
            before = ledger.of(ledger.count - 1)
            known = before.count if self.wears_out(before) else self.taken_by(before)
            self._taken.keep(ledger.key, known)
        return known

    def wears_out(self, ledger: FirstReadings) -> bool:
        """Whether too few draws still stand after these readings, so that those to come need new ones."""
        key = ledger.key
        known = self._worn.get(key)
        if known is None:
            known = self._few_stand(ledger)
            self._worn.keep(key, known)
        return known

    def _few_stand(self, ledger: FirstReadings) -> bool:
        if ledger.count > LEARN_UNTIL or ledger.count - self.taken_by(ledger) < LEARN_AFTER:
            return False
        engine, belief = self._believed(ledger)
        posterior = belief.posterior()
        return any(standing_draws(belief, posterior, loop) < WORN for loop in engine.loops)

    def learnt(self, drawn_by: FirstReadings) -> Learnt | None:
        """How to take the draws by some of a ledger's first readings; None by none."""
        if not drawn_by.count:
            return None
        known = self._densities.get(drawn_by.key)
        if known is None:
            _, belief = self._believed(drawn_by)
            known = learn(belief, belief.posterior())
            self._densities.keep(drawn_by.key, known)
        return known


def learnt_from(engine: Engine, readings: Readings, times: int) -> Learnt:
    """How to take the draws by what an engine believes after these readings. times: see ``Learnt``."""
    belief = engine.belief(engine.models_for(readings))
    take_in(belief, readings)
    return replace(learn(belief, belief.posterior()), times=times)
