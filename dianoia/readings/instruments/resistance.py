"""An ohmmeter: it sends a small current, so a live circuit makes it lie."""

import numpy as np

from dianoia.case.measures.resistance import ResistanceProbe
from dianoia.case.sensor import Sensor
from dianoia.circuit.assumptions import assumptions
from dianoia.circuit.heater import NOMINAL_C, TEMPERATURE_COEFFICIENT
from dianoia.readings.display import Numeric
from dianoia.readings.instruments.seen import Instrument, NetworkView, OwnRange, at_points
from dianoia.readings.outcomes import Display

#: Test current of an ohmmeter, in amperes; on a live circuit it reads off by volts over this.
OHMMETER_AMPS = 0.5e-3
#: Below this many volts across the leads an ohmmeter is not disturbed.
DEAD_VOLTS = 0.004


def _ohmmeter(probe: ResistanceProbe, seen: NetworkView) -> Numeric:
    leads = seen.leads_ohms
    if probe.leads_ohms is not None:
        leads = np.full_like(leads, probe.leads_ohms)
    phase = max(seen.volts, key=lambda name: float(np.mean(seen.share[name])))
    volts, ohms = seen.volts[phase][0], np.maximum(seen.ohms[phase][0], 0.0)
    lie = np.where(np.abs(volts) > DEAD_VOLTS, np.abs(volts) / OHMMETER_AMPS, 0.0)
    return Numeric("resistance", ohms + lie + leads)


def _displays(probe: ResistanceProbe, seen: NetworkView) -> dict[str, Display]:
    return {"value": _ohmmeter(probe, seen)}


def _own_range(probe: ResistanceProbe, sensor: Sensor) -> OwnRange | None:
    if not probe.across_element or not sensor.heater_ohms_20c:
        return None
    return _at_temperature(sensor.heater_ohms_20c, probe.sensor_c), "resistance"


def _at_temperature(cold: tuple[float, float], sensor_c: object) -> tuple[float, float]:
    """A cold range carried to the element's temperature; unknown counts as anything from cold to lukewarm."""
    low, high = cold
    if sensor_c == "hot":
        return low * 1.3, high * 3.8
    slopes = TEMPERATURE_COEFFICIENT
    if isinstance(sensor_c, int | float):
        factors = [1 + slope * (float(sensor_c) - NOMINAL_C) for slope in slopes]
        return low * min(factors), high * max(factors)
    return low, high * (1 + slopes[1] * (assumptions().cold_c - NOMINAL_C))


RESISTANCE = Instrument(at_points, _displays, _own_range)
