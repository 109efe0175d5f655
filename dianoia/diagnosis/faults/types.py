"""A fault: where it lies, how often it is behind a code, what mends it."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from dianoia.families.types import Cell
from dianoia.tables import ROW

Component = Literal["sensor", "wiring", "supply", "module", "exhaust", "mixture", "catalyst", "dosing"]
Part = Literal[
    "supply", "control", "driver", "heater", "signal", "return", "bias", "reference", "pump", "trim", "cell",
    "ground", "bus",
]  # fmt: skip


@dataclass(frozen=True)
class FaultRow:
    """A row of faults.json. weight: how often it is behind a code of its loop, relative to the others.

    by_code: the code's failure, or failure:circuit -> factor on the weight; latch: chance that the module has shut the
    heater off over it; site: faults of one site exclude each other; cells ("shell" for a cell that returns through it),
    positions: where it can be, empty for anywhere.
    """

    __pydantic_config__ = ROW
    id: str
    loop: Annotated[str, Field(pattern=r"^(heater|signal|nox)( (heater|signal|nox))*$")]
    component: Component
    part: Part
    site: Annotated[str, Field(min_length=1)]
    weight: Annotated[float, Field(gt=0)]
    by_code: Mapping[str, Annotated[float, Field(gt=0)]]
    latch: Annotated[float, Field(ge=0, le=1)]
    says: Annotated[str, Field(min_length=1)]
    mend: Annotated[str, Field(min_length=1)]
    reason: Annotated[str, Field(min_length=1)]
    cells: tuple[Cell | Literal["shell"], ...] = ()
    positions: tuple[Literal[1, 2, 3], ...] = ()
