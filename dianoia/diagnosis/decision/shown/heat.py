"""Whether heater, cell and probe were hot, or past the dew point, when they were read."""

from dianoia.case.measures import Probe
from dianoia.case.observed import Observed
from dianoia.diagnosis.decision.ledger import Ledger
from dianoia.diagnosis.inference.evidence import DRAWS_A

#: A cell without a heater is hot, and a NOx sensor past the dew point, so long after the start, in s.
RUN_S = 600.0


def cell_hot(ledger: Ledger) -> tuple[int, ...]:
    """Its heater draws current, also when bridged; its heater circuit is proven; ten minutes of running where it has none."""
    if not ledger.heated:
        return ledger.places(lambda item: item.probe.key == "running" and (item.probe.ran_s or 0.0) >= RUN_S)
    drawing = ledger.of_sensor(_draws_current)
    whole = ledger.proven.issuperset(("supply", "control", "driver", "heater"))
    return drawing or (ledger.places(lambda item: item.probe.across_element) if whole else ())


def _draws_current(item: Observed) -> bool:
    return of_heater_current(item.probe) and item.probe.of is None and item.number is not None and item.number > DRAWS_A


def of_heater_current(probe: Probe) -> bool:
    """Whether a probe reads the heater's current."""
    return probe.of_heater_current
