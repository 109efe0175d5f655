"""A reading against what the vehicle's own figures, or else a healthy circuit, would show."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from dianoia.case.job import Job
from dianoia.case.measures import Probe
from dianoia.case.measures.figures import Shown
from dianoia.case.measures.state import BROUGHT, own_fields
from dianoia.case.measures.words import spoken
from dianoia.case.observed import Observed, ParsedRange
from dianoia.case.sensor import Sensor
from dianoia.circuit.network import Array
from dianoia.families.types import HELD
from dianoia.quantities.meter import uncertainty
from dianoia.quantities.show import NEAR_NOUGHT, as_said, say_range, show
from dianoia.quantities.types import Kind, Quantity
from dianoia.readings.display import WIDTH, Categorical, Numeric
from dianoia.readings.instruments import own_range
from dianoia.readings.moving import MovingValue
from dianoia.readings.outcomes import Display
from dianoia.readings.scale import OL_FROM, OL_SURE, error_unit, error_units

Result = Literal["pass", "fail", "unclear"]
_WORST_FIRST: tuple[Result, ...] = ("fail", "unclear", "pass")
#: A computed range of volts or amperes wider than this many error units tells nothing.
TOO_WIDE: Mapping[Kind, float] = {"voltage": 100.0, "current": 100.0}
#: A signal whose ends lie so many error units apart tells little at one look.
MOVES_APART = 8.0
#: Words that a healthy circuit shows more often than this are expected; more seldom than ``NEVER`` they are wrong.
EXPECTED, NEVER = 0.12, 0.04
#: Error units by which a range is wider than what healthy circuits show, for the instrument; and beyond which a reading is bad.
ALLOWED, BAD_FROM = 1.5, 1.5 * WIDTH
#: Figures of a display that are not said before they are read: they follow from the others, or are said with them.
_FOLLOWS = ("mean", "moves")


@dataclass(frozen=True)
class Expectation:
    """What a reading is held against."""

    text: str
    """Empty where it excludes nothing."""
    against: Literal["spec", "computed"]
    kind: Kind | None = None
    low: float | None = None
    """The ends that are printed, in the base unit of kind, None for words and open ends."""
    high: float | None = None
    """The ends that are printed, in the base unit of kind, None for words and open ends."""
    words: Mapping[str, float] | None = None
    source: str | None = None
    figure: str = "value"
    #: Of several figures: what each is held against.
    parts: "tuple[Expectation, ...]" = ()
    #: One look at what moves: within its range it says nothing yet.
    moving: bool = False
    #: How often its movement is called each word.
    moves: Mapping[str, float] | None = None


def expect(probe: Probe, job: Job, displays: Mapping[str, Display] | None, working: Array | None) -> Expectation | None:
    """The expectation for a probe: a matching spec, the sensor's own data, or the computed range; None for none."""
    published = _from_specs(probe, job.specs) or _from_sensor(probe, job.case.sensor) or _from_twin(probe, job.readings)
    if published:
        return published
    if not displays or working is None:
        return None
    if probe.is_wave or probe.recorded:
        return expect_figures([name for name in displays if name not in _FOLLOWS], displays, working)
    name, display = next(iter(displays.items()))
    return _expected(name, display, working)


def _expected(name: str, display: Display, working: Array) -> Expectation | None:
    if isinstance(display, Categorical):
        return _words_expected(display, working)
    if isinstance(display, MovingValue):
        return _look_expected(name, display, working)
    return _figure_expected(name, display, working)


def expect_figures(names: Sequence[str], displays: Mapping[str, Display], working: Array) -> Expectation | None:
    """The expectation for several figures of one reading, those that a display has: of each by itself."""
    parts = [_expected(name, displays[name], working) for name in names if name in displays]
    known = tuple(part for part in parts if part is not None)
    if not known:
        return None
    return Expectation(", ".join(_named(part) for part in known if part.text), "computed", parts=known)


def _named(part: Expectation) -> str:
    """A figure's range with its name."""
    kind, words = part.kind, spoken(part.figure)
    unit = words.rpartition(", ")[2] if ", " in words else ""
    name = words.removesuffix(f", {unit}") if unit else words
    return f"{part.text} {name}" if kind == "number" else f"{name} {part.text}"


def expect_moving(one: Expectation | None, displays: Mapping[str, Display], working: Array) -> Expectation | None:
    """The same, with the movement that goes with it."""
    moves = displays.get("moves")
    if one is None or not isinstance(moves, Categorical):
        return one
    words = _words_expected(moves, working)
    tells = words.text and words.words is not None and any(share <= EXPECTED for share in words.words.values())
    return replace(one, text=f"{one.text}, {words.text}" if tells else one.text, moves=words.words, moving=False)


