"""Whose turn it is: what someone waits for goes before what can wait, within one process.

Threads share one processor's time evenly, so a judgement of a moment would take as long as the big piece of work beside it. The
big one says now and then that it can give way, and stands still while something more urgent is at work. It does not while another
waits for a ``Lock`` that it holds, or that other one would wait for everything more urgent than the holder, too.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from enum import IntEnum
from threading import Condition, RLock, get_ident, local

from dianoia.scheduling import Scheduling, use

#: So many seconds at most does a piece of work stand still at once.
LONGEST_S = 2.0
#: So often does one who waits for a lock look who holds it now, in seconds.
_LOOKS_AGAIN_S = 0.1


class Turn(IntEnum):
    """How urgent a thread's work is, the first the most: a reading's judgement, what follows from it, what may be asked next."""

    JUDGING = 0
    CONCLUDING = 1
    AHEAD = 2


class _Turns:
    """How many threads are at work of each urgency."""

    def __init__(self) -> None:
        self.changed = Condition()
        self.at_work = [0] * len(Turn)
        #: Threads that another one waits for, and how urgent that one is.
        self.waited_for: list[tuple[int, int]] = []

    def before(self, turn: int) -> bool:
        """Whether anything more urgent is at work."""
        return any(self.at_work[:turn])

    def add(self, turn: int, count: int) -> None:
        """Count threads in or out."""
        with self.changed:
            self.at_work[turn] += count
            self.changed.notify_all()

    def may_go_on(self, turn: int) -> bool:
        """Whether nothing is at work that is more urgent than the thread that asks and than those that wait for it."""
        own = get_ident()
        return not self.before(min([turn, *(urgency for thread, urgency in self.waited_for if thread == own)]))

    @contextmanager
    def waiting_for(self, thread: int, turn: int) -> Iterator[None]:
        """Held while another thread waits for this one."""
        with self.changed:
            self.waited_for.append((thread, turn))
            self.changed.notify_all()
        try:
            yield
        finally:
            with self.changed:
                self.waited_for.remove((thread, turn))


_turns, _own = _Turns(), local()


@contextmanager
def taking(turn: Turn) -> Iterator[None]:
    """Held while this thread does work of an urgency."""
    before = getattr(_own, "turn", None)
    _own.turn = turn
    _turns.add(turn, 1)
    try:
        yield
    finally:
        _own.turn = before
        _turns.add(turn, -1)


def give_way(longest_s: float = LONGEST_S) -> None:
    """Stand still while something more urgent is at work; at once back where there is none, or where this thread took no turn."""
    turn = getattr(_own, "turn", None)
    if turn is None or _turns.may_go_on(turn):
        return
    with _turns.changed:
        _turns.changed.wait_for(lambda: _turns.may_go_on(turn), longest_s)


class Lock:
    """Held by one thread at a time, which may take it again; whoever waits for it has its turn's urgency passed on."""

    def __init__(self) -> None:
        self._held = RLock()
        self._holder = 0

    def __enter__(self) -> None:
        if not self._held.acquire(blocking=False):
            with _standing_by():
                self._wait()
        self._holder = get_ident()

    def _wait(self) -> None:
        turn = getattr(_own, "turn", None)
        while True:
            with _turns.waiting_for(self._holder, Turn.JUDGING if turn is None else turn):
                if self._held.acquire(timeout=_LOOKS_AGAIN_S):
                    return

    def __exit__(self, *error: object) -> None:
        self._held.release()


@contextmanager
def _standing_by() -> Iterator[None]:
    """Held while this thread waits for another one's work: nobody gives way to it meanwhile, or both would wait."""
    turn = getattr(_own, "turn", None)
    if turn is None:
        yield
        return
    _turns.add(turn, -1)
    try:
        yield
    finally:
        _turns.add(turn, 1)


use(Scheduling(give_way, Lock))
