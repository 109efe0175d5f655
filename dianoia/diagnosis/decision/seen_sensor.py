"""Whether readings show a sensor to be bad: its element, its cell, its NOx unit; and whether it tells the truth.

What a reading showed is tested, not that it was taken: it is bad where it alone makes a fault of the part three times likelier.
"""

from dataclasses import replace
from functools import partial
from itertools import combinations
from math import isinf

from dianoia.case.ledger import (
    ActProbe,
    CurrentProbe,
    InspectProbe,
    LampProbe,
    Probe,
    ResistanceProbe,
    ScanProbe,
    TraceProbe,
    VoltageProbe,
)
from dianoia.case.live import OF_CELL, SIGNAL_TERMINALS
from dianoia.case.observed import HIGHEST, LOWEST, Observed
from dianoia.diagnosis.decision.ledger import Ledger
from dianoia.diagnosis.faults.tables import faults
from dianoia.quantities.types import Quantity
from dianoia.readings.scale import error_units

#: A heater that draws more than this on average gets hot, in amperes.
DRAWS_A = 0.06
#: A cell without a heater is hot, and a NOx sensor past the dew point, so long after the start, in s.
RUN_S = 600.0
#: So many times a cold element's upper value is bad at any temperature.
FAR_ABOVE = 5.0
#: An element this far from its own, as a ratio, is another one; a twin's confirms a bad one.
ANOTHER = 1.5
#: A hot element reads up to so many times its cold value.
HOT_TIMES = 4.0
#: Volts across a heater that is driven and draws nothing, as a share of the nominal.
FULL_SHARE = 0.75
#: Two values of a signal lie apart by a change that is no noise: in error units.
ANSWERED = 4.0
ELEMENT = ("heater-open", "heater-high", "heater-low", "heater-short")
CELL = (
    "cell-open",
    "cell-shorted",
    "cell-slow",
    "cell-biased-lean",
    "cell-biased-rich",
    "cell-contaminated",
    "cell-heater-leak",
)
UNIT = ("unit-dead", "probe-heater", "probe-cell", "probe-drift", "probe-crystals")
#: Faults of a cell that a cold one shows, too.
_ALSO_COLD = ("cell-shorted", "cell-heater-leak")
_SIGNAL_WIRES = tuple(
    name for name, row in faults().items()
    if row.loop == "signal" and row.component == "wiring" and row.definite and name.startswith("wire-")
)  # fmt: skip
_BY_SIGHT = ("broken", "melted", "wrong-part")


# ---- the element


def element_bad(ledger: Ledger) -> tuple[int, ...]:
    """The element measured by itself and bad, at a known temperature, or beyond any: none of its readings contradicts that."""
    own = ledger.of_sensor(lambda item: item.probe.of is None and item.probe.across_element)
    telling = [place for place in own if _knows_temperature(ledger.at(place), ledger)]
    bad = ledger.bad(telling, ELEMENT)
    return () if ledger.good(telling, ELEMENT) else bad


def _knows_temperature(item: Observed, ledger: Ledger) -> bool:
    beyond = item.number is not None and item.number > FAR_ABOVE * ledger.element_ohms[1]
    return isinstance(item.probe.sensor_c, int | float) or beyond


def element_confirmed(ledger: Ledger) -> tuple[int, ...]:
    """A second touch; a twin that reads good; no current in the driven heater; or a lamp across the loom that lights."""
    bad = element_bad(ledger)
    again = [
        place
        for first in bad
        for place, item in ledger.readings
        if place != first and _the_same(item, ledger.at(first))
    ]
    if bad and again:
        return tuple(sorted({*bad, *again}))
    twin = _twin_elements(ledger, bad)
    driven = ledger.of_sensor(partial(_driven_without_current, system_v=ledger.system_v))
    lit = ledger.since_mended(_lamp_lights_across) or _lit_at_both(ledger)
    return (*bad, *twin, *driven, *lit) if bad and (twin or driven or lit) else ()


