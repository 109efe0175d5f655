"""What of one sensor changes in time: its temperatures, and what its module has seen of its heater."""

from dataclasses import dataclass, field

from dianoia.simulated.heat import AMBIENT_C, Drive, Port
from dianoia.simulated.state import State
from dianoia.simulated.wiring import CellPort

#: Ports are solved anew when a settled battery has moved by so many volts, or the element by so many degrees.
VOLTS_MOVED, DEGREES_MOVED = 0.01, 40.0


@dataclass
class SensorState:
    """One sensor at one moment."""

    exhaust_c: float = AMBIENT_C
    """What surrounds the tip, in °C."""
    element_c: float = AMBIENT_C
    """The heater (of a NOx sensor: the probe), in °C."""
    cell_c: float = AMBIENT_C
    """The cell, in °C."""
    driven_s: float = 0.0
    """Seconds that the module has driven the heater since start or clearing."""
    bad_s: float = 0.0
    """Seconds of them, after the warm-up, in which the module did not accept the current."""
    latched: bool = False
    """Whether the module has given the heater up."""
    tested: str = ""
    """What the last test of the heater since start or clearing came to: ``passed``, ``failed``, or nothing yet."""
    drives: list[Drive] = field(default_factory=list)
    """What feeds the element now."""
    water: float = 0.0
    """Water in the exhaust ahead of the tip, in kelvin seconds of drying."""
    ready_s: float = 0.0
    """Seconds that a NOx probe has been at temperature."""
    cold_s: float = 0.0
    """Seconds that it has been heated and is not."""


@dataclass
class Ports:
    """The circuit of one sensor as last solved, kept while nothing that it depends on has moved."""

    switched: tuple[State, bool, bool] | None = None
    """How everything stood, whether the feed's relay was closed, and whether a NOx unit was heating."""
    volts: float = 0.0
    """Battery's open volts."""
    celsius: float = AMBIENT_C
    """Element's temperature."""
    heater: dict[bool, Port] = field(default_factory=dict)
    """Driver on or off -> what feeds the element."""
    cell: CellPort | None = None
    """What a switching cell is connected to."""

    supply: float = 0.0
    """Of a NOx unit: its volts as a share of the system's."""

    def holds(self, switched: tuple[State, bool, bool], volts: float, least_v: float, celsius: float) -> bool:
        """Whether what is kept is still true. least_v: what the battery's volts may have moved."""
        moved = abs(self.volts - volts) >= least_v or abs(self.celsius - celsius) >= DEGREES_MOVED
        return self.switched == switched and not moved
