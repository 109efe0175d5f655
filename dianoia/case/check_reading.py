"""What the fields of one reading mean together: points that exist, units that fit, states that can be."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, fields
from math import isfinite

from dianoia.case.answers import OUTCOMES, SCAN_KIND, SCAN_WORDS
from dianoia.case.choices import may_be_grounded
from dianoia.case.job import resolved
from dianoia.case.ledger import (
    ActReading,
    CurrentProbe,
    CurrentReading,
    InspectProbe,
    LampProbe,
    Probe,
    Reading,
    ResistanceProbe,
    ResistanceReading,
    ScanReading,
    ScopeFigures,
    ScopeProbe,
    ScopeReading,
    Spec,
    TraceFigures,
    TraceReading,
    VoltageProbe,
    VoltageReading,
)
from dianoia.case.live import may_move
from dianoia.case.points import around_wire, problem, resolve
from dianoia.case.times import one_form
from dianoia.case.types import Pin, Sensor
from dianoia.errors import Finding, RefusedInput
from dianoia.families.tables import FamilyRow
from dianoia.quantities.parse import parse, parse_live
from dianoia.quantities.types import Kind

#: Instruments that are read off a circuit at work, so that the key's position must be said.
_AT_WORK = (VoltageProbe, LampProbe, ScopeProbe, CurrentProbe)
_PLAIN = (VoltageReading, ResistanceReading, CurrentReading)


@dataclass(frozen=True)
class Around:
    """What a reading is checked against: the families the sensor may be of, what is known of it, its pin table."""

    families: tuple[FamilyRow, ...]
    sensor: Sensor
    pins: Mapping[str, Pin]

    @property
    def terminals(self) -> tuple[str, ...]:
        """Every terminal that the sensor may have."""
        return tuple(dict.fromkeys(name for family in self.families for name in family.terminals))


def check_reading(reading: Reading, at: str, around: Around) -> list[Finding]:
    """Findings about one reading; ``at`` is its path."""
    moving = may_move(resolved(reading, around.pins))
    return [
        *check_probe(reading, at, around),
        *_value(reading, at, moving),
        *_moves(reading, at, moving),
        *_taken(reading, at),
    ]


def check_probe(probe: Probe | Spec, at: str, around: Around) -> Iterator[Finding]:
    """Findings about what is measured and in which state."""
    points = [*probe.named_points, *((f"jumper[{index}]", point) for index, point in enumerate(probe.jumper or ()))]
    for name, point in points:
        expected = problem(resolve(point, around.pins), around.terminals, around.pins)
        if expected:
            yield Finding(f"{at}.{name}", expected, point or "nothing")
    yield from _pairs(probe, at, around.pins)
    reached = [resolve(point, around.pins) for _, point in points]
    if isinstance(probe, CurrentProbe):
        reached = [around_wire(point) for point in reached]
    yield from _state(probe, at, reached)
    yield from _conditions(probe, at, around)
    yield from _own_fields(probe, at, around)


def _pairs(probe: Probe | Spec, at: str, pins: Mapping[str, Pin]) -> Iterator[Finding]:
    ends = [resolve(point, pins) for point in probe.points]
    if len(ends) == 2 and ends[0] and ends[0] == ends[1]:
        yield Finding(f"{at}.black", "another point than red", probe.points[1])
    if probe.jumper and resolve(probe.jumper[0], pins) == resolve(probe.jumper[1], pins):
        yield Finding(f"{at}.jumper", "two different points", str(list(probe.jumper)))


def _state(probe: Probe | Spec, at: str, points: list[str]) -> Iterator[Finding]:
    at_work = isinstance(probe, _AT_WORK)
    if at_work and probe.key is None:
        yield Finding(f"{at}.key", "off, on, running or cranking", "nothing")
    at_plug = any(point.startswith(("harness.", "sensor.")) and point != "sensor.shell" for point in points)
    if at_work and at_plug and probe.connector is None:
        yield Finding(f"{at}.connector", "mated or unplugged", "nothing")
    apart = probe.connector == "unplugged" or (isinstance(probe, ResistanceProbe) and probe.connector is None)
    on_sensor = [point for point in points if point.startswith("sensor.") and point != "sensor.shell"]
    if on_sensor and not apart and probe.connector is not None:
        yield Finding(f"{at}.connector", f"unplugged, to reach {on_sensor[0]}", str(probe.connector))
    if probe.module_connector == "mated" and any(point.startswith("module_pin.") for point in points):
        yield Finding(f"{at}.module_connector", "unplugged, to reach the module's own pins", "mated")


def _conditions(probe: Probe | Spec, at: str, around: Around) -> Iterator[Finding]:
    terminals, sensor = around.terminals, around.sensor
    if "signal-grounded" in probe.conditions and "signal" not in terminals:
        yield Finding(f"{at}.with", "a sensor with a signal terminal for signal-grounded", "signal-grounded")
    if "control-grounded" in probe.conditions:
        if "heater_control" not in terminals:
            yield Finding(f"{at}.with", "a sensor with a heater for control-grounded", "control-grounded")
        if not may_be_grounded(sensor):
            yield Finding(
                f"{at}.with", "a steady heater switched at its ground side for control-grounded", "control-grounded"
            )
    fed = "signal-fed" in probe.conditions
    if fed and not any(family.cell == "zirconia" for family in around.families):
        yield Finding(f"{at}.with", "a switching sensor for signal-fed", "signal-fed")
    if fed and probe.fed_v is None:
        yield Finding(f"{at}.fed_v", "the volts that the signal wire was fed, 0.2 to 0.9", "nothing")
    if probe.fed_v is not None and not fed:
        yield Finding(f"{at}.fed_v", "no volts, except with signal-fed", str(probe.fed_v))


def _own_fields(probe: Probe | Spec, at: str, around: Around) -> Iterator[Finding]:
    """Fields that only one kind of measurement has."""
    if isinstance(probe, ResistanceProbe) and probe.leads:
        yield from _leads(probe.leads, f"{at}.leads")
    if isinstance(probe, InspectProbe) and probe.at is not None and probe.target != "exhaust":
        yield Finding(f"{at}.at", "no place, except for the target exhaust", str(probe.at))
    if isinstance(probe, VoltageProbe) and probe.watts is not None and probe.load is None:
        yield Finding(f"{at}.watts", "no watts, except of a lamp that loads it", str(probe.watts))
    if isinstance(probe, LampProbe) and probe.in_place_of is not None:
        if not {"heater_supply", "supply"} & set(around.terminals):
            yield Finding(f"{at}.in_place_of", "a sensor with a heater for a lamp in its place", str(probe.in_place_of))
        if probe.connector == "mated":
            yield Finding(f"{at}.connector", "unplugged, for a lamp in place of the heater", "mated")


def _leads(text: str, field: str) -> Iterator[Finding]:
    problems = check_quantity(text, "resistance", field)
    yield from problems
    if not problems and not isfinite(parse(text, "resistance").value):
        yield Finding(field, "what the leads read when held together, such as 0.3 ohm", text)


def _value(reading: Reading, at: str, moving: bool) -> Iterator[Finding]:
    field = f"{at}.value"
    if isinstance(reading, _PLAIN):
        yield from _live(reading.value, reading.measure, field, moving)
    elif isinstance(reading, ScanReading):
        yield from _scan_value(reading, field, moving)
    elif isinstance(reading, ScopeReading):
        scope = reading.value
        yield from _figures(scope, field, (
            ("high", scope.high, "voltage"), ("low", scope.low, "voltage"), ("duty_low", scope.duty_low, "ratio"),
            ("frequency", scope.frequency, "frequency")))  # fmt: skip
    elif isinstance(reading, TraceReading):
        trace, kind = reading.value, SCAN_KIND.get(reading.signal, "number")
        yield from _figures(
            trace, field, (("min", trace.min, kind), ("max", trace.max, kind), ("mean", trace.mean, kind))
        )
    elif isinstance(reading, ActReading):
        yield from _outcome(reading, at)


def _outcome(reading: ActReading, at: str) -> Iterator[Finding]:
    allowed = OUTCOMES.get(reading.action, ("done",))
    if reading.value not in allowed:
        yield Finding(f"{at}.value", f"{' or '.join(allowed)} for {reading.action}", reading.value)
    for name, said in (("of_fault", reading.of_fault), ("part", reading.part)):
        if said is not None and not reading.action.startswith(("replace-", "repair-")):
            yield Finding(f"{at}.{name}", "nothing, except for an act that replaces or repairs", said)


def _live(text: str, kind: Kind, field: str, moving: bool) -> Iterator[Finding]:
    """One value, or a span where what is read may be one."""
    spans = check_quantity(text, kind, field, parse_live)
    problems = spans if moving else check_quantity(text, kind, field)
    if problems and not spans:
        problems = [Finding(field, "one value; a span only of a signal wire, a scan signal or a trim", text)]
    yield from problems


def _figures(
    value: ScopeFigures | TraceFigures, field: str, typed: Sequence[tuple[str, str | None, Kind]]
) -> Iterator[Finding]:
    """At least one figure, and of those that were typed, what they say."""
    if all(figure is None for figure in vars(value).values()):
        yield Finding(field, f"at least one figure: {', '.join(item.name for item in fields(value))}", "none")
    for name, text, kind in typed:
        if text is not None:
            yield from check_quantity(text, kind, f"{field}.{name}")


def _scan_value(reading: ScanReading, field: str, moving: bool) -> Iterator[Finding]:
    pid, text = reading.pid, reading.value.strip().lower()
    words = SCAN_WORDS.get(pid, ())
    if text in words:
        return
    if pid in SCAN_KIND or pid == "heater_command":
        for finding in _live(reading.value, SCAN_KIND.get(pid, "ratio"), field, moving):
            listed = f", or {' or '.join(words)}" if words else ""
            yield Finding(field, finding.expected + listed, finding.found)
        return
    yield Finding(field, f"one of {', '.join(words)}", reading.value)


def _moves(reading: Reading, at: str, moving: bool) -> Iterator[Finding]:
    if isinstance(reading, ScanReading | VoltageReading) and reading.moves is not None and not moving:
        yield Finding(f"{at}.moves", "nothing, except of a signal wire, a scan signal or a trim", reading.moves)


def check_quantity(text: str, kind: Kind, field: str, reads: Callable[..., object] = parse) -> Sequence[Finding]:
    """Findings about typed text; ``reads`` takes text, kind and field, and raises RefusedInput."""
    return _refusals(lambda: reads(text, kind, field))


def _refusals(read: Callable[[], object]) -> Sequence[Finding]:
    try:
        read()
    except RefusedInput as refusal:
        return refusal.findings
    return ()


def _taken(reading: Reading, at: str) -> Iterator[Finding]:
    time = reading.taken
    if time is not None:
        yield from _refusals(lambda: one_form(time, f"{at}.taken"))
