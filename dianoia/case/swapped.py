"""After a swap the evidence follows the part: which sensor a reading met, once two sensors had changed places."""

from collections.abc import Sequence
from dataclasses import replace

from dianoia.case.measures import Probe
from dianoia.case.measures.state import BROUGHT, TAKEN_AWAY
from dianoia.case.observed import Observed


def is_swapped(readings: Sequence[Observed]) -> bool:
    """Whether the sensor in question sits in the other's place."""
    return sum(_swaps(item) for item in readings) % 2 == 1


def followed(readings: Sequence[Observed], twin: str | None) -> tuple[Observed, ...]:
    """The readings, each with the sensor it met. twin: address of the sensor it was swapped with."""
    found = []
    away = False
    for item in readings:
        found.append(met(item, twin) if away else item)
        away ^= _swaps(item)
    return tuple(found)


def own_when_taken_out(readings: Sequence[Observed]) -> tuple[Observed, ...]:
    """The readings; until a sensor is replaced, the old one is still the sensor in question, in or out of the vehicle."""
    replaced = next((place for place, item in enumerate(readings) if _replaces(item)), len(readings))
    return tuple(
        replace(item, probe=replace(item.probe, of=None)) if item.probe.of == "old" and place < replaced else item
        for place, item in enumerate(readings)
    )


def _replaces(item: Observed) -> bool:
    return item.counts and item.probe.acted == "replace-sensor"


def met(item: Observed, twin: str | None) -> Observed:
    """A reading taken while the two were swapped."""
    probe = item.probe
    if probe.of is None and _meets_sensor(probe):
        return replace(item, probe=replace(probe, of=BROUGHT))
    if twin is not None and probe.of == twin:
        return replace(item, probe=replace(probe, of=None if probe.on_the_part else TAKEN_AWAY))
    return item


def _swaps(item: Observed) -> bool:
    return item.counts and item.probe.acted == "swap-sensors"


def _meets_sensor(probe: Probe) -> bool:
    """Whether what is read depends on the sensor that is plugged in."""
    if probe.by_hand:
        return probe.looked == "sensor"
    if probe.scanned is not None:
        return probe.scanned != "battery_voltage"
    touched = any(point.startswith(("harness.", "sensor.")) for point in probe.points)
    return probe.on_the_part or (touched and probe.setting.connector == "mated")
