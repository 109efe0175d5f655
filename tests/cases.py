"""Cases and readings that several tests are made of."""

from pathlib import Path
from typing import Any

from dianoia.case.load import case_from_json, case_from_plain, from_plain
from dianoia.case.measures import Probe, Reading
from dianoia.case.observed import Observed, observe, probe_of
from dianoia.case.types import Case

FORMAT = "dianoia-case/1"

BATTERY = {
    "measure": "voltage",
    "red": "battery.positive",
    "black": "battery.negative",
    "key": "running",
    "value": "14 V",
}
SUPPLY = {"measure": "voltage", "red": "harness.heater_supply", "black": "battery.negative", "key": "running",
          "connector": "mated", "value": "13.8 V"}  # fmt: skip
ELEMENT = {"measure": "resistance", "red": "sensor.heater_supply", "black": "sensor.heater_control", "key": "off",
           "connector": "unplugged", "sensor_c": 20, "value": "OL"}  # fmt: skip
LAMP = {"measure": "lamp", "red": "harness.heater_supply", "black": "harness.heater_control", "key": "running",
        "connector": "unplugged", "watts": 21, "in_place_of": "heater", "codes_cleared": True, "value": "bright"}  # fmt: skip
LOADED = {**SUPPLY, "connector": "unplugged", "load": "lamp", "value": "13.7 V"}
NOT_GROUNDED = {**ELEMENT, "red": "harness.heater_control", "black": "battery.negative", "value": "420k"}
LOOKED = {"measure": "inspect", "target": "connector", "value": "ok"}
#: An open element in a loop that is proven under load.
OPEN_ELEMENT: list[dict[str, Any]] = [BATTERY, SUPPLY, ELEMENT, LAMP, LOADED, NOT_GROUNDED, LOOKED]
STEADY = {"heater_ohms_20c": [4.0, 7.5], "heater_switch": "low-side", "heater_drive": "steady"}


def plain_case(*readings: dict[str, Any], code: str = "P0057", **fields: Any) -> dict[str, Any]:
    """A case as JSON would hold it."""
    return {
        "format": FORMAT,
        "vehicle": {"label": "Bus 4"},
        "codes": [{"code": code}],
        "readings": list(readings),
        **fields,
    }


def case(*readings: dict[str, Any], **fields: Any) -> Case:
    """A loaded case."""
    return case_from_plain(plain_case(*readings, **fields))


def reading(**fields: Any) -> Reading:
    """One loaded reading."""
    return from_plain(Reading, fields)


def observed(**fields: Any) -> Observed:
    """One reading, parsed."""
    return observe(reading(**fields))


def probe(**fields: Any) -> Probe:
    """What a reading measures."""
    return probe_of(reading(**{"value": "ok", **fields}))


def demo_case(start: str) -> Case:
    """The demo case whose file name begins so."""
    path = next((Path(__file__).parents[1] / "demo" / "cases").glob(f"{start}*.json"))
    return case_from_json(path.read_text(encoding="utf-8"))
