"""What no network answers: recordings, looks and acts. The loops and the table of observations do."""

from dianoia.case.measures import Probe
from dianoia.readings.instruments.seen import Instrument, NetworkView, Query
from dianoia.readings.outcomes import Display


def _query(probe: Probe) -> Query | None:
    return None


def _displays(probe: Probe, seen: NetworkView) -> dict[str, Display]:
    return {}


BEHAVIOUR = Instrument(_query, _displays)
