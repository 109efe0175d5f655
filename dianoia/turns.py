"""Whose turn it is: what someone waits for goes before what can wait, within one process.

Threads share one processor's time evenly, so a judgement of a moment would take as long as the big piece of work beside it. The
big one says now and then that it can give way, and stands still while something more urgent is at work.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from enum import IntEnum
from threading import Condition, local

#: So many seconds at most does a piece of work stand still at once.
LONGEST_S = 2.0


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

    def before(self, turn: int) -> bool:
        """Whether anything more urgent is at work."""
        return any(self.at_work[:turn])

    def add(self, turn: int, count: int) -> None:
        """Count threads in or out."""
        with self.changed:
            self.at_work[turn] += count
            self.changed.notify_all()


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
    if turn is None or not _turns.before(turn):
        return
    with _turns.changed:
        _turns.changed.wait_for(lambda: not _turns.before(turn), longest_s)


@contextmanager
def standing_by() -> Iterator[None]:
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
