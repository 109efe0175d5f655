"""The state that a measurement is taken in, and what every entry of the ledger carries.

What a kind of measurement is follows from its own answers to the questions of ``State``; nobody asks for its class.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, fields
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import Field

from dianoia.case.measures.check_context import CheckContext
from dianoia.case.measures.figures import Parsed
from dianoia.case.sensor import Pin
from dianoia.case.setting import LAID_BY, Setting
from dianoia.case.terms import Action, Check, Condition, ExhaustPlace, InspectTarget, Key, Mating, Moves, Pid
from dianoia.errors import Finding
from dianoia.quantities.types import Kind

Seconds = Annotated[float, Field(ge=0, le=1e6)]
Watts = Annotated[float, Field(ge=0.1, le=100)]
#: ``of`` of a reading taken here, in this circuit, with the other sensor; and of one taken there, with the sensor in question.
BROUGHT, TAKEN_AWAY = "brought", "taken-away"
#: The part that was read, as a noun.
_PART_READ = {
    "known-good": "a known-good sensor", "new": "the new sensor", "old": "the old sensor",
    BROUGHT: "the sensor that was swapped in", TAKEN_AWAY: "this sensor in the other's place",
}  # fmt: skip


def part_read(of: str) -> str:
    """Which other part a reading is of, as a noun."""
    return _PART_READ.get(of, of)


#: An idling engine puts 3 to 4 kW into its coolant, and water and metal take some 60 kJ for each degree: 15 s. From 20 °C, where it stood,
#: to 80 °C, where the thermostat holds it, that is a quarter of an hour; from there on the coolant tells no time.
_COOL_C, _WARMS_S, _WARMED_S = 20.0, 15.0, 900.0


@dataclass(frozen=True, kw_only=True)
class State:
    """The state of vehicle and plugs a measurement is taken in."""

    key: Key | None = None
    rpm: Annotated[float, Field(ge=0, le=20000)] | None = None
    """Engine speed in 1/min."""
    coolant_c: Annotated[float, Field(ge=-60, le=150)] | None = None
    """The coolant's temperature in °C."""
    connector: Mating | None = None
    module_connector: Mating = "mated"
    sensor_c: Annotated[float, Field(ge=-60, le=1200)] | Literal["hot"] | None = None
    """The element's temperature in °C."""
    battery: Literal["connected", "disconnected"] = "connected"
    codes_cleared: bool = False
    at_s: Seconds | None = None
    """Seconds from engine start, else from key on."""
    jumper: tuple[str, str] | None = None
    with_: Annotated[Condition | tuple[Condition, ...] | None, Field(alias="with")] = None
    fed_v: Annotated[float, Field(ge=0.2, le=0.9)] | None = None
    """Volts put on the signal wire, with the condition ``signal-fed``."""
    others: Literal["unplugged"] | None = None
    """The feed's other consumers."""
    of: Annotated[str, Field(pattern=r"^(B[12]S[123]|known-good|new|old)$")] | None = None

    @property
    def conditions(self) -> frozenset[str]:
        """The conditions of ``with`` as a set; "none" adds nothing."""
        listed = self.with_ if isinstance(self.with_, tuple) else (self.with_,)
        return frozenset(name for name in listed if name and name != "none")

    @cached_property
    def setting(self) -> Setting:
        """The state of the circuit, with what stands for what was not said: key off, plug together."""
        jumpers = [LAID_BY[name] for name in sorted(self.conditions) if name in LAID_BY]
        return Setting(
            key=self.key or "off",
            connector=self.connector or self._connector_unsaid,
            module_connector=self.module_connector,
            battery=self.battery,
            sensor_c=self.sensor_c,
            at_s=self.ran_s,
            rpm=self.rpm,
            codes_cleared=self.codes_cleared,
            conditions=self.conditions,
            jumpers=(*jumpers, self.jumper) if self.jumper else tuple(jumpers),
            fed_v=self.fed_v if "signal-fed" in self.conditions else None,
            others_apart=self.others == "unplugged",
        )

    @property
    def ran_s(self) -> float | None:
        """Seconds since start or key on: as noted, else as long as a running engine takes to warm its coolant so far."""
        if self.at_s is not None or self.coolant_c is None or self.key != "running":
            return self.at_s
        return min(max(self.coolant_c - _COOL_C, 0.0) * _WARMS_S, _WARMED_S)

    @property
    def _connector_unsaid(self) -> Mating:
        return "mated"

    @property
    def named_points(self) -> tuple[tuple[str, str], ...]:
        """The points that the instrument touches, each with the name of its field; none where nothing is touched."""
        return ()

    @property
    def points(self) -> tuple[str, ...]:
        """The points that the instrument touches."""
        return tuple(point for _, point in self.named_points)

    @property
    def terminals(self) -> frozenset[str]:
        """The terminals that the points belong to."""
        return frozenset(point.rpartition(".")[2] for point in self.points)

    @property
    def scanned(self) -> Pid | None:
        """The scan value that is read or recorded."""
        return None

    @property
    def load_watts(self) -> float:
        """What a lamp draws from the circuit at system voltage, in watts, as far as it was said; 0 without one."""
        return 0.0

    @property
    def by_hand(self) -> bool:
        """Whether something is looked at or done, and no instrument is read."""
        return False

    @property
    def on_the_part(self) -> bool:
        """Whether every point lies on the part itself, off the vehicle."""
        return len(self.points) == 2 and all(point.startswith("sensor.") for point in self.points)

    @property
    def across_element(self) -> bool:
        """Whether an ohmmeter lies across the element's own pins."""
        return False

    @property
    def across_battery(self) -> bool:
        """Whether a meter reads the battery's own voltage, unloaded."""
        return False

    @property
    def acted(self) -> Action | None:
        """What is done to the vehicle; None where something is read."""
        return None

    @property
    def mends(self) -> bool:
        """Whether something is replaced or repaired."""
        return False

    @property
    def looked(self) -> InspectTarget | None:
        """What is looked at; None where an instrument is read."""
        return None

    @property
    def looked_in(self) -> ExhaustPlace | None:
        """Where along the exhaust it is looked at; None for all of it."""
        return None

    @property
    def live_value(self) -> Pid | None:
        """The scan value that is looked at; None where it is recorded."""
        return None

    @property
    def recorded(self) -> bool:
        """Whether figures of a recording are read."""
        return False

    @property
    def metered(self) -> Kind | None:
        """What a meter on the circuit reads; None without a meter."""
        return None

    @property
    def reads_volts(self) -> bool:
        """Whether a voltmeter is on the circuit."""
        return self.metered == "voltage"

    @property
    def reads_ohms(self) -> bool:
        """Whether an ohmmeter is."""
        return self.metered == "resistance"

    @property
    def reads_amps(self) -> bool:
        """Whether a clamp or an ammeter is."""
        return self.metered == "current"

    @property
    def is_wave(self) -> bool:
        """Whether a scope shows how the voltage goes in time."""
        return False

    @property
    def is_lamp(self) -> bool:
        """Whether a lamp's light is what is read."""
        return False

    @property
    def led(self) -> bool:
        """Whether that lamp is a tester that hardly loads the circuit."""
        return False

    @property
    def replaces_heater(self) -> bool:
        """Whether that lamp stands in place of the heater."""
        return False

    @property
    def loaded(self) -> bool:
        """Whether a lamp lies across the points of a meter."""
        return False

    @property
    def at_work(self) -> bool:
        """Whether it is read off a circuit at work, so that the key's position must be said."""
        return False

    @property
    def of_heater_current(self) -> bool:
        """Whether the heater's own current is read, where the clamp lies at its wire."""
        return False

    @property
    def may_move(self) -> bool:
        """Whether something is read that may be a span, or be said to stand still, drift or switch."""
        return False

    @property
    def tool(self) -> str:
        """What is held in the hand."""
        raise NotImplementedError

    @property
    def place(self) -> str:
        """What is measured and between which points, as it follows an instrument: "test lamp" "across the heater element"."""
        raise NotImplementedError

    @property
    def where(self) -> str:
        """The same as it follows a value: ``5.9 ohm`` "across the heater element"."""
        return self.place

    def short_place(self, pins: Mapping[str, Pin] | None = None) -> str:
        """The same where there is little room: "heater supply, loom side → battery −". pins: the vehicle's own."""
        return self.place

    def own_findings(self, at: str, around: CheckContext) -> Iterator[Finding]:
        """Findings about the fields that only this kind of measurement has. at: the reading's path."""
        return iter(())

    def seen_at(self, point: str) -> str:
        """Where the instrument sits that is laid at a point."""
        return point

    @cached_property
    def shows(self) -> tuple[object, ...]:
        """What makes two probes show the same: instrument, points and state."""
        return type(self), self.setting, self.of, *(getattr(self, name) for name in own_fields(type(self)))

    @cached_property
    def asks(self) -> tuple[object, ...]:
        """What is read and where, the state of the vehicle left out."""
        own = (getattr(self, name) for name in own_fields(type(self)) if name not in _HOW)
        return type(self), self.of, self.jumper, *own


