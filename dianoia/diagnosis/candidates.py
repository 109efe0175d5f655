"""The readings that may be proposed, from candidates.json, and which of them a sensor and a workshop allow."""

from collections.abc import Sequence, Set
from dataclasses import dataclass
from functools import cache, cached_property, lru_cache
from pathlib import Path
from typing import Any

from dianoia.case.ledger import Probe, Reading
from dianoia.case.load import from_plain
from dianoia.case.points import AT_TERMINALS
from dianoia.case.workshop import Tool
from dianoia.circuit.setting import Setting, setting_of
from dianoia.families.tables import FamilyRow
from dianoia.tables import read_json

_FILE = Path(__file__).parent / "data" / "candidates.json"
#: What is held in the hand for a measurement that names no other tool.
_HELD: dict[str, Tool] = {"voltage": "meter", "resistance": "meter", "lamp": "lamp", "scope": "scope", "current": "clamp",
                          "scan": "scan", "trace": "scan"}  # fmt: skip


@dataclass(frozen=True)
class Candidate:
    """A reading that may be proposed. minutes: for the reading itself; at: where the technician has to be.

    setting: the probe's own; tools: what it takes, empty for eyes and hands; hazards: names of its cautions.
    """

    id: str
    probe: Any
    minutes: float
    at: str
    styles: tuple[str, ...]
    tools: frozenset[Tool]
    cautions: tuple[str, ...]
    switch: str | None
    loops: tuple[str, ...]
    setting: Setting
    hazards: tuple[str, ...] = ()
    cells: tuple[str, ...] = ()
    brief: bool = False

    @cached_property
    def asks(self) -> tuple[object, ...]:
        """See ``asked``."""
        return asked(self.probe)


@cache
def document() -> dict[str, Any]:
    """The whole table file."""
    return read_json(_FILE, "dianoia-candidates/1")


@cache
def candidates(
    positive: str = "signal", negative: str | None = "signal_return", twin: str = "B2S1"
) -> tuple[Candidate, ...]:
    """Every reading that may be proposed.

    positive and negative: the cell's terminals, negative None for the shell; twin: another sensor to compare with.
    """
    cautions: dict[str, str] = document()["cautions"]
    terminals = {"harness.{negative}": f"harness.{negative}" if negative else "sensor.shell",
                 "sensor.{negative}": f"sensor.{negative}" if negative else "sensor.shell",
                 "module.{negative}": f"module.{negative}" if negative else "module.power_ground", "{twin}": twin}  # fmt: skip

    def placed(reading: dict[str, Any]) -> dict[str, Any]:
        return {
            name: terminals.get(value, value.replace("{positive}", positive)) if isinstance(value, str) else value
            for name, value in reading.items()
        }

    found = []
    for row in document()["candidates"]:
        probe = from_plain(Probe, placed(row["reading"]), f"candidates.{row['id']}")
        found.append(Candidate(
            id=row["id"], probe=probe, minutes=row["minutes"], at=row["at"], styles=tuple(row["styles"]),
            tools=frozenset(tool for tool in (row.get("tool"), _HELD.get(probe.measure)) if tool), cautions=tuple(cautions[name] for name in row["cautions"]),
            switch=row.get("switch"), loops=tuple(row["loops"]), setting=setting_of(probe, probe.measure == "resistance"),
            hazards=tuple(row["cautions"]), cells=tuple(row.get("cells", ())), brief=row.get("brief", False),
        ))  # fmt: skip
    return tuple(found)


def usable(
    loops: Sequence[str],
    focus: Set[str],
    without: Set[str],
    heater_switch: str,
    family: FamilyRow,
    terminals: tuple[str, str | None, str],
) -> list[Candidate]:
    """The candidates that the sensor has and the tools allow: all of the loops in focus, the brief ones of others.

    without: tools that are not at hand. Codes can always be cleared.
    """
    return [
        item for item in candidates(*terminals)
        if (focus & set(item.loops) or (item.brief and set(item.loops) & set(loops)))
        and (not item.tools & without or item.probe.measure == "act")
        and item.switch in (None, heater_switch)
        and (not item.cells or family.cell in item.cells)
        and _reachable(item.probe, family)
    ]  # fmt: skip


def _reachable(probe: Any, family: FamilyRow) -> bool:
    """Whether the family has the probe's points, and they are two."""
    points = [str(getattr(probe, name, "")) for name in ("red", "black")]
    named = [point.partition(".")[2] for point in points if point.partition(".")[0] in AT_TERMINALS]
    known = all(name in (*family.terminals, "shell", "power_ground", "power_feed") for name in named)
    return known and (points[0] != points[1] or not points[0])


_ASKED = ("measure", "of", "red", "black", "at", "pid", "signal", "target", "action", "load", "jumper", "in_place_of")


@lru_cache(maxsize=4096)
def asked(probe: Any) -> tuple[object, ...]:
    """What is read and where, the state of the vehicle left out."""
    return tuple(getattr(probe, name, None) for name in _ASKED)


def same_measurement(candidate: Candidate, reading: Reading) -> bool:
    """Whether a reading already is what the candidate asks for."""
    probe = candidate.probe
    if candidate.asks != asked(reading):
        return False
    if probe.measure in ("inspect", "act"):
        return True
    if (getattr(probe, "watts", None) or 0) > (getattr(reading, "watts", None) or 0):
        return False
    a, b = candidate.setting, setting_of(reading, probe.measure == "resistance")
    return (a.key, a.connector, a.module_connector, a.conditions) == (
        b.key, b.connector, b.module_connector, b.conditions,
    ) and (b.codes_cleared or not a.codes_cleared)  # fmt: skip
