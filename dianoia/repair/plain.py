"""plain.json: what was wrong, as a driver understands it."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from dianoia.diagnosis.faults.tables import faults
from dianoia.tables import ROW, read_document, require

_FILE = Path(__file__).parent / "data" / "plain.json"


@dataclass(frozen=True)
class _Row:
    """says: of every fault whose id begins so; the first that fits counts."""

    __pydantic_config__ = ROW
    begins: str
    says: str


@dataclass(frozen=True)
class _Table:
    __pydantic_config__ = ROW
    rows: tuple[_Row, ...]


@cache
def _rows() -> tuple[_Row, ...]:
    rows = read_document(_FILE, "dianoia-plain/1", _Table).rows
    for name in faults():
        told = any(name.startswith(row.begins) for row in rows)
        require(told, _FILE.name, name, "a row that it begins like", "none")
    for row in rows:
        used = any(name.startswith(row.begins) for name in faults())
        require(used, _FILE.name, row.begins, "the beginning of a fault", row.begins)
    return rows


def plainly(found: Iterable[str]) -> tuple[str, ...]:
    """What was wrong, a sentence for each kind of fault."""
    told = [next(row.says for row in _rows() if name.startswith(row.begins)) for name in found]
    return tuple(dict.fromkeys(told))
