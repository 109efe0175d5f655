"""The state of vehicle and plugs, reduced to what changes a circuit."""

from dataclasses import dataclass
from functools import lru_cache

from dianoia.case.ledger import State

#: A point pair joined by a jumper lead.
Jumper = tuple[str, str]
#: Resistance of a jumper lead in ohms.
JUMPER_OHMS = 0.05
#: What a signal wire is fed through, in ohms: the least that the case format allows, so that nothing can be harmed.
FED_THROUGH_OHMS = 10e3


@dataclass(frozen=True)
class Setting:
    """Hashable state of a circuit. sensor_c in °C or "hot"; at_s: seconds since start or key on; rpm in 1/min; fed_v: volts
    put on the signal wire through ``FED_THROUGH_OHMS``.
    """

    key: str = "off"
    connector: str = "mated"
    module_connector: str = "mated"
    battery: str = "connected"
    sensor_c: float | str | None = None
    at_s: float | None = None
    rpm: float | None = None
    codes_cleared: bool = False
    conditions: frozenset[str] = frozenset()
    jumpers: tuple[Jumper, ...] = ()
    fed_v: float | None = None

    @property
    def powered(self) -> bool:
        """Whether the module is awake: key on, running or cranking, battery connected."""
        return self.key != "off" and self.battery == "connected"


_BUILT_IN = {
    "signal-grounded": ("harness.signal", "battery.negative"),
    "control-grounded": ("harness.heater_control", "battery.negative"),
}


@lru_cache(maxsize=4096)
def setting_of(state: State, resistance: bool = False) -> Setting:
    """The setting a reading was taken in. A resistance defaults to key off and the connector unplugged."""
    conditions = state.conditions
    jumpers = [_BUILT_IN[name] for name in sorted(conditions) if name in _BUILT_IN]
    if state.jumper:
        jumpers.append(state.jumper)
    return Setting(
        key=state.key or "off",
        connector=state.connector or ("unplugged" if resistance else "mated"),
        module_connector=state.module_connector,
        battery=state.battery,
        sensor_c=state.sensor_c,
        at_s=state.at_s,
        rpm=state.rpm,
        codes_cleared=state.codes_cleared,
        conditions=conditions,
        jumpers=tuple(jumpers),
        fed_v=state.fed_v if "signal-fed" in conditions else None,
    )
