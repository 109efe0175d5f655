"""Which of the state a measurement has: what can change what it shows. Whatever else is true of the vehicle is not noted."""

from dataclasses import dataclass
from typing import Literal, get_args

from dianoia.case.measures import MEASURES, Measure
from dianoia.case.terms import Key, Mating
from dianoia.families.tables import FamilyRow

StateField = Literal[
    "key", "rpm", "coolant_c", "connector", "module_connector", "battery", "sensor_c", "codes_cleared", "with", "at_s", "jumper", "of", "others",
]  # fmt: skip

_MEASURED = tuple(name for name, bench in MEASURES.items() if bench.touches)
_READ = tuple(name for name, bench in MEASURES.items() if bench.reads)
_LIVE = tuple(name for name, bench in MEASURES.items() if bench.live)
_AWAKE: tuple[Key, ...] = ("on", "running", "cranking")


@dataclass(frozen=True)
class StateRule:
    """A piece of state that measurements have."""

    field: StateField
    measures: tuple[Measure, ...]
    keys: tuple[Key, ...] = get_args(Key)
    """Key positions in which they do."""
    points: tuple[str, ...] = ()
    """Both leads at two of these, empty for anywhere."""


@dataclass(frozen=True)
class StartState:
    """What a measurement that is chosen by hand begins with."""

    measure: Measure
    key: Key | None = None
    """None leaves what stands."""
    connector: Mating | None = None
    """None leaves what stands."""


START: tuple[StartState, ...] = tuple(
    StartState(name, bench.key, bench.connector) for name, bench in MEASURES.items() if bench.key or bench.connector
)


@dataclass(frozen=True)
class ReachedApart:
    """Points that can only be touched with a plug apart."""

    connector: tuple[str, ...]
    module_connector: tuple[str, ...]


def reached_apart(family: FamilyRow) -> ReachedApart:
    """The sensor's own pins and the module's own pins."""
    return ReachedApart(
        tuple(f"sensor.{terminal}" for terminal in family.terminals),
        tuple(f"module_pin.{terminal}" for terminal in family.terminals),
    )


def state_rules(family: FamilyRow) -> tuple[StateRule, ...]:
    """The rules for a sensor of this family, in the order the state is shown. One that matches is enough."""
    of_part = tuple(f"sensor.{terminal}" for terminal in family.terminals)
    feed = tuple(f"harness.{terminal}" for terminal in family.terminals if terminal in ("heater_supply", "supply"))
    of_feed = (*feed, "fuse.out", "relay.out", "chassis", "battery.negative", "sensor.shell")
    of_heater = ("harness.heater_supply", "harness.heater_control") if family.has_heater_terminals else ()
    return (
        StateRule("key", _READ),
        StateRule("rpm", _READ, ("running",)),
        StateRule("connector", _READ),
        StateRule("with", _READ, _AWAKE),
        StateRule("of", get_args(Measure)),
        StateRule("jumper", _READ),
        StateRule("at_s", _READ, _AWAKE),
        StateRule("coolant_c", _READ, ("running",)),
        StateRule("sensor_c", ("resistance",), points=(*of_part, *of_heater)),
        StateRule("sensor_c", ("voltage",), points=of_part),
        StateRule("module_connector", _MEASURED),
        StateRule("battery", _MEASURED, ("off",)),
        StateRule("others", ("resistance",), points=of_feed),
        StateRule("codes_cleared", _LIVE, _AWAKE),
    )
