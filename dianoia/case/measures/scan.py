"""One look at a live value on the scan tool, or the span it ran through."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, get_args

from dianoia.case.measures.bench_traits import BenchTraits
from dianoia.case.measures.figures import Parsed
from dianoia.case.measures.state import EntryFields, PublishedRange, State
from dianoia.case.strict import STRICT
from dianoia.case.terms import Moves, Pid
from dianoia.families.tables import CellRow, FamilyRow, cells
from dianoia.quantities.types import Kind
from dianoia.tables import require

#: Scan values that are figures, and of what kind.
SCAN_KIND: dict[Pid, Kind] = {
    "heater_current": "current", "heater_resistance": "resistance", "sensor_voltage": "voltage",
    "cell_current": "cell_current", "lambda": "lambda", "short_trim": "ratio", "long_trim": "ratio",
    "battery_voltage": "voltage", "nox": "ppm", "o2": "oxygen",
}  # fmt: skip
#: Categorical that a scan value may be; beside a figure where it has a kind as well.
SCAN_WORDS: dict[Pid, tuple[str, ...]] = {
    "heater_command": ("on", "off"),
    "loop": ("open", "closed"),
    "heater_monitor": ("complete", "incomplete", "unsupported"),
    "nox": ("n/a",),
    "o2": ("n/a",),
    "nox_status": ("supply-out-of-range", "not-at-temperature", "not-stable", "valid"),
    "can_messages": ("present", "absent"),
}
#: Scan values that move while a healthy engine runs.
MOVING_PIDS: frozenset[Pid] = frozenset(
    ("sensor_voltage", "cell_current", "lambda", "short_trim", "long_trim", "nox", "o2")
)
#: Scan values that are what a cell's wires carry to the module, and those that a NOx sensor's unit sends.
OF_CELL: frozenset[Pid] = frozenset(("sensor_voltage", "cell_current", "lambda"))
OF_UNIT: frozenset[Pid] = frozenset(("can_messages", "nox_status", "nox", "o2"))
#: Shown where a scan tool has no value.
NO_VALUE = ("n/a",)
#: Unit of a number typed without one.
UNITS: dict[Pid, str] = {
    "heater_current": "A", "heater_resistance": "Ω", "heater_command": "%", "sensor_voltage": "V", "cell_current": "mA",
    "short_trim": "%", "long_trim": "%", "battery_voltage": "V", "nox": "ppm", "o2": "%",
}  # fmt: skip
PIDS: Mapping[Pid, str] = {
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
_OF_HEATER: tuple[Pid, ...] = ("heater_current", "heater_resistance", "heater_command", "heater_monitor")


def listed(row: CellRow) -> tuple[Pid, ...]:
    """A cell's scan values. Raises BrokenTable for one that the format does not have."""
    found = tuple(pid for pid in get_args(Pid) if pid in row.scans)
    require(
        len(found) == len(row.scans), "families.json", f"cells.{row.id}.scans", "scan values of the format", row.scans
    )
    return found


#: Cell -> the scan values that it gives.
_OF_CELL: Mapping[str, tuple[Pid, ...]] = {row.id: listed(row) for row in cells().values()}
_OF_ENGINE: tuple[Pid, ...] = ("short_trim", "long_trim", "loop", "battery_voltage")
_OF_NOX: tuple[Pid, ...] = ("nox_status", "nox", "o2", "can_messages", "battery_voltage")

BENCH = BenchTraits("Scan", "c", touches=False, key="running", connector="mated")


@dataclass(frozen=True, kw_only=True)
class ScanProbe(State):
    """A value on the scan tool."""

    __pydantic_config__ = STRICT
    measure: Literal["scan"]
    pid: Pid

    @property
    def scanned(self) -> Pid:
        """See ``State``."""
        return self.pid

    @property
    def live_value(self) -> Pid:
        """See ``State``."""
        return self.pid

    @property
    def of_heater_current(self) -> bool:
        """See ``State``."""
        return self.pid == "heater_current"

    @property
    def may_move(self) -> bool:
        """See ``State``."""
        return self.pid in MOVING_PIDS

    @property
    def tool(self) -> str:
        """See ``State``."""
        return "scan tool"

    @property
    def place(self) -> str:
        """See ``State``."""
        return PIDS[self.pid]

    @property
    def where(self) -> str:
        """See ``State``."""
        return f"as {on_tool(self.pid)}"


def on_tool(pid: Pid) -> str:
    """A scan value, and where it was read if a meter could show it as well."""
    return f"{PIDS[pid]} on the scan tool" if pid in _OF_METERS else PIDS[pid]


@dataclass(frozen=True, kw_only=True)
class ScanReading(ScanProbe, EntryFields):
    """A value of the scan tool."""

    value: str
    """As the scan tool shows it; may be a span."""
    moves: Moves | None = None
    """What it did while it was watched."""

    @property
    def said_moves(self) -> Moves | None:
        """See ``EntryFields``."""
        return self.moves

    def parse(self) -> Parsed:
        """See ``EntryFields``."""
        found, text, words = Parsed(), self.value.strip().lower(), SCAN_WORDS.get(self.pid, ())
        if text in words:
            found.add("value", text)
        elif self.pid in SCAN_KIND or self.pid == "heater_command":
            listed = f", or {' or '.join(words)}" if words else ""
            found.live(self.value, SCAN_KIND.get(self.pid, "ratio"), self.may_move, listed)
        else:
            found.refuse("value", f"one of {', '.join(words)}", self.value)
        return found


@dataclass(frozen=True, kw_only=True)
class ScanSpec(ScanProbe, PublishedRange):
    """The vehicle's own range for a scan value."""

    @property
    def kind(self) -> Kind | None:
        """Of the range's ends; None where the scan value is no number."""
        return SCAN_KIND.get(self.pid)


def pids_of(family: FamilyRow) -> tuple[Pid, ...]:
    """The scan values of a sensor of this family."""
    if family.kind.unit:
        return _OF_NOX
    heater = _OF_HEATER if family.has_heater_terminals else ()
    return (*heater, *_OF_CELL[family.cell], *_OF_ENGINE)


@dataclass(frozen=True)
class ScanChoice:
    """A scan value."""

    pid: Pid
    unit: str
    """Of a figure typed without one."""
    words: tuple[str, ...]
    """Where it is words only, which."""


def scan_choice(pid: Pid) -> ScanChoice:
    """What may be entered for a scan value."""
    typed = pid in SCAN_KIND or pid in UNITS
    return ScanChoice(pid, UNITS.get(pid, ""), () if typed else SCAN_WORDS[pid])
