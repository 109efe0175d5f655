"""What each instrument makes of a circuit: which ports it looks at, and what it then shows. One file a measure, and this list of them."""

from collections.abc import Mapping

from dianoia.case.measures import Probe
from dianoia.case.sensor import Sensor
from dianoia.readings.instruments.behaviour import BEHAVIOUR
from dianoia.readings.instruments.current import CURRENT
from dianoia.readings.instruments.lamp import LAMP
from dianoia.readings.instruments.resistance import RESISTANCE
from dianoia.readings.instruments.scan import SCAN
from dianoia.readings.instruments.scope import SCOPE
from dianoia.readings.instruments.seen import Instrument, NetworkView, OwnRange, Query
from dianoia.readings.instruments.voltage import VOLTAGE
from dianoia.readings.outcomes import Display

_INSTRUMENTS: Mapping[str, Instrument] = {
    "voltage": VOLTAGE, "resistance": RESISTANCE, "lamp": LAMP, "scope": SCOPE, "current": CURRENT, "scan": SCAN,
    "trace": BEHAVIOUR, "inspect": BEHAVIOUR, "act": BEHAVIOUR,
}  # fmt: skip


def query_of(probe: Probe) -> Query | None:
    """The circuit question a probe asks; None where it asks none (looking, acting, fuel trims)."""
    return _INSTRUMENTS[probe.measure].query(probe)


def own_range(probe: Probe, sensor: Sensor) -> OwnRange | None:
    """What the vehicle's own data say that a sound sensor shows; None where they say nothing."""
    return _INSTRUMENTS[probe.measure].own_range(probe, sensor)


def displays(probe: Probe, seen: NetworkView) -> dict[str, Display]:
    """What the instrument shows, by the name of the figure (``value`` where there is only one)."""
    return _INSTRUMENTS[probe.measure].displays(probe, seen)
