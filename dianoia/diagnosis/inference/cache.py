"""Engines that are kept, bounded in bytes: which go first when they are too big together."""

from collections import OrderedDict
from collections.abc import Callable, Sequence, Set
from random import Random
from threading import RLock
from time import monotonic

from dianoia.diagnosis.faults.subject import Subject
from dianoia.diagnosis.inference.engine import Engine
from dianoia.diagnosis.inference.size import array_bytes
from dianoia.diagnosis.inference.uses import UseHistory

#: Share of the bound from which on an engine is made ready without keeping all that was solved for it.
NEARLY = 0.5
#: Share by which an engine may grow before it is measured again.
LITTLE = 0.1


class EngineCache:
    """The engines of a process by what they are for; safe to use from several threads.

    most_bytes: of arrays, all engines together, besides the newest; clock: seconds, rising.
    """

    def __init__(self, most_bytes: int, clock: Callable[[], float] = monotonic) -> None:
        self.most_bytes = most_bytes
        self._engines: OrderedDict[Subject, Engine] = OrderedDict()
        self._bytes: dict[Subject, int] = {}
        self._measured: dict[Subject, int] = {}
        self._small: set[Subject] = set()
        self._resting: set[Subject] = set()
        self._uses = UseHistory[Subject](clock)
        self._random = Random(7)
        #: Held for moments, while the tables above are read or written.
        self._tables = RLock()

    def get(self, key: Subject) -> Engine | None:
        """The engine that is kept under a key."""
        with self._tables:
            return self._engines.get(key)

    @property
    def engines(self) -> Sequence[Engine]:
        """All that are kept, the newest last."""
        with self._tables:
            return [*self._engines.values()]

    def keep(self, key: Subject, engine: Engine) -> None:
        """Keep it as the newest. An engine grows while it works, so the one that worked until now is measured."""
        with self._tables:
            worked = next(reversed(self._engines), None)
            self._resting.discard(key)
            self._uses.note(key)
            self._engines[key] = engine
            self._engines.move_to_end(key)
            if worked is None or worked == key:
                return
            self._small.discard(key)
            self._measure(worked)
            self._bound([*self._engines][:-1])

    def rest(self, subjects: Set[Subject]) -> None:
        """Nothing is to be read next in their jobs: until then their engines are the first to go."""
        with self._tables:
            self._resting |= subjects & self._engines.keys()

    def settle(self) -> None:
        """Bound all engines, the newest too: nobody waits for it."""
        with self._tables:
            if self._engines:
                self._measure(next(reversed(self._engines)))
                self._bound([*self._engines])

    def clear(self) -> None:
        """Keep none."""
        with self._tables:
            self._engines.clear()
            self._bytes.clear()
            self._measured.clear()
            self._small.clear()
            self._resting.clear()
            self._uses.clear()

    @property
    def nearly_full(self) -> bool:
        """Whether what is only quicker to have is better not kept."""
        return sum(self._bytes.values()) > NEARLY * self.most_bytes

    @property
    def kept_bytes(self) -> int:
        """What is kept now, in bytes of arrays."""
        with self._tables:
            return sum(array_bytes(kept) for kept in self._engines.values())

    def _measure(self, key: Subject) -> None:
        """Note how big an engine is, unless it has hardly grown: to measure takes as long as a reading's fit."""
        kept, before = sum(self._engines[key].kept), self._measured.get(key)
        if before is None or abs(kept - before) > LITTLE * before:
            self._measured[key], self._bytes[key] = kept, array_bytes(self._engines[key])

    def _bound(self, keys: Sequence[Subject]) -> None:
        """Make room while all together are too big. keys: which engines may go, the oldest first.

        Those that rest go first, then those that nobody has come back to. Then all let go of what they can. At last any of them go.

        Any, not the oldest: people who come round to each of their jobs in turn would find every one of them forgotten.
        """
        if not self._too_big:
            return
        for may_go in (self._resting.__contains__, self._uses.is_stale):
            for key in keys:
                if self._too_big and may_go(key):
                    self._forget(key)
        for key in keys:
            if self._too_big and key in self._engines and key not in self._small:
                self._engines[key].let_go()
                self._measured.pop(key, None)
                self._measure(key)
                self._small.add(key)
        left = [key for key in keys if key in self._engines]
        while self._too_big and len(self._engines) > 1 and left:
            self._forget(left.pop(self._random.randrange(len(left))))

    def _forget(self, key: Subject) -> None:
        if key in self._engines and len(self._engines) > 1:
            del self._engines[key], self._bytes[key]
            self._measured.pop(key, None)
            self._small.discard(key)
            self._resting.discard(key)
            self._uses.forget(key)

    @property
    def _too_big(self) -> bool:
        return sum(self._bytes.values()) > self.most_bytes
