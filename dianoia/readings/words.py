"""Probes and states in a colleague's words."""

from collections.abc import Iterator, Mapping

from dianoia.case.ledger import (
    ActProbe,
    CurrentProbe,
    InspectProbe,
    LampProbe,
    Probe,
    ResistanceProbe,
    ScanProbe,
    ScopeProbe,
    State,
    TraceProbe,
    VoltageProbe,
)  # fmt: skip
from dianoia.case.points import words
from dianoia.case.swapped import BROUGHT, TAKEN_AWAY
from dianoia.case.terms import Pid
from dianoia.case.types import Pin

_PIDS: Mapping[Pid, str] = {
    "heater_current": "heater current", "heater_resistance": "heater resistance", "heater_command": "heater command",
    "sensor_voltage": "sensor voltage", "cell_current": "cell current", "lambda": "lambda",
    "battery_voltage": "battery voltage", "short_trim": "short-term fuel trim", "long_trim": "long-term fuel trim",
    "loop": "loop status", "heater_monitor": "heater monitor", "nox": "NOx value", "o2": "O2 value",
    "nox_status": "NOx sensor status", "can_messages": "the sensor's CAN messages",
}  # fmt: skip
#: Scan values that a meter or a scope could show as well: where they were read is said.
_OF_METERS: frozenset[Pid] = frozenset(
    (
        "heater_current",
        "heater_resistance",
        "heater_command",
        "sensor_voltage",
        "cell_current",
        "lambda",
        "battery_voltage",
    )
)
_OF = {
    "known-good": "with a known-good sensor", "new": "with the new sensor", "old": "on the old sensor",
    BROUGHT: "with the other sensor, swapped in", TAKEN_AWAY: "with this sensor in the other's place",
}  # fmt: skip
#: The part that was read, as a noun.
_PART_READ = {
    "known-good": "a known-good sensor", "new": "the new sensor", "old": "the old sensor",
    BROUGHT: "the sensor that was swapped in", TAKEN_AWAY: "this sensor in the other's place",
}  # fmt: skip
_KEYS = {"off": "key off", "on": "key on, engine off", "running": "engine running", "cranking": "cranking"}


def part_read(of: str) -> str:
    """Which other part a reading is of, as a noun."""
    return _PART_READ.get(of, of)


def where(probe: Probe) -> str:
    """What is measured and between which points, as it follows a value: ``5.9 ohm`` "across the heater element"."""
    if isinstance(probe, ScanProbe):
        return f"as {_on_tool(probe.pid)}"
    return f"of the {_on_tool(probe.signal)}" if isinstance(probe, TraceProbe) else place(probe)


def _on_tool(pid: Pid) -> str:
    return f"{_PIDS[pid]} on the scan tool" if pid in _OF_METERS else _PIDS[pid]


def place(probe: Probe) -> str:
    """The same as it follows an instrument: "test lamp" "across the heater element"."""
    if isinstance(probe, ScanProbe):
        return _PIDS[probe.pid]
    if isinstance(probe, TraceProbe):
        return f"of the {_PIDS[probe.signal]}"
    if isinstance(probe, InspectProbe):
        if probe.target == "pins":
            return "try the plug's terminals with a spare male pin"
        return f"look at the {probe.target.replace('-', ' ')}"
    if isinstance(probe, ActProbe):
        return probe.action.replace("-", " ")
    if isinstance(probe, CurrentProbe):
        return f"at {words(probe.at)}"
    if {probe.red, probe.black} == {"sensor.heater_supply", "sensor.heater_control"}:
        return "across the heater element"
    return f"from {words(probe.red)} to {words(probe.black)}"


def short_place(probe: Probe, pins: Mapping[str, Pin] | None = None) -> str:
    """The same where there is little room: "heater supply, loom side → battery −". pins: the vehicle's own."""
    if isinstance(probe, CurrentProbe):
        return words(probe.at, pins)
    if not isinstance(probe, VoltageProbe | ResistanceProbe | LampProbe | ScopeProbe) or probe.across_element:
        return place(probe)
    if isinstance(probe, LampProbe) and not probe.points:
        return "in place of the heater"
    return f"{words(probe.red, pins)} → {words(probe.black, pins)}"


def state(probe: State) -> str:
    """Key, plugs and conditions, as far as they were said."""
    return ", ".join([*_vehicle(probe), *_circuit(probe), *_met(probe)])


def _vehicle(probe: State) -> Iterator[str]:
    if probe.key:
        yield _KEYS[probe.key]
    if probe.rpm is not None:
        yield f"{probe.rpm:g} rpm"
    if probe.at_s is not None:
        yield f"after {probe.at_s:g} s"
    if probe.battery == "disconnected":
        yield "battery off"


def _circuit(probe: State) -> Iterator[str]:
    if probe.connector:
        yield "plugged in" if probe.connector == "mated" else "plug apart"
    if probe.module_connector == "unplugged":
        yield "module unplugged"
    if probe.others:
        yield "the feed's other consumers unplugged"
    if probe.sensor_c is not None:
        yield "hot" if probe.sensor_c == "hot" else f"element at {probe.sensor_c:g} °C"


def _met(probe: State) -> Iterator[str]:
    yield from (name.replace("-", " ") for name in sorted(probe.conditions))
    if probe.fed_v is not None:
        yield f"{probe.fed_v:g} V fed"
    if probe.jumper:
        yield f"{words(probe.jumper[0])} bridged to {words(probe.jumper[1])}"
    if probe.of:
        yield _OF.get(probe.of, f"at sensor {probe.of}")
    if probe.codes_cleared:
        yield "codes just cleared"


def instrument(probe: Probe) -> str:
    """What is held in the hand."""
    if isinstance(probe, VoltageProbe) and probe.load:
        return f"volts under a {_size(probe.watts)}lamp"
    if isinstance(probe, LampProbe):
        return f"{_size(probe.watts)}{'LED' if probe.kind == 'led' else 'test'} lamp"
    return _INSTRUMENTS[probe.measure]


def _size(watts: float | None) -> str:
    return f"{watts:g} W " if watts else ""


_INSTRUMENTS = {
    "voltage": "volts", "resistance": "ohms", "scope": "scope", "current": "clamp",
    "scan": "scan tool", "trace": "recording", "inspect": "eyes", "act": "act",
}  # fmt: skip