def _the_same(one: Observed, other: Observed) -> bool:
    """A second touch that came out alike."""
    return one.probe.asks == other.probe.asks and one.figures == other.figures


def _twin_elements(ledger: Ledger, bad: tuple[int, ...]) -> tuple[int, ...]:
    """Elements of other parts, read at the same terminals, that are what an element should be and unlike this one."""
    low, high = ledger.element_ohms
    own = [number for place in bad if (number := ledger.at(place).number) is not None]

    def other(item: Observed) -> bool:
        ohms = item.number
        if item.probe.of is None or item.probe.of == "old" or not item.probe.across_element or ohms is None:
            return False
        unlike = all(isinf(mine) or not 1 / ANOTHER < max(mine, 1e-3) / max(ohms, 1e-3) < ANOTHER for mine in own)
        hot = HOT_TIMES if item.probe.sensor_c == "hot" else 1.0
        return low / ANOTHER <= ohms <= high * ANOTHER * hot and unlike

    return ledger.places(other)


def _driven_without_current(item: Observed, system_v: float) -> bool:
    """Plugged in and driven: full volts across the heater; or, codes cleared or commanded, no current in it."""
    probe = item.probe
    awake = probe.key in ("on", "running") and probe.setting.connector == "mated"
    if probe.of is not None or not awake or item.number is None:
        return False
    if _of_heater_current(probe):
        return abs(item.number) < DRAWS_A and (probe.codes_cleared or "heater-commanded" in probe.conditions)
    across = isinstance(probe, VoltageProbe) and {"harness.heater_supply", "harness.heater_control"} == set(
        probe.points
    )
    return across and abs(item.number) > FULL_SHARE * system_v


def _lamp_lights_across(item: Observed) -> bool:
    probe = item.probe
    across = isinstance(probe, LampProbe) and set(probe.points) == {"harness.heater_supply", "harness.heater_control"}
    return across and probe.of is None and item.value in ("bright", "flashing")


def _lit_at_both(ledger: Ledger) -> tuple[int, ...]:
    """A lamp that lights from the supply to ground, and one from the battery to the control: together the same as one across."""
    ways = (
        ledger.since_mended(partial(_lamp_lights, at="harness.heater_supply", other=_GROUNDS)),
        ledger.since_mended(partial(_lamp_lights, at="harness.heater_control", other=_FEEDS)),
    )
    return tuple(place for way in ways for place in way) if all(ways) else ()


_GROUNDS = frozenset(("battery.negative", "chassis"))
_FEEDS = frozenset(("battery.positive", "fuse.out", "relay.out"))


def _lamp_lights(item: Observed, at: str, other: frozenset[str]) -> bool:
    probe = item.probe
    there = isinstance(probe, LampProbe) and at in probe.points and bool(other & set(probe.points))
    return there and probe.of is None and item.value in ("bright", "flashing")


def _of_heater_current(probe: Probe) -> bool:
    return isinstance(probe, CurrentProbe) or (isinstance(probe, ScanProbe) and probe.pid == "heater_current")


# ---- the part tried against another


def trial(ledger: Ledger) -> tuple[int, ...]:
    """A swap that took the code along; a known-good part that works where the old one measured bad by itself, or failed when refitted."""
    moved = ledger.of_sensor(lambda item: isinstance(item.probe, ActProbe) and item.value == "code-moved")
    return moved or back_in(ledger) or _good_one_works(ledger)


def back_in(ledger: Ledger) -> tuple[int, ...]:
    """A known-good part worked, and the old one, back in and in the same state, did not."""
    for first, good in _good_ones(ledger):
        for second, own in ledger.readings:
            if second > first and own.probe.of is None and _same_but_for_the_part(own, good) and _unlike(own, good):
                return (first, second)
    return ()


def _good_one_works(ledger: Ledger) -> tuple[int, ...]:
    worked = [place for place, item in _good_ones(ledger) if not ledger.bad((place,), (*ELEMENT, *CELL, *UNIT))]
    own = ledger.of_sensor(lambda item: item.probe.of is None and item.probe.on_the_part)
    bad = ledger.bad(own, (*ELEMENT, *CELL))
    return (worked[0], *bad) if worked and bad else ()


