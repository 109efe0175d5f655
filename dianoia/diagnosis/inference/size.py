"""How much memory something keeps in arrays."""

from collections.abc import Iterable
from types import BuiltinFunctionType, FunctionType, MethodType, ModuleType
from typing import Any

import numpy as np
from numpy.typing import NDArray

#: What holds no array, by its own type: most of what is met.
_PLAIN = frozenset(
    (str, bytes, int, float, bool, type(None), type, FunctionType, MethodType, BuiltinFunctionType, ModuleType)
)


def array_bytes(root: object) -> int:
    """Bytes of all arrays that can be reached from an object by its attributes and containers, each counted once."""
    seen: set[int] = set()
    stack: list[object] = [root]
    total = 0
    while stack:
        item = stack.pop()
        kind = type(item)
        if kind in _PLAIN or id(item) in seen:
            continue
        if isinstance(item, np.ndarray):
            total += _whole_bytes(item, seen)
        else:
            seen.add(id(item))
            stack.extend(_held_by(item))
    return total


def _whole_bytes(array: NDArray[Any], seen: set[int]) -> int:
    """Bytes of the array that this one is a part of, if it was not met before."""
    while isinstance(array.base, np.ndarray):
        array = array.base
    met = id(array) in seen
    seen.add(id(array))
    return 0 if met else array.nbytes


def _held_by(item: object) -> Iterable[object]:
    if isinstance(item, dict):
        return item.values()
    if isinstance(item, list | tuple | set | frozenset):
        return () if item and isinstance(next(iter(item)), str) else item
    return vars(item).values() if hasattr(item, "__dict__") else ()
