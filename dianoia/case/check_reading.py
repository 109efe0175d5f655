"""What the fields of one reading mean together: points that exist, states that can be. What only one kind has is checked by that kind."""

from collections.abc import Iterator, Mapping
from dataclasses import replace

from dianoia.case.measures import Probe, Reading, Spec
from dianoia.case.measures.check_context import CheckContext, may_be_grounded
from dianoia.case.measures.figures import refusals
from dianoia.case.placed import resolved
from dianoia.case.points import problem, resolve
from dianoia.case.sensor import Pin
from dianoia.case.times import one_form
from dianoia.errors import Finding


def check_reading(reading: Reading, at: str, around: CheckContext) -> list[Finding]:
    """Findings about one reading; ``at`` is its path."""
    found = resolved(reading, around.pins)
    return [
        *check_probe(reading, at, around),
        *(replace(item, field=f"{at}.{item.field}") for item in found.parsed.findings),
        *_moves(found, at),
        *_taken(reading, at),
    ]


def check_probe(probe: Probe | Spec, at: str, around: CheckContext) -> Iterator[Finding]:
    """Findings about what is measured and in which state."""
    points = [*probe.named_points, *((f"jumper[{index}]", point) for index, point in enumerate(probe.jumper or ()))]
    for name, point in points:
        expected = problem(resolve(point, around.pins), around.terminals, around.pins)
        if expected:
            yield Finding(f"{at}.{name}", expected, point or "nothing")
    yield from _pairs(probe, at, around.pins)
    reached = [resolve(point, around.pins) for _, point in points]
    yield from _state(probe, at, [probe.seen_at(point) for point in reached])
    yield from _conditions(probe, at, around)
    yield from probe.own_findings(at, around)


def _pairs(probe: Probe | Spec, at: str, pins: Mapping[str, Pin]) -> Iterator[Finding]:
    ends = [resolve(point, pins) for point in probe.points]
    if len(ends) == 2 and ends[0] and ends[0] == ends[1]:
        yield Finding(f"{at}.black", "another point than red", probe.points[1])
    if probe.jumper and resolve(probe.jumper[0], pins) == resolve(probe.jumper[1], pins):
        yield Finding(f"{at}.jumper", "two different points", str(list(probe.jumper)))


def _state(probe: Probe | Spec, at: str, points: list[str]) -> Iterator[Finding]:
    if probe.at_work and probe.key is None:
        yield Finding(f"{at}.key", "off, on, running or cranking", "nothing")
    at_plug = any(point.startswith(("harness.", "sensor.")) and point != "sensor.shell" for point in points)
    if probe.at_work and at_plug and probe.connector is None:
        yield Finding(f"{at}.connector", "mated or unplugged", "nothing")
    apart = probe.setting.connector == "unplugged"
    on_sensor = [point for point in points if point.startswith("sensor.") and point != "sensor.shell"]
    if on_sensor and not apart and probe.connector is not None:
        yield Finding(f"{at}.connector", f"unplugged, to reach {on_sensor[0]}", str(probe.connector))
    if probe.module_connector == "mated" and any(point.startswith("module_pin.") for point in points):
        yield Finding(f"{at}.module_connector", "unplugged, to reach the module's own pins", "mated")


def _conditions(probe: Probe | Spec, at: str, around: CheckContext) -> Iterator[Finding]:
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
    if fed and not any(family.kind.may_be_fed for family in around.families):
        yield Finding(f"{at}.with", "a switching sensor for signal-fed", "signal-fed")
    if fed and probe.fed_v is None:
        yield Finding(f"{at}.fed_v", "the volts that the signal wire was fed, 0.2 to 0.9", "nothing")
    if probe.fed_v is not None and not fed:
        yield Finding(f"{at}.fed_v", "no volts, except with signal-fed", str(probe.fed_v))


def _moves(reading: Reading, at: str) -> Iterator[Finding]:
    if reading.said_moves is not None and not reading.may_move:
        yield Finding(f"{at}.moves", "nothing, except of a signal wire, a scan signal or a trim", reading.said_moves)


def _taken(reading: Reading, at: str) -> Iterator[Finding]:
    time = reading.taken
    if time is not None:
        yield from refusals(lambda: one_form(time, f"{at}.taken"))