#: With what something is measured, not what.
_HOW = ("leads", "watts", "kind")


def own_fields(probe: type[Any]) -> tuple[str, ...]:
    """The fields of a kind of probe besides the state it is taken in."""
    if probe not in _own:
        state = {field.name for field in fields(State)}
        _own[probe] = tuple(field.name for field in fields(probe) if field.name not in state)
    return _own[probe]


_own: dict[type[Any], tuple[str, ...]] = {}


@dataclass(frozen=True, kw_only=True)
class EntryFields:
    """What every entry of the ledger carries."""

    note: Annotated[str, Field(max_length=1000)] | None = None
    checked: tuple[Check, ...] | None = None
    """What was done against a gross error before it was taken."""
    taken: Annotated[str, Field(max_length=40)] | None = None
    """ISO 8601."""
    instrument: Literal["simulated"] | None = None
    """``simulated``: read from a simulated vehicle. It stays so for ever, and counts in no statistics. None for a real one."""
    struck: Annotated[str, Field(min_length=1, max_length=300)] | None = None
    """The reason it counts for nothing."""

    @property
    def said_moves(self) -> Moves | None:
        """How it was seen to move, where that was said."""
        return None

    @property
    def said_fault(self) -> str | None:
        """Of a repair: the fault that it was said to mend."""
        return None

    @property
    def said_part(self) -> str | None:
        """Of a repair: what was fitted."""
        return None

    def parse(self) -> Parsed:
        """Its value as figures, and what was refused of it."""
        raise NotImplementedError

    @cached_property
    def parsed(self) -> Parsed:
        """The same, worked out once."""
        return self.parse()


Bound = str | None


@dataclass(frozen=True, kw_only=True)
class PublishedRange:
    """The vehicle's own range."""

    range: tuple[Bound, Bound]
    """Low and high as typed, either may be None."""
    source: Annotated[str, Field(min_length=1, max_length=300)]
    """Where the figure comes from."""