def _good_ones(ledger: Ledger) -> list[tuple[int, Observed]]:
    return [
        (place, item) for place, item in ledger.readings
        if item.probe.of == "known-good" and not item.probe.by_hand and not item.probe.on_the_part
    ]  # fmt: skip


def _same_but_for_the_part(one: Observed, other: Observed) -> bool:
    """Whether the same was measured in the same state, codes cleared alike."""
    return replace(one.probe, of=None).shows == replace(other.probe, of=None).shows


def _unlike(one: Observed, other: Observed) -> bool:
    return one.figures != other.figures


def plainly_bad(ledger: Ledger) -> tuple[int, ...]:
    """Where the sensor's body was seen broken or melted, or to be a wrong part."""
    return ledger.of_sensor(
        lambda item: isinstance(item.probe, InspectProbe) and item.probe.target == "sensor" and item.value in _BY_SIGHT
    )


# ---- the cell


def cell_apart(ledger: Ledger) -> tuple[int, ...]:
    """The cell read bad at its own terminals, hot (a short or a leak cold, too), and confirmed."""
    own = [place for place in ledger.of_sensor(_is_cell_apart) if _hot_enough(ledger, place)]
    bad = ledger.bad(own, CELL)
    if not bad or ledger.good(own, CELL):
        return ()
    checked = [place for place in bad if ledger.at(place).checked]
    wires = ledger.good(ledger.since_mended(_wires_tried), _SIGNAL_WIRES)
    again = [
        place
        for first in bad
        for place, item in ledger.readings
        if place != first and _the_same(item, ledger.at(first))
    ]
    return tuple(sorted({*bad, *wires, *again})) if len(bad) > 1 or checked or wires or again else ()


def _hot_enough(ledger: Ledger, place: int) -> bool:
    item = ledger.at(place)
    if ledger.bad((place,), _ALSO_COLD) and isinstance(item.probe, ResistanceProbe):
        return True
    return (item.probe.sensor_c == "hot" or item.probe.key == "running") and bool(cell_hot(ledger))


def _is_cell_apart(item: Observed) -> bool:
    probe = item.probe
    points = {point.partition(".")[0] for point in probe.points}
    own = isinstance(probe, VoltageProbe | ResistanceProbe) and probe.of is None and points == {"sensor"}
    return own and bool(probe.terminals & SIGNAL_TERMINALS)


def _wires_tried(item: Observed) -> bool:
    """The signal wire grounded, fed or bridged, and the scan value watched."""
    probe = item.probe
    bridged = probe.jumper is not None and any(point.rpartition(".")[2] in SIGNAL_TERMINALS for point in probe.jumper)
    return probe.of is None and (bridged or bool(probe.conditions & {"signal-grounded", "signal-fed"}))


def cell_hot(ledger: Ledger) -> tuple[int, ...]:
    """Its heater draws current, also when bridged; its heater circuit is proven; ten minutes of running where it has none."""
    if not ledger.heated:
        return ledger.places(lambda item: item.probe.key == "running" and (item.probe.at_s or 0.0) >= RUN_S)
    drawing = ledger.of_sensor(_draws_current)
    whole = ledger.proven.issuperset(("supply", "control", "driver", "heater"))
    return drawing or (ledger.places(lambda item: item.probe.across_element) if whole else ())


def _draws_current(item: Observed) -> bool:
    return (
        _of_heater_current(item.probe) and item.probe.of is None and item.number is not None and item.number > DRAWS_A
    )


# ---- the NOx unit


#: A NOx unit's feed is loaded by a lamp of so many watts, or by its own heater.
UNIT_WATTS = 21.0


def nox_fed(ledger: Ledger) -> tuple[int, ...]:
    """The feed proven under load: what the unit itself sends does not."""
    return ledger.since_mended(partial(_under_load, terminal="harness.supply")) if "supply" in ledger.proven else ()


