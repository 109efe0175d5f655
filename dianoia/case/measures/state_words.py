"""The state of vehicle and plugs as a colleague says it."""

from collections.abc import Iterator, Mapping

from dianoia.case.measures.state import BROUGHT, TAKEN_AWAY, State
from dianoia.case.points import words
from dianoia.case.terms import Key

_OF = {
    "known-good": "with a known-good sensor", "new": "with the new sensor", "old": "on the old sensor",
    BROUGHT: "with the other sensor, swapped in", TAKEN_AWAY: "with this sensor in the other's place",
}  # fmt: skip
KEYS: Mapping[Key, str] = {
    "off": "key off",
    "on": "key on, engine off",
    "running": "engine running",
    "cranking": "cranking",
}


def state_words(probe: State) -> str:
    """Key, plugs and conditions, as far as they were said."""
    return ", ".join([*_vehicle(probe), *_circuit(probe), *_met(probe)])


def _vehicle(probe: State) -> Iterator[str]:
    if probe.key:
        yield KEYS[probe.key]
    if probe.rpm is not None:
        yield f"{probe.rpm:g} rpm"
    if probe.at_s is not None:
        yield f"after {probe.at_s:g} s"
    if probe.coolant_c is not None:
        yield f"coolant at {probe.coolant_c:g} °C"
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
