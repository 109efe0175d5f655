"""What the fields of a case mean together: points that exist, units that fit, states that can be.

Every finding is reported, not only the first.
"""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from datetime import datetime
from typing import Any

from dianoia.case.choices import OUTCOMES, SCAN_KIND, SCAN_WORDS
from dianoia.case.job import decoded_codes, pins_of, possible_families, primary_code
from dianoia.case.ledger import Probe
from dianoia.case.points import around_wire, problem, resolve
from dianoia.case.types import Case, Pin
from dianoia.codes.types import Decoded
from dianoia.errors import Finding, RefusedInput
from dianoia.quantities.parse import parse
from dianoia.quantities.types import Kind

_NEEDS_KEY = ("voltage", "lamp", "scope", "current")
_PLAIN_VALUE: dict[str, Kind] = {"voltage": "voltage", "resistance": "resistance", "current": "current"}


def check(case: Case) -> None:
    """Raises RefusedInput with every finding; returns nothing where the case can be diagnosed."""
    primary = primary_code(decoded_codes(case))
    findings: list[Finding] = []
    if primary is None and not (case.sensor and (case.sensor.family or case.sensor.bank)):
        findings.append(Finding("codes", "a code of an oxygen, air-fuel or NOx sensor, or a sensor", _codes(case)))
    terminals, pins = _terminals(case, primary), pins_of(case)
    findings += _sensor(case, terminals)
    for index, spec in enumerate(case.specs):
        findings += _probe(spec, f"specs[{index}]", terminals, pins)
        findings += _spec_range(spec, f"specs[{index}]")
    for index, reading in enumerate(case.readings):
        findings += check_reading(reading, f"readings[{index}]", terminals, pins)
    if findings:
        raise RefusedInput(findings)


def check_newest(case: Case) -> None:
    """Raises RefusedInput with every finding about the last reading, its fields named without its place; the rest of the
    case was checked before.
    """
    terminals = _terminals(case, primary_code(decoded_codes(case)))
    findings = check_reading(case.readings[-1], "", terminals, pins_of(case))
    if findings:
        raise RefusedInput([replace(finding, field=finding.field.lstrip(".")) for finding in findings])


def _terminals(case: Case, primary: Decoded | None) -> tuple[str, ...]:
    return tuple(dict.fromkeys(name for family in possible_families(case, primary) for name in family.terminals))


def check_reading(reading: Any, at: str, terminals: tuple[str, ...], pins: Mapping[str, Pin]) -> list[Finding]:
    """Findings about one reading; ``at`` is its path."""
    return [*_probe(reading, at, terminals, pins), *_value(reading, at), *_taken(reading, at)]


def _codes(case: Case) -> str:
    return ", ".join(item.code for item in case.codes) or "none"


def _sensor(case: Case, terminals: tuple[str, ...]) -> Iterator[Finding]:
    sensor = case.sensor
    if sensor is None:
        return
    for name in ("heater_ohms_20c", "heater_amps"):
        ends = getattr(sensor, name)
        if ends and ends[0] > ends[1]:
            yield Finding(f"sensor.{name}", "the low end first", str(list(ends)))
    seen: dict[str, str] = {}
    for number, pin in (sensor.pins or {}).items():
        if pin.terminal is None:
            continue
        if pin.terminal not in terminals:
            yield Finding(f"sensor.pins.{number}.terminal", f"one of {', '.join(terminals)}", pin.terminal)
        if pin.terminal in seen:
            found = f"{pin.terminal}, which pin {seen[pin.terminal]} already has"
            yield Finding(f"sensor.pins.{number}.terminal", "a terminal that no other pin has", found)
        seen[pin.terminal] = number


def _probe(probe: Any, at: str, terminals: tuple[str, ...], pins: Mapping[str, Pin]) -> Iterator[Finding]:
    points = _points(probe)
    for name, point in points:
        expected = problem(point, terminals, pins)
        if expected:
            yield Finding(f"{at}.{name}", expected, point)
    yield from _pairs(probe, at, pins)
    reached = [resolve(point, pins) for _, point in points]
    yield from _state(probe, at, [around_wire(point) for point in reached] if probe.measure == "current" else reached)
    if "signal-grounded" in probe.conditions and "signal" not in terminals:
        yield Finding(f"{at}.with", "a sensor with a signal terminal for signal-grounded", "signal-grounded")
    if "control-grounded" in probe.conditions and "heater_control" not in terminals:
        yield Finding(f"{at}.with", "a sensor with a heater for control-grounded", "control-grounded")
    if getattr(probe, "leads", None):
        yield from _quantity(probe.leads, "resistance", f"{at}.leads")
    if probe.measure == "inspect" and (probe.at is not None) and probe.target != "exhaust":
        yield Finding(f"{at}.at", "no place, except for the target exhaust", str(probe.at))


def _points(probe: Any) -> list[tuple[str, str]]:
    named = [(name, getattr(probe, name)) for name in ("red", "black") if hasattr(probe, name)]
    if probe.measure in ("current", "act") and getattr(probe, "at", None):
        named.append(("at", probe.at))
    named += [(f"jumper[{index}]", point) for index, point in enumerate(probe.jumper or ())]
    return named


