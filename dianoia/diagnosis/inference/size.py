"""How much memory something keeps in arrays."""

from collections.abc import Iterable
from types import BuiltinFunctionType, FunctionType, MethodType, ModuleType

import numpy as np

_PLAIN = (str, bytes, int, float, bool, type, FunctionType, MethodType, BuiltinFunctionType, ModuleType, type(None))


def array_bytes(root: object) -> int:
    """Bytes of all arrays that can be reached from an object by its attributes and containers, each counted once."""
    seen: set[int] = set()
    stack: list[object] = [root]
    total = 0
    while stack:
        item = stack.pop()
        if isinstance(item, np.ndarray):
            while isinstance(item.base, np.ndarray):
                item = item.base
            total += 0 if id(item) in seen else item.nbytes
            seen.add(id(item))
        elif not isinstance(item, _PLAIN) and id(item) not in seen:
            seen.add(id(item))
            stack.extend(_held_by(item))
    return total


def _held_by(item: object) -> Iterable[object]:
    if isinstance(item, dict):
        return item.values()
    if isinstance(item, list | tuple | set | frozenset):
        return () if item and isinstance(next(iter(item)), str) else item
    return vars(item).values() if hasattr(item, "__dict__") else ()
