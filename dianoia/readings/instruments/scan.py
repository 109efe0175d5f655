"""Scan values that follow from the circuit's currents and voltages; all others are behaviour, which the loops answer."""

import numpy as np

from dianoia.case.measures.scan import ScanProbe
from dianoia.case.sensor import Sensor
from dianoia.readings.display import Numeric
from dianoia.readings.instruments.seen import (
    Instrument,
    NetworkView,
    OwnRange,
    ProbePlace,
    Query,
    average,
    settled_amps,
)
from dianoia.readings.outcomes import Display

_FEED = ProbePlace("module.power_feed", "module.power_ground")
_SCAN_PLACES: dict[str, tuple[ProbePlace, ...]] = {
    "heater_current": (ProbePlace("driver"),),
    "heater_resistance": (ProbePlace("driver"), _FEED),
    "heater_command": (_FEED,),
    "battery_voltage": (_FEED,),
}


def _query(probe: ScanProbe) -> Query | None:
    places = _SCAN_PLACES.get(probe.pid)
    return Query(probe.setting, places) if places else None


def _scan(probe: ScanProbe, seen: NetworkView) -> Display:
    if probe.pid == "heater_current":
        return Numeric("current", np.abs(average(seen, seen.volts)))
    if probe.pid == "heater_command":
        share = seen.share["on"]
        return Numeric("ratio", np.broadcast_to(share, np.broadcast_shapes(share.shape, seen.volts["on"][0].shape)))
    if probe.pid == "heater_resistance":
        amps, volts = (np.abs(item) for item in seen.volts["on"])
        driven = np.where(seen.share["on"] > 0.02, volts / np.maximum(amps, 1e-7), np.inf)
        return Numeric("resistance", driven)
    return Numeric("voltage", average(seen, seen.volts))


def _displays(probe: ScanProbe, seen: NetworkView) -> dict[str, Display]:
    return {"value": _scan(probe, seen)}


def _own_range(probe: ScanProbe, sensor: Sensor) -> OwnRange | None:
    return settled_amps(probe, sensor) if probe.pid == "heater_current" else None


SCAN = Instrument(_query, _displays, _own_range)
