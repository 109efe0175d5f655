"""Memory that is free goes back to the machine: a process that works with large arrays otherwise keeps three times what it uses."""

import ctypes
import os
from functools import cache

#: Heaps of a process of several threads; with one for each thread what one frees the others cannot use.
HEAPS = 2


def keep_heaps_few() -> None:
    """For the processes started from now on, where the C library is one that knows the setting; others ignore it."""
    os.environ.setdefault("MALLOC_ARENA_MAX", str(HEAPS))


def give_back() -> None:
    """Give back what is free, where the C library can."""
    trim = _trim()
    if trim is not None:
        trim(0)


@cache
def _trim() -> ctypes._CFuncPtr | None:  # type: ignore[name-defined]
    try:
        return ctypes.CDLL(None).malloc_trim
    except (AttributeError, OSError, TypeError):  # another system's library
        return None
