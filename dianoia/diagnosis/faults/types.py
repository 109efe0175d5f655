"""A fault: where it lies, how often it is behind a code, what mends it."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from dianoia.case.terms import HeaterSwitch
from dianoia.codes.types import Circuit
from dianoia.families.types import Cell
from dianoia.readings.model import Traits
from dianoia.tables import ROW

#: ``feed``: between battery and plug, not told apart yet whether supply or wiring; no fault is of it.
Component = Literal["sensor", "wiring", "supply", "module", "exhaust", "mixture", "catalyst", "dosing", "feed"]
Part = Literal[
    "supply", "control", "driver", "heater", "signal", "return", "bias", "reference", "pump", "trim", "cell",
    "ground", "bus",
]  # fmt: skip


#: The site of what listens in the module.
INPUT = "input"
#: Components that a sensor may report truthfully.
REPORTED: frozenset[Component] = frozenset(("exhaust", "mixture", "catalyst", "dosing"))


@dataclass(frozen=True)
class FaultRow:
    """A row of faults.json."""

    __pydantic_config__ = ROW
    id: str
    loop: Annotated[str, Field(pattern=r"^(heater|signal|nox)( (heater|signal|nox))*$")]
    component: Component
    part: Part
    site: Annotated[str, Field(min_length=1)]
    """Where it sits. Faults of one site exclude each other."""
    weight: Annotated[float, Field(gt=0)]
    """How often it is behind a code of its loop, relative to the others."""
    by_code: Mapping[str, Annotated[float, Field(gt=0)]]
    """The code's failure, or failure:circuit -> factor on the weight."""
    latch: Annotated[float, Field(ge=0, le=1)]
    """Chance that the module has shut the heater off over it."""
    says: Annotated[str, Field(min_length=1)]
    mend: Annotated[str, Field(min_length=1)]
    reason: Annotated[str, Field(min_length=1)]
    cells: tuple[Cell | Literal["shell"], ...] = ()
    positions: tuple[Literal[1, 2, 3], ...] = ()
    only_where: HeaterSwitch | None = None
    """The side that the module switches, where it is no fault with the other."""
    named_by: tuple[Circuit, ...] = ()
    """Circuits of a code that name it."""
    bus: Literal["held", "cut"] | None = None
    """The lines are held, or the unit is cut off from them."""
    heats: bool = False
    """The element is heated nevertheless."""
    heated: bool = False
    """Only where the sensor has a heater."""
    bypassed: bool = False
    """The element works where its control wire is grounded at the plug."""
    felt_elsewhere: str | None = None
    """The fault that every other sensor on the feed, module and engine feels of it."""
    felt_behind: str | None = None
    """How far it is felt further down the pipe."""
    one_bank: Annotated[float, Field(ge=0, le=1)] = 0.0
    """Share of those that a sensor of another bank does not feel."""
    unloaded: bool = False
    """Whether it shows without a load."""
    resistive: bool = False
    """Whether it shows under load only."""
    gradual: bool = False
    """Whether it comes in degrees, and is neither an open nor a short."""
    masks_catalyst: bool = False
    """A worn catalyst may hide behind it."""

    @property
    def of_circuit(self) -> bool:
        """Whether its part is bad with it. A part reaches to the plug, and the plug's own pins are wiring besides it. The module's
        input only listens to it, and what a sensor reports truthfully is no fault of its cell.
        """
        return not self.id.startswith("pin-") and self.site != INPUT and self.component not in REPORTED

    @property
    def definite(self) -> bool:
        """Whether it is an open, a short, or something that does not work at all."""
        return not (self.resistive or self.gradual)

    @property
    def traits(self) -> Traits:
        """What the models of the loops have to know of it."""
        return Traits(self.latch, self.bus, self.only_where)
