"""Test lamps, from lamps.json, checked at load."""

from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Annotated

from pydantic import Field

from dianoia.tables import ROW, read_document, require

_FILE = Path(__file__).parent / "data" / "lamps.json"
Watts = Annotated[float, Field(ge=0.1, le=100)]


@dataclass(frozen=True)
class Lamp:
    """A size of lamp at hand."""

    __pydantic_config__ = ROW
    watts: Watts
    """At system voltage."""
    label: Annotated[str, Field(min_length=1)]


@dataclass(frozen=True)
class LampTable:
    """lamps.json."""

    __pydantic_config__ = ROW
    usual_watts: Watts
    """The lamp that is taken for used unless said, in W."""
    load_watts: Watts
    """From here on a lamp counts as a load."""
    load_reason: str
    small_element_ohms: Annotated[float, Field(gt=0)]
    small_element_watts: Watts
    """In front of an element below small_element_ohms, hot, its light alone does so only from here on."""
    small_element_reason: str
    lamps: tuple[Lamp, ...]


@cache
def lamps() -> LampTable:
    """The whole table. Raises BrokenTable."""
    table = read_document(_FILE, "dianoia-lamps/1", LampTable)
    sizes = [row.watts for row in table.lamps]
    require(table.usual_watts in sizes, _FILE.name, "usual_watts", "one of the lamps", table.usual_watts)
    require(sizes == sorted(set(sizes)), _FILE.name, "lamps", "each size once, the smallest first", sizes)
    return table
