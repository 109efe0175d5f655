"""An oscilloscope: the levels of a wire, and how long it is low."""

import numpy as np

from dianoia.case.measures.scope import ScopeProbe
from dianoia.readings.display import Numeric
from dianoia.readings.instruments.seen import (
    METER_OHMS,
    NOTHING,
    SWITCHING,
    Instrument,
    NetworkView,
    at_points,
    loaded,
    stray,
)
from dianoia.readings.outcomes import Display


def _displays(probe: ScopeProbe, seen: NetworkView) -> dict[str, Display]:
    volts = loaded(seen, METER_OHMS)
    phases = list(volts)
    present = np.stack([np.where(seen.share[phase] > 0.02, volts[phase][0], np.nan) for phase in phases])
    high, low = np.fmax.reduce(present), np.fmin.reduce(present)
    middle = (high + low) / 2
    duty_low = sum((seen.share[phase] * (volts[phase][0] < middle) for phase in phases), NOTHING)
    switching = high - low > SWITCHING * seen.system_v
    loose = stray(seen)
    return {
        "high": Numeric("voltage", high, loose),
        "low": Numeric("voltage", low, loose),
        "duty_low": Numeric("ratio", np.where(switching, duty_low, np.nan)),
    }


SCOPE = Instrument(at_points, _displays)