def _pairs(probe: Any, at: str, pins: Mapping[str, Pin]) -> Iterator[Finding]:
    if hasattr(probe, "red") and resolve(probe.red, pins) == resolve(probe.black, pins):
        yield Finding(f"{at}.black", "another point than red", probe.black)
    if probe.jumper and resolve(probe.jumper[0], pins) == resolve(probe.jumper[1], pins):
        yield Finding(f"{at}.jumper", "two different points", str(list(probe.jumper)))


def _state(probe: Any, at: str, points: list[str]) -> Iterator[Finding]:
    if probe.measure in _NEEDS_KEY and probe.key is None:
        yield Finding(f"{at}.key", "off, on, running or cranking", "nothing")
    at_plug = any(point.startswith(("harness.", "sensor.")) and point != "sensor.shell" for point in points)
    if probe.measure in _NEEDS_KEY and at_plug and probe.connector is None:
        yield Finding(f"{at}.connector", "mated or unplugged", "nothing")
    apart = probe.connector == "unplugged" or (probe.measure == "resistance" and probe.connector is None)
    on_sensor = [point for point in points if point.startswith("sensor.") and point != "sensor.shell"]
    if on_sensor and not apart and probe.connector is not None:
        yield Finding(f"{at}.connector", f"unplugged, to reach {on_sensor[0]}", str(probe.connector))
    if probe.module_connector == "mated" and any(point.startswith("module_pin.") for point in points):
        yield Finding(f"{at}.module_connector", "unplugged, to reach the module's own pins", "mated")


def _spec_range(spec: Any, at: str) -> Iterator[Finding]:
    kind = SCAN_KIND.get(spec.pid) if spec.measure == "scan" else _PLAIN_VALUE[spec.measure]
    if kind is None:
        yield Finding(f"{at}.pid", f"a scan value that is a number: {', '.join(SCAN_KIND)}", spec.pid)
        return
    ends = []
    for index, text in enumerate(spec.range):
        problems = list(_quantity(text, kind, f"{at}.range[{index}]")) if text is not None else []
        yield from problems
        if text is not None and not problems:
            ends.append(parse(text, kind).value)
    if spec.range == (None, None):
        yield Finding(f"{at}.range", "at least one end", "neither")
    if len(ends) == 2 and ends[0] > ends[1]:
        yield Finding(f"{at}.range", "the low end first", str(list(spec.range)))


def _value(reading: Any, at: str) -> Iterator[Finding]:
    field, value = f"{at}.value", reading.value
    if reading.measure in _PLAIN_VALUE:
        yield from _quantity(value, _PLAIN_VALUE[reading.measure], field)
    elif reading.measure == "scan":
        yield from _scan_value(reading, field)
    elif reading.measure == "scope":
        yield from _figures(value, field, {"high": "voltage", "low": "voltage", "duty_low": "ratio",
                                           "frequency": "frequency"})  # fmt: skip
    elif reading.measure == "trace":
        kind = SCAN_KIND.get(reading.signal, "number")
        yield from _figures(value, field, {"min": kind, "max": kind, "mean": kind})
    elif reading.measure == "act":
        allowed = OUTCOMES.get(reading.action, ("done",))
        if value not in allowed:
            yield Finding(field, f"{' or '.join(allowed)} for {reading.action}", value)


def _figures(value: Any, field: str, kinds: Mapping[str, Kind]) -> Iterator[Finding]:
    texts = {name: getattr(value, name) for name in kinds}
    others = [getattr(value, name) for name in value.__dataclass_fields__ if name not in kinds]
    if all(text is None for text in texts.values()) and all(other is None for other in others):
        yield Finding(field, f"at least one figure: {', '.join(value.__dataclass_fields__)}", "none")
    for name, text in texts.items():
        if text is not None:
            yield from _quantity(text, kinds[name], f"{field}.{name}")


def _scan_value(reading: Any, field: str) -> Iterator[Finding]:
    pid, text = reading.pid, reading.value.strip().lower()
    words = SCAN_WORDS.get(pid, ())
    if text in words:
        return
    if pid in SCAN_KIND or pid == "heater_command":
        problems = list(_quantity(reading.value, SCAN_KIND.get(pid, "ratio"), field))
        for finding in problems:
            listed = f", or {' or '.join(words)}" if words else ""
            yield Finding(field, finding.expected + listed, finding.found)
        return
    yield Finding(field, f"one of {', '.join(words)}", reading.value)


def _quantity(text: str, kind: Kind, field: str) -> Iterator[Finding]:
    try:
        parse(text, kind, field)
    except RefusedInput as refusal:
        yield from refusal.findings


def _taken(reading: Any, at: str) -> Iterator[Finding]:
    if reading.taken is None:
        return
    try:
        datetime.fromisoformat(reading.taken)
    except ValueError:
        yield Finding(f"{at}.taken", "a time such as 2026-03-14T09:30:00", reading.taken)


def check_probe(probe: Probe, at: str, terminals: tuple[str, ...], pins: Mapping[str, Pin]) -> list[Finding]:
    """Findings about a probe without a value."""
    return list(_probe(probe, at, terminals, pins))
