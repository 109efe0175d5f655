"""Engines that are kept, bounded in bytes: which go first when they are too big together."""

from collections import OrderedDict
from collections.abc import Callable, Sequence, Set
from random import Random
from threading import RLock
from time import monotonic

from dianoia.diagnosis.faults.subject import Subject
from dianoia.diagnosis.inference.engine import Engine
from dianoia.diagnosis.inference.first_readings import Key, Readings
from dianoia.diagnosis.inference.size import array_bytes
from dianoia.diagnosis.inference.uses import Uses

#: Share of the bound from which on an engine is made ready without keeping all that was solved for it.
NEARLY = 0.5
#: Share by which an engine may grow before it is measured again.
LITTLE = 0.1


class EngineCache:
    """The engines of a process by explicit keys; safe to use from several threads.

    most_bytes: of arrays, all engines together, besides the newest; clock: seconds, rising.
    """

    def __init__(self, most_bytes: int, clock: Callable[[], float] = monotonic) -> None:
        self.most_bytes = most_bytes
        self._engines: OrderedDict[Key, Engine] = OrderedDict()
        self._bytes: dict[Key, int] = {}
        self._measured: dict[Key, int] = {}
        self._small: set[Key] = set()
        self._resting: set[Key] = set()
        self._uses = Uses[Key](clock)
        self._random = Random(7)
        #: Held for moments, while the tables above are read or written.
        self._tables = RLock()

    def get(self, key: Key) -> Engine | None:
        """The engine that is kept under a key."""
        with self._tables:
            return self._engines.get(key)

    @property
    def engines(self) -> Sequence[Engine]:
        """All that are kept, the newest last."""
        with self._tables:
            return [*self._engines.values()]

    def keep(self, key: Key, engine: Engine) -> None:
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

    def rest(self, subjects: Set[Subject], readings: Readings) -> None:
        """Nothing is to be read next after these: until then their engines are the first to go."""
        with self._tables:
            self._resting |= {key for key in self._engines if key[0] in subjects and key[1] == readings[: len(key[1])]}

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

    def _measure(self, key: Key) -> None:
        """Note how big an engine is, unless it has hardly grown: to measure takes as long as a reading's fit."""
        kept, before = sum(self._engines[key].kept), self._measured.get(key)
        if before is None or abs(kept - before) > LITTLE * before:
            self._measured[key], self._bytes[key] = kept, array_bytes(self._engines[key])

    def _settle(self) -> None:
        """Bound all engines, the newest too: nobody waits for it."""
        with self._tables:
            if self._engines:
                newest = next(reversed(self._engines))
                self._measure(newest)
                self._bound([*self._engines])

    def _bound(self, keys: Sequence[Key]) -> None:
        """Make room while all together are too big. keys: which engines may go, the oldest first.

        Engines that are soon built again go first. Then those that others have taken the place of go, those that rest, and those
        that nobody has come back to. Then all let go of what they can. At last any of them go.

        Any, not the oldest: people who come round to each of their jobs in turn would find every one of them forgotten.
        """
        if not self._too_big:
            return
        for may_go in (self._is_firm, self._is_superseded, self._resting.__contains__, self._uses.is_stale):
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

    def _forget(self, key: Key) -> None:
        if key in self._engines and len(self._engines) > 1:
            del self._engines[key], self._bytes[key]
            self._measured.pop(key, None)
            self._small.discard(key)
            self._resting.discard(key)
            self._uses.forget(key)

    def _is_firm(self, key: Key) -> bool:
        return any(isinstance(item, str) for item in key[1])

    def _is_superseded(self, key: Key) -> bool:
        """Whether there is an engine whose draws were taken by these readings and more. The first one stays: what a finding hides is
        told by it.
        """
        subject, readings = key
        return bool(readings) and any(
            its[0] == subject and len(its[1]) > len(readings) and its[1][: len(readings)] == readings
            for its in self._engines
        )

    @property
    def _too_big(self) -> bool:
        return sum(self._bytes.values()) > self.most_bytes
