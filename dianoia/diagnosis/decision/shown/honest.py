"""Whether readings show that the sensor tells the truth."""

from dataclasses import replace
from itertools import combinations

from dianoia.case.measures import Probe
from dianoia.case.measures.figures import HIGHEST, LOWEST
from dianoia.case.measures.scan import OF_CELL
from dianoia.case.observed import Observed
from dianoia.diagnosis.decision.ledger import Ledger
from dianoia.diagnosis.decision.shown.sensor_faults import CELL
from dianoia.families.types import SIGNAL_TERMINALS
from dianoia.quantities.types import Quantity
from dianoia.readings.scale import error_units

#: Two values of a signal lie apart by a change that is no noise: in error units.
ANSWERED = 4.0
#: Spans of two sensors are alike that have this much of the wider one in common.
ALIKE = 0.6


def honest(ledger: Ledger) -> tuple[int, ...]:
    """Its answers to rich and lean differ, or known air moves it, or its twin moves with it."""
    own = [place for place in ledger.of_sensor(_is_of_signal) if ledger.at(place).probe.of is None]
    for one, other in combinations(own, 2):
        if _same_signal(ledger.at(one), ledger.at(other)) and _stirred_apart(ledger.at(one), ledger.at(other)):
            return (one, other)
    spans = [place for place in own if _moves_by_itself(ledger.at(place))]
    twins = [place for place in ledger.places(_is_of_signal) if (ledger.at(place).probe.of or "").startswith("B")]
    for twin in twins:
        for place in own:
            if _moved_alike(ledger.at(place), ledger.at(twin)) and not ledger.bad((place,), CELL):
                return (place, twin)
    return tuple(spans)


def _is_of_signal(item: Observed) -> bool:
    probe = item.probe
    scanned = probe.scanned in OF_CELL | {"nox", "o2"}
    return (probe.scanned is not None or probe.reads_volts) and (scanned or _at_signal_wire(probe))


def _at_signal_wire(probe: Probe) -> bool:
    return probe.reads_volts and bool(probe.terminals & SIGNAL_TERMINALS) and probe.setting.connector == "mated"


def _same_signal(one: Observed, other: Observed) -> bool:
    return replace(one.probe, of=None).asks == replace(other.probe, of=None).asks


#: What is done to the gas, or known of it.
_GAS = frozenset(("rich", "lean", "snap", "fuel-cut", "fresh-air", "dosing-on", "dosing-off"))


def _stirred_apart(one: Observed, other: Observed) -> bool:
    """Whether something was done to the gas between two readings, and the signal went with it."""
    stirred = one.probe.conditions & _GAS != other.probe.conditions & _GAS
    return stirred and _apart(one, other) >= ANSWERED


def _apart(one: Observed, other: Observed) -> float:
    """How far two readings of a signal lie apart at most, in error units."""
    ends = [(a, b) for a in _ends(one) for b in _ends(other) if a.kind == b.kind]
    return max(
        (abs(float(error_units(a.value, a.kind)) - float(error_units(b.value, b.kind))) for a, b in ends), default=0.0
    )


def _ends(item: Observed) -> list[Quantity]:
    return [shown for name, shown in item.figures if name in ("value", LOWEST, HIGHEST) and isinstance(shown, Quantity)]


def _moves_by_itself(item: Observed) -> bool:
    """A span over something that was done to the gas: it went along."""
    return bool(item.probe.conditions & _GAS) and _swing(item) >= ANSWERED


def _swing(item: Observed) -> float:
    """From the lowest to the highest of a span, in error units; 0 for one value."""
    ends = [float(error_units(end.value, end.kind)) for end in _ends(item)[:2]]
    return abs(ends[1] - ends[0]) if len(ends) == 2 else 0.0


def _moved_alike(own: Observed, twin: Observed) -> bool:
    """Both signals run through spans that mostly lie over each other, or both stand at the same value when stirred alike."""
    if own.probe.conditions != twin.probe.conditions or own.probe.scanned != twin.probe.scanned:
        return False
    ours, theirs = _ends(own), _ends(twin)
    if len(ours) > 1 and len(theirs) > 1:
        common = min(ours[1].value, theirs[1].value) - max(ours[0].value, theirs[0].value)
        wider = max(ours[1].value - ours[0].value, theirs[1].value - theirs[0].value)
        return _swing(own) >= ANSWERED and common >= ALIKE * wider
    near = bool(own.probe.conditions & _GAS) and len(ours) == 1 == len(theirs) and ours[0].kind == theirs[0].kind
    return near and _apart(own, twin) < ANSWERED
