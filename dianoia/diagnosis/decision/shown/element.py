"""Whether readings show the heater element to be bad."""

from functools import partial
from math import isinf

from dianoia.case.observed import Observed
from dianoia.diagnosis.decision.ledger import Ledger
from dianoia.diagnosis.decision.shown.again import again
from dianoia.diagnosis.decision.shown.heat import of_heater_current
from dianoia.diagnosis.decision.shown.sensor_faults import ELEMENT
from dianoia.diagnosis.inference.evidence import DRAWS_A

#: So many times a cold element's upper value is bad at any temperature.
FAR_ABOVE = 5.0
#: An element this far from its own, as a ratio, is another one; a twin's confirms a bad one.
ANOTHER = 1.5
#: A hot element reads up to so many times its cold value.
HOT_TIMES = 4.0
#: Volts across a heater that is driven and draws nothing, as a share of the nominal.
FULL_SHARE = 0.75


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
    repeated = again(ledger, bad)
    if repeated:
        return tuple(sorted({*bad, *repeated}))
    twin = _twin_elements(ledger, bad)
    driven = ledger.of_sensor(partial(_driven_without_current, system_v=ledger.system_v))
    lit = ledger.since_mended(_lamp_lights_across) or _lit_at_both(ledger)
    return (*bad, *twin, *driven, *lit) if bad and (twin or driven or lit) else ()


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
    if of_heater_current(probe):
        return abs(item.number) < DRAWS_A and (probe.codes_cleared or "heater-commanded" in probe.conditions)
    across = probe.reads_volts and {"harness.heater_supply", "harness.heater_control"} == set(probe.points)
    return across and abs(item.number) > FULL_SHARE * system_v


def _lamp_lights_across(item: Observed) -> bool:
    probe = item.probe
    across = probe.is_lamp and set(probe.points) == {"harness.heater_supply", "harness.heater_control"}
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
    there = probe.is_lamp and at in probe.points and bool(other & set(probe.points))
    return there and probe.of is None and item.value in ("bright", "flashing")
