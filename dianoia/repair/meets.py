"""Whether a reading is the one that a row of the proof asks for, and which acts undo what was read before them."""

from collections.abc import Mapping
from dataclasses import replace

from dianoia.case.measures import Probe
from dianoia.case.terms import Action, InspectTarget
from dianoia.repair.types import ProofKind

#: From so many seconds of running on, a current that is still there says that the module has not let go of it again.
LATER_S = 120.0
#: From so many revolutions a minute on, the engine runs faster than idle.
RAISED_RPM = 1200.0


def meets(read: Probe, asked: Probe, kind: ProofKind) -> bool:
    """Whether a reading was taken where, under which conditions and in which state the row asks for.

    What it showed is not looked at. kind: of the row; time since the start counts where the row is about it.
    """
    return (
        _same_points(read, asked)
        and read.conditions == asked.conditions
        and (read.fed_v is None) == (asked.fed_v is None)
        and (read.codes_cleared or not asked.codes_cleared)
        and (asked.others is None or read.others == asked.others)
        and _same_state(read, asked)
        and _same_load(read, asked)
        and _late_enough(read, asked, kind)
        and _known_temperature(read, asked)
    )


def _same_points(read: Probe, asked: Probe) -> bool:
    if read.asks == asked.asks:
        return True
    turned = read.reads_ohms and asked.reads_ohms
    return turned and replace(read, red=read.black, black=read.red).asks == asked.asks  # type: ignore[arg-type, union-attr]


def _same_state(read: Probe, asked: Probe) -> bool:
    if read.by_hand:
        return True
    a, b = read.setting, asked.setting
    plugs = (a.connector, a.module_connector, a.battery) == (b.connector, b.module_connector, b.battery)
    faster = asked.rpm is None or (read.rpm is not None and (read.rpm >= RAISED_RPM) == (asked.rpm >= RAISED_RPM))
    return a.key == b.key and plugs and faster


def _same_load(read: Probe, asked: Probe) -> bool:
    """A larger lamp proves what a smaller one does; an LED tester does not prove what a bulb does."""
    if read.load_watts < asked.load_watts:
        return False
    return not read.is_lamp or not asked.is_lamp or read.led == asked.led


def _late_enough(read: Probe, asked: Probe, kind: ProofKind) -> bool:
    late = asked.at_s is not None and asked.at_s >= LATER_S
    if kind != "minutes-later" and (not late or (kind == "response" and read.at_s is None)):
        return True
    return read.at_s is not None and read.at_s >= LATER_S


def _known_temperature(read: Probe, asked: Probe) -> bool:
    if asked.sensor_c is None:
        return True
    return read.sensor_c is not None and isinstance(read.sensor_c, str) == isinstance(asked.sensor_c, str)


#: What an act replaces or renews, so that a look at it again would say nothing.
RENEWED: Mapping[Action, InspectTarget] = {"replace-fuse": "fuse", "replace-sensor": "sensor"}
_LOOKED_AT: Mapping[Action, tuple[InspectTarget, ...]] = {
    "replace-sensor": ("sensor", "connector", "pins"),
    "repair-wiring": ("connector", "inline-connector", "harness", "ground", "pins", "fuse"),
    "replace-fuse": ("fuse",), "replace-relay": (), "replace-module": (), "repair-exhaust": ("exhaust",),
    "repair-mixture": ("intake",), "repair-dosing": ("urea",),
}  # fmt: skip
#: Acts that leave the circuit as it is and change what the sensor meets.
_OF_THE_GAS: tuple[Action, ...] = ("repair-exhaust", "repair-mixture", "repair-dosing")


def disturbs(action: Action, probe: Probe) -> bool:
    """Whether an act can change what a reading shows, so that it has to be taken again."""
    if probe.looked is not None:
        return probe.looked in _LOOKED_AT.get(action, ())
    if probe.by_hand:
        return True
    if action in _OF_THE_GAS:
        return probe.scanned is not None
    if action == "replace-sensor":
        apart = bool(probe.points) and probe.setting.connector == "unplugged"
        return not apart or any(point.startswith("sensor.") for point in probe.points)
    return not probe.on_the_part
