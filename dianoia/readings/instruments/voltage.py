"""A multimeter on DC volts."""

from dianoia.case.lamps import lamps
from dianoia.case.measures.voltage import VoltageProbe
from dianoia.readings.display import Numeric
from dianoia.readings.instruments.seen import (
    METER_OHMS,
    Instrument,
    NetworkView,
    at_points,
    average,
    lamp_ohms,
    loaded,
    stray,
)
from dianoia.readings.outcomes import Display


def _displays(probe: VoltageProbe, seen: NetworkView) -> dict[str, Display]:
    if not probe.loaded:
        return {"value": Numeric("voltage", average(seen, loaded(seen, METER_OHMS)), stray(seen))}
    load = lamp_ohms(seen.system_v, probe.watts or lamps().usual_watts)
    return {"value": Numeric("voltage", average(seen, loaded(seen, load)))}


VOLTAGE = Instrument(at_points, _displays)
