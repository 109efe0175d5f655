"""How passwords are hashed: a hash costs memory on purpose, so only two are worked out at a time."""

from collections.abc import Iterator
from contextlib import contextmanager
from threading import BoundedSemaphore, Lock

from django.contrib.auth.hashers import Argon2PasswordHasher

#: Hashes at a time, and people who may wait for their turn.
AT_A_TIME, WAITING = 2, 8


class TooBusy(Exception):
    """More people sign in at once than may wait."""


class HashingSlots:
    """A few at a time; some wait; whoever comes after them is turned away at once."""

    def __init__(self, at_a_time: int, waiting: int) -> None:
        self._free = BoundedSemaphore(at_a_time)
        self._most = at_a_time + waiting
        self._here = 0
        self._lock = Lock()

    @contextmanager
    def one(self) -> Iterator[None]:
        """A turn. Raises TooBusy where too many wait."""
        with self._lock:
            if self._here >= self._most:
                raise TooBusy
            self._here += 1
        try:
            with self._free:
                yield
        finally:
            with self._lock:
                self._here -= 1


turns = HashingSlots(AT_A_TIME, WAITING)


class BoundedArgon2(Argon2PasswordHasher):
    """Argon2id at 19 MiB, two passes and one lane: the first parameters that the OWASP Password Storage Cheat Sheet recommends.

    Passwords that were kept at a greater cost are kept anew when their owner signs in.
    """

    memory_cost = 19 * 1024
    time_cost = 2
    parallelism = 1

    def encode(self, password: str, salt: str) -> str:
        """See Django. Raises TooBusy."""
        with turns.one():
            return str(super().encode(password, salt))

    def verify(self, password: str, encoded: str) -> bool:
        """See Django. Raises TooBusy."""
        with turns.one():
            return bool(super().verify(password, encoded))
