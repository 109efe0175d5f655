"""The usual layouts, ready to pick."""

from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

from dianoia.case.load import from_plain
from dianoia.case.types import Vehicle
from dianoia.tables import read_json

_FILE = Path(__file__).parent / "data" / "presets.json"


@dataclass(frozen=True)
class Preset:
    """A usual layout."""

    id: str
    label: str
    vehicle: Vehicle
    """With the preset's name for its label."""


@cache
def presets() -> tuple[Preset, ...]:
    """Every preset, the most usual first. Raises BrokenTable or RefusedInput where the file is wrong."""
    return tuple(_preset(row) for row in read_json(_FILE, "dianoia-presets/1")["presets"])


def _preset(row: dict[str, Any]) -> Preset:
    known: dict[str, Any] = {name: row[name] for name in ("fuel", "system_voltage", "engine") if name in row}
    vehicle = from_plain(Vehicle, {"label": row["label"], **known}, f"presets.{row['id']}")
    return Preset(row["id"], row["label"], vehicle)
