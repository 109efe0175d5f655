"""A clamp, averaged over the PWM period."""

import numpy as np

from dianoia.case.measures.current import CurrentProbe
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


def _query(probe: CurrentProbe) -> Query:
    return Query(probe.setting, (ProbePlace(probe.at),))


def _displays(probe: CurrentProbe, seen: NetworkView) -> dict[str, Display]:
    return {"value": Numeric("current", np.abs(average(seen, seen.volts)))}


def _own_range(probe: CurrentProbe, sensor: Sensor) -> OwnRange | None:
    at_heater = probe.terminals & {"heater_supply", "heater_control"}
    return settled_amps(probe, sensor) if at_heater else None


CURRENT = Instrument(_query, _displays, _own_range)
