"""What the core calls between pieces of long work, and what it holds while it changes what threads share.

The core knows no threads' urgency: whoever runs it says what becomes of a checkpoint, once for its process.
"""

from collections.abc import Callable
from contextlib import AbstractContextManager
from dataclasses import dataclass
from threading import RLock
from typing import Any


def _go_on() -> None:
    """Nothing waits."""


@dataclass(frozen=True)
class Scheduling:
    """What long work calls, and the lock that it takes."""

    checkpoint: Callable[[], None] = _go_on
    """Called between pieces of work, may stand still."""
    lock: Callable[[], AbstractContextManager[Any]] = RLock
    """Makes a lock that its holder may take again."""


_used = [Scheduling()]


def use(scheduling: Scheduling) -> None:
    """Run the core by this from now on, in this process."""
    _used[0] = scheduling


def checkpoint() -> None:
    """Between two pieces of work."""
    _used[0].checkpoint()


def new_lock() -> AbstractContextManager[Any]:
    """A lock for what several threads share."""
    return _used[0].lock()
