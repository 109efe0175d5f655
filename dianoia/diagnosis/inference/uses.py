"""When things were last used, and which of them nobody is likely to come back to."""

from collections.abc import Callable, Hashable
from time import monotonic
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
#: Uses of a thing that lie closer together than so many seconds are one.
AT_ONCE_S = 2.0
#: Share of the newest interval in what is usual.
NEWEST = 0.05
#: A thing not used for so many times what is usual between two uses is stale.
STALE_AFTER = 8.0


class UseHistory(Generic[K]):
    """Remembers when each thing was used, and how long it usually is until a thing is used again. clock: seconds, rising."""

    def __init__(self, clock: Callable[[], float] = monotonic) -> None:
        self._clock = clock
        self._last: dict[K, float] = {}
        #: Seconds, None before anything was used again.
        self._usual: float | None = None

    def note(self, key: K) -> None:
        """It is used now."""
        now = self._clock()
        since = now - self._last.get(key, now)
        if since > AT_ONCE_S:
            before = since if self._usual is None else self._usual
            self._usual = before + NEWEST * (since - before)
        self._last[key] = now

    def is_stale(self, key: K) -> bool:
        """Whether it has not been used for much longer than is usual; never before anything was used again."""
        if self._usual is None:
            return False
        return self._clock() - self._last.get(key, 0.0) > STALE_AFTER * self._usual

    def forget(self, key: K) -> None:
        """It is gone."""
        self._last.pop(key, None)

    def clear(self) -> None:
        """All are gone."""
        self._last.clear()
        self._usual = None