def judge(reading: Observed, expected: Expectation | None) -> tuple[Result, Shown | None]:
    """pass, fail or unclear, and the figure that was judged."""
    if expected is None:
        return "unclear", None
    if expected.moves is not None and reading.moves is not None:
        moved, (held, shown) = _by_chance(reading.moves, expected.moves), judge(reading, replace(expected, moves=None))
        return next(result for result in _WORST_FIRST if result in (moved, held)), shown
    if expected.parts:
        results = {judge(reading, part)[0] for part in expected.parts if reading.figure(part.figure) is not None}
        return next((result for result in _WORST_FIRST if result in results), "unclear"), None
    shown = reading.figure(expected.figure)
    if shown is None:
        return "unclear", None
    if expected.words is not None:
        return _by_chance(str(shown), expected.words), shown
    if not isinstance(shown, Quantity):
        return "unclear", shown
    if expected.moving and _against_computed(shown, expected) != "fail":
        return "unclear", shown
    return (_against_spec if expected.against == "spec" else _against_computed)(shown, expected), shown


def seen_on_some(shown: Shown, display: Display, weight: Array) -> bool:
    """Whether more than a few of all sound circuits show it, whatever they are wired like and the module does just now.

    weight: (draws,) how usual each is.
    """
    share = weight / weight.sum()
    if isinstance(display, Categorical):
        chance = display.chance.get(str(shown))
        return chance is not None and float(_sound(chance, weight) @ share) > EXPECTED
    if isinstance(display, MovingValue) or not isinstance(shown, Quantity):
        return False
    value = min(shown.value, OL_SURE) if display.kind == "resistance" else shown.value
    apart = np.abs(error_units(_sound(display.shown, weight), display.kind) - error_units(value, display.kind))
    return float(share[apart < 1.5 * WIDTH].sum()) > EXPECTED


def _sound(of_all: Array, weight: Array) -> Array:
    found: Array = np.nan_to_num(np.broadcast_to(of_all, (of_all.shape[0], weight.size))[0], nan=1e12)
    return found


def _by_chance(word: str, words: Mapping[str, float]) -> Result:
    chance = words.get(word, 0.0)
    return "pass" if chance > EXPECTED else "fail" if chance < NEVER else "unclear"


def _from_specs(probe: Probe, specs: Sequence[ParsedRange]) -> Expectation | None:
    for spec in specs:
        if _same_probe(spec.probe, probe):
            text = _range_text(spec.low, spec.high, spec.kind)
            return Expectation(text, "spec", spec.kind, spec.low, spec.high, source=spec.source)
    return None


#: How far the same held wire of two sensors lies apart at most, in V.
_TWINS_APART = 0.1


def _from_twin(probe: Probe, readings: Sequence[Observed]) -> Expectation | None:
    """Where nothing is published of a held wire, the same read on another sensor is what it should read."""
    if not probe.reads_volts or probe.of is not None or probe.terminals.isdisjoint(HELD):
        return None
    for reading in readings:
        value, of = reading.number, reading.probe.of
        if of and reading.counts and value is not None and replace(reading.probe, of=None).shows == probe.shows:
            low, high = value - _TWINS_APART, value + _TWINS_APART
            return Expectation(
                _range_text(low, high, "voltage"), "spec", "voltage", low, high, source=f"as read on {of}"
            )
    return None


#: Of the state a published range says: what a reading has to share where the range says it. Key, plug and conditions have
#: to be the same in any case.
_SHARED_STATE = ("module_connector", "sensor_c", "battery", "jumper", "fed_v", "others", "of")


def _same_probe(spec: Probe, probe: Probe) -> bool:
    if type(spec) is not type(probe):
        return False
    own = (name for name in own_fields(type(spec)) if name not in ("red", "black", "leads"))
    said = {name: getattr(spec, name) for name in (*_SHARED_STATE, *own)}
    if any(wanted is not None and wanted != getattr(probe, name) for name, wanted in said.items()):
        return False
    ours, theirs = probe.setting, spec.setting
    same_state = (ours.key, ours.connector, ours.conditions) == (theirs.key, theirs.connector, theirs.conditions)
    either_way = spec.reads_ohms and set(spec.points) == set(probe.points)
    return same_state and (either_way or spec.points == probe.points)


