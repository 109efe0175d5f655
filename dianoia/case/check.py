"""What the fields of a case mean together: points that exist, units that fit, states that can be.

Every finding is reported, not only the first.
"""

from collections.abc import Iterator
from dataclasses import replace

from dianoia.case.check_reading import check_probe, check_reading
from dianoia.case.job import decoded_codes, pins_of, possible_families, primary_code
from dianoia.case.measures import Spec
from dianoia.case.measures.check_context import CheckContext
from dianoia.case.measures.figures import findings_about
from dianoia.case.measures.scan import SCAN_KIND
from dianoia.case.sensor import Sensor
from dianoia.case.types import Case
from dianoia.errors import Finding, RefusedInput
from dianoia.quantities.parse import parse


def check(case: Case) -> None:
    """Raises RefusedInput with every finding; returns nothing where the case can be diagnosed."""
    primary = primary_code(decoded_codes(case))
    findings: list[Finding] = []
    if primary is None and not (case.sensor and (case.sensor.family or case.sensor.bank)):
        findings.append(
            Finding(
                "codes",
                "a code that names an oxygen, air-fuel or NOx sensor; else choose which sensor the job is about",
                _codes(case),
            )
        )
    around = _around(case)
    findings += _sensor(case, around.terminals)
    for index, spec in enumerate(case.specs):
        findings += check_probe(spec, f"specs[{index}]", around)
        findings += _spec_range(spec, f"specs[{index}]")
    for index, reading in enumerate(case.readings):
        findings += check_reading(reading, f"readings[{index}]", around)
    if findings:
        raise RefusedInput(findings)


def check_newest(case: Case) -> None:
    """Raises RefusedInput with every finding about the last reading, its fields named without its place; the rest of the
    case was checked before.
    """
    findings = check_reading(case.readings[-1], "", _around(case))
    if findings:
        raise RefusedInput([replace(finding, field=finding.field.lstrip(".")) for finding in findings])


def _around(case: Case) -> CheckContext:
    return CheckContext(possible_families(case, decoded_codes(case)), case.sensor or Sensor(), pins_of(case))


def _codes(case: Case) -> str:
    return ", ".join(item.code for item in case.codes) or "none"


def _sensor(case: Case, terminals: tuple[str, ...]) -> Iterator[Finding]:
    sensor = case.sensor
    if sensor is None:
        return
    for name, ends in (("heater_ohms_20c", sensor.heater_ohms_20c), ("heater_amps", sensor.heater_amps)):
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


def _spec_range(spec: Spec, at: str) -> Iterator[Finding]:
    kind = spec.kind
    if kind is None:
        yield Finding(f"{at}.pid", f"a scan value that is a number: {', '.join(SCAN_KIND)}", str(spec.scanned))
        return
    ends = []
    for index, text in enumerate(spec.range):
        problems = findings_about(text, kind, f"{at}.range[{index}]") if text is not None else ()
        yield from problems
        if text is not None and not problems:
            ends.append(parse(text, kind).value)
    if spec.range == (None, None):
        yield Finding(f"{at}.range", "at least one end", "neither")
    if len(ends) == 2 and ends[0] > ends[1]:
        yield Finding(f"{at}.range", "the low end first", str(list(spec.range)))