def nox_grounded(ledger: Ledger) -> tuple[int, ...]:
    """The ground likewise."""
    return ledger.since_mended(partial(_under_load, terminal="harness.ground")) if "ground" in ledger.proven else ()


def _under_load(item: Observed, terminal: str) -> bool:
    probe = item.probe
    if probe.of is not None or probe.key not in ("on", "running"):
        return False
    if isinstance(probe, CurrentProbe):
        return item.number is not None and item.number > DRAWS_A
    if not isinstance(probe, VoltageProbe) or terminal not in probe.points:
        return False
    return probe.load_watts >= UNIT_WATTS if probe.load else probe.setting.connector == "mated"


def nox_late(ledger: Ledger) -> tuple[int, ...]:
    """Read ten minutes after the start, past the dew point."""
    return ledger.places(lambda item: item.probe.key == "running" and (item.probe.at_s or 0.0) >= RUN_S)


def nox_alive(ledger: Ledger) -> tuple[int, ...]:
    """The unit calls its reading valid, or its heater draws current."""
    return ledger.of_sensor(_calls_itself_valid)


def _calls_itself_valid(item: Observed) -> bool:
    probe = item.probe
    if probe.of is not None:
        return False
    valid = isinstance(probe, ScanProbe) and probe.pid == "nox_status" and item.value == "valid"
    return valid or (isinstance(probe, CurrentProbe) and item.number is not None and item.number > DRAWS_A)


def nox_wrong(ledger: Ledger) -> tuple[int, ...]:
    """A value that is wrong in known air."""
    known = ledger.of_sensor(
        lambda item: item.probe.of is None and item.probe.scanned in ("nox", "o2")
        and bool(item.probe.conditions & {"fresh-air", "fuel-cut"})
    )  # fmt: skip
    return ledger.bad(known, UNIT)


def nox_spare(ledger: Ledger) -> tuple[int, ...]:
    """A known-good unit in the same place, heard or valid where this one, read alike, is not."""
    for first, own in ledger.readings:
        if own.probe.of is not None or own.probe.scanned not in ("can_messages", "nox_status", "nox", "o2"):
            continue
        for second, good in ledger.readings:
            same = good.probe.of == "known-good" and replace(good.probe, of=None).asks == own.probe.asks
            late = own.probe.scanned == "can_messages" or min(own.probe.at_s or 0.0, good.probe.at_s or 0.0) >= RUN_S
            alike = good.probe.conditions == own.probe.conditions
            if same and late and alike and ledger.bad((first,), UNIT) and not ledger.bad((second,), UNIT):
                return (first, second)
    return ()


# ---- a sensor that tells the truth


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
            if _moved_alike(ledger.at(place), ledger.at(twin)):
                return (place, twin)
    return tuple(spans)


def _is_of_signal(item: Observed) -> bool:
    probe = item.probe
    scanned = probe.scanned in OF_CELL | {"nox", "o2"}
    return isinstance(probe, ScanProbe | TraceProbe | VoltageProbe) and (scanned or _at_signal_wire(probe))


def _at_signal_wire(probe: Probe) -> bool:
    return (
        isinstance(probe, VoltageProbe)
        and bool(probe.terminals & SIGNAL_TERMINALS)
        and probe.setting.connector == "mated"
    )


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
    ends = _ends(item)
    if len(ends) < 2 or not item.probe.conditions & _GAS:
        return False
    low, high = (float(error_units(end.value, end.kind)) for end in ends[:2])
    return abs(high - low) >= ANSWERED


def _moved_alike(own: Observed, twin: Observed) -> bool:
    """Both signals run through spans that lie over each other, or both stand at the same value when stirred alike."""
    if own.probe.conditions != twin.probe.conditions or own.probe.scanned != twin.probe.scanned:
        return False
    ours, theirs = _ends(own), _ends(twin)
    if len(ours) > 1 and len(theirs) > 1:
        return ours[0].value <= theirs[1].value and theirs[0].value <= ours[1].value
    near = len(ours) == 1 == len(theirs) and ours[0].kind == theirs[0].kind
    return near and _apart(own, twin) < ANSWERED