def _from_sensor(probe: Probe, sensor: Sensor | None) -> Expectation | None:
    if sensor is None or probe.of not in (None, "new", "known-good", "old", BROUGHT):
        return None
    found = own_range(probe, sensor)
    if found is None:
        return None
    (low, high), kind = found
    source = sensor.spec_source or "the vehicle's own data"
    return Expectation(_range_text(low, high, kind), "spec", kind, low, high, source=source)


def _range_text(low: float | None, high: float | None, kind: Kind) -> str:
    if low is None:
        return f"at most {show(high or 0.0, kind)}"
    if high is None:
        return f"at least {show(low, kind)}"
    return say_range(low, high, kind)


def _words_expected(display: Categorical, working: Array) -> Expectation:
    chance = {word: float(np.mean(np.broadcast_to(values, (values.shape[0], working.size))[0][working]))
              for word, values in display.chance.items()}  # fmt: skip
    usual = [word for word, share in sorted(chance.items(), key=lambda item: -item[1]) if share > EXPECTED]
    ordered = list(chance)
    from_end_to_end = len(ordered) <= _GRADES and ordered[0] in usual and ordered[-1] in usual
    return Expectation("" if from_end_to_end else " or ".join(usual), "computed", words=chance)


#: Words of a display that has no more than these are grades of one thing: from one end to the other they exclude nothing.
_GRADES = 3


def _look_expected(name: str, display: MovingValue, working: Array) -> Expectation | None:
    """One look at what moves: anything between its ends; where it hardly moves, like any figure."""
    low, high = (_figure_expected(name, end, working) for end in (display.low, display.high))
    if low is None or high is None or low.low is None or high.high is None:
        return None
    apart = error_units(np.array([low.low, high.high]), display.kind)
    moves = float(apart[1] - apart[0]) > MOVES_APART
    text = say_range(low.low, high.high, display.kind)
    return Expectation(
        f"{text}, moving" if moves else text, "computed", display.kind, low.low, high.high, figure=name, moving=moves
    )


def _figure_expected(name: str, display: Numeric, working: Array) -> Expectation | None:
    shown = np.broadcast_to(display.shown, (display.shown.shape[0], working.size))[0][working]
    shown = shown[~np.isnan(shown)]
    if shown.size == 0:
        return None
    endless = OL_SURE if display.kind == "resistance" else np.inf  # between infinities no percentile can be taken
    low, high = (float(value) for value in np.percentile(np.minimum(shown, endless), [1.5, 98.5]))
    if display.kind == "resistance" and low >= OL_FROM:
        return Expectation(OVER, "computed", "resistance", OL_FROM, float("inf"), figure=name)
    low, high = _with_allowance(low, high, display.kind)
    if display.kind == "resistance" and high >= OL_SURE:
        high = float("inf")
    return Expectation(_told(low, high, display.kind), "computed", display.kind, low, high, figure=name)


#: What is printed where a meter should show no path at all.
OVER = f"OL, or over {show(OL_FROM, 'resistance')}"


def _with_allowance(low: float, high: float, kind: Kind) -> tuple[float, float]:
    """What healthy circuits show and what the instrument may be off, as it is printed. What is not below nought stays so."""
    wider = low - ALLOWED * error_unit(low, kind), high + ALLOWED * error_unit(high, kind)
    return as_said(max(wider[0], -NEAR_NOUGHT[kind]) if low >= 0 else wider[0], wider[1], kind)


def _told(low: float, high: float, kind: Kind) -> str:
    """A range in words; empty where it is so wide that it tells nothing."""
    return "" if _too_wide(low, high, kind) else say_range(low, high, kind)


def _too_wide(low: float, high: float, kind: Kind) -> bool:
    units = error_units(np.array([low, high]), kind)
    return float(units[1] - units[0]) > TOO_WIDE.get(kind, np.inf)


def _against_spec(shown: Quantity, expected: Expectation) -> Result:
    low = -np.inf if expected.low is None else expected.low
    high = np.inf if expected.high is None else expected.high
    if low <= shown.value <= high:
        return "pass"
    margin = uncertainty(shown) if np.isfinite(shown.value) else 0.0
    return "unclear" if low - margin <= shown.value <= high + margin else "fail"


def _against_computed(shown: Quantity, expected: Expectation) -> Result:
    assert expected.low is not None and expected.high is not None and expected.kind is not None
    if expected.low <= shown.value <= expected.high:
        return "unclear" if _too_wide(expected.low, expected.high, expected.kind) else "pass"
    low, high, place = (
        float(error_units(value, expected.kind)) for value in (expected.low, expected.high, shown.value)
    )
    beyond = BAD_FROM - ALLOWED
    return "unclear" if low - beyond <= place <= high + beyond else "fail"
