"""The state of vehicle and plugs, reduced to what changes a circuit."""

from dataclasses import dataclass

#: A point pair joined by a jumper lead.
Jumper = tuple[str, str]


@dataclass(frozen=True)
class Setting:
    """Hashable state of a circuit."""

    key: str = "off"
    connector: str = "mated"
    module_connector: str = "mated"
    battery: str = "connected"
    sensor_c: float | str | None = None
    """The element's temperature in °C, or "hot"."""
    at_s: float | None = None
    """Seconds since start or key on."""
    rpm: float | None = None
    """Engine speed in 1/min."""
    codes_cleared: bool = False
    conditions: frozenset[str] = frozenset()
    jumpers: tuple[Jumper, ...] = ()
    fed_v: float | None = None
    """Volts put on the signal wire."""
    others_apart: bool = False
    """The other consumers of the feed are unplugged."""

    @property
    def powered(self) -> bool:
        """Whether the module is awake: key on, running or cranking, battery connected."""
        return self.key != "off" and self.battery == "connected"


#: Leads that a condition lays by itself.
LAID_BY = {
    "signal-grounded": ("harness.signal", "battery.negative"),
    "control-grounded": ("harness.heater_control", "battery.negative"),
}
