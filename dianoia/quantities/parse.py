"""Text as a technician types it -> Quantity.

>>> parse("18.6k", "resistance").value
18600.0
>>> parse("0,45 V", "voltage").value
0.45
>>> span = parse_live("0.1-0.85 V", "voltage")
>>> span.low.value, span.high.value
(0.1, 0.85)
"""

import math
import re
from dataclasses import replace

from dianoia.errors import RefusedInput, refuse
from dianoia.quantities.types import Kind, Quantity, Span

_UNITS: dict[Kind, str] = {
    "voltage": r"v|volts?",
    "resistance": r"ohms?|Ω|ω|r|Ω",
    "current": r"a|amps?|ampere",
    "ratio": r"%|percent",
    "frequency": r"hz|hertz",
    "temperature": r"°\s*c|c|deg\s*c|celsius",
    "time": r"s|sec|seconds?",
    "power": r"w|watts?",
    "number": r"/min",
    "cell_current": r"ma|milliamps?",
    "lambda": r"lambda|λ",
    "ppm": r"ppm",
    "oxygen": r"%|percent",
}
_EXAMPLE: dict[Kind, str] = {
    "voltage": "a voltage such as 13.8 V or 450mV",
    "resistance": "a resistance such as 6.2 ohm, 18.6k or OL",
    "current": "a current such as 0.74 A or 20 mA",
    "ratio": "a percentage such as 60 %",
    "frequency": "a frequency such as 10 Hz",
    "temperature": "a temperature such as 20 °C",
    "time": "a time such as 0.1 s or 80 ms",
    "power": "a power such as 5 W",
    "number": "a plain number",
    "cell_current": "a cell current in mA such as 0.4 mA",
    "lambda": "a lambda such as 1.02",
    "ppm": "a concentration such as 250 ppm",
    "oxygen": "an oxygen content such as 20.9 %",
}
_PREFIX = {"": 1.0, "k": 1e3, "K": 1e3, "M": 1e6, "m": 1e-3, "u": 1e-6, "µ": 1e-6, "μ": 1e-6}
_PREFIXED: set[Kind] = {"voltage", "resistance", "current", "frequency", "time"}
_NUMBER = re.compile(r"^\s*([+\-−]?)\s*(\d+(?:[.,]\d*)?|[.,]\d+)\s*(.*?)\s*$", re.DOTALL)
_LETTER_POINT = re.compile(r"^\s*(\d+)\s*([kKM])\s*(\d+)\s*(.*?)\s*$", re.DOTALL)
#: What stands between the two ends of a span; a hyphen only where neither end has a sign.
_BETWEEN = re.compile(r"\s*(?:\.{2,}|…|–|—|(?<![a-z])to(?![a-z]))\s*", re.IGNORECASE)
_HYPHENATED = re.compile(r"([\d.,][^+\-−]*)-\s*([\d.,][^+\-−]*)")
_OVER_LIMIT = {"ol", "o.l", "o.l.", "0l", "0.l", "0.l.", ".ol", "∞", "infinite", "inf", "open"}
_LONGEST = 40
_LARGEST = 1e12


def parse(text: str, kind: Kind, field: str = "value") -> Quantity:
    """The quantity that ``text`` says, in the base unit of ``kind``.

    A bare number has the kind's own unit. ``OL`` is a resistance. Comma and point both serve as decimal mark.
    Raises RefusedInput naming ``field`` for anything else, a negative resistance or an endless number included.
    """
    try:
        return _parse(text, kind)
    except RefusedInput as refusal:
        raise RefusedInput([replace(finding, field=field) for finding in refusal.findings]) from None


def parse_live(text: str, kind: Kind, field: str = "value") -> Quantity | Span:
    """One look at a live value, or the span it ran through: two values with ``..``, ``to`` or a dash between them.

    A unit at one end holds for both; the ends may come in either order. Raises RefusedInput as ``parse``.
    """
    ends = _ends(text)
    if ends is None:
        return parse(text, kind, field)
    try:
        first, second = (_parse(end, kind) for end in ends)
    except RefusedInput:
        raise refuse(field, f"{_EXAMPLE[kind]}, or a span such as 0.1..0.85", text) from None
    return Span(*sorted((first, second), key=lambda end: end.value))


def _ends(text: str) -> tuple[str, str] | None:
    """The two ends of a span, each with its unit; None where the text is no span."""
    parts = _BETWEEN.split(text.strip())
    if len(parts) == 1 and (match := _HYPHENATED.fullmatch(text.strip())):
        parts = list(match.groups())
    if len(parts) != 2 or not all(parts):
        return None
    units = [match.group(3) if (match := _NUMBER.match(part)) else "" for part in parts]
    return parts[0] + ("" if units[0] else units[1]), parts[1] + ("" if units[1] else units[0])


def _parse(text: str, kind: Kind) -> Quantity:
    field = ""
    if len(text) > _LONGEST:
        raise refuse(field, _EXAMPLE[kind], text)
    if kind == "resistance" and text.strip().lower() in _OVER_LIMIT:
        return Quantity(kind, math.inf)
    sign, digits, scale = _split(text, kind, field)
    value = sign * float(digits) * scale
    if kind in ("resistance", "frequency", "time", "power") and value < 0:
        raise refuse(field, f"{_EXAMPLE[kind]}, not below zero", text)
    if not math.isfinite(value) or abs(value) > _LARGEST:
        raise refuse(field, _EXAMPLE[kind], text)
    decimals = len(digits.partition(".")[2])
    return Quantity(kind, value, scale * 10.0**-decimals)


def _split(text: str, kind: Kind, field: str) -> tuple[float, str, float]:
    """Sign, digits with a decimal point, and the factor to the base unit."""
    letter_point = _LETTER_POINT.match(text)
    if letter_point and kind == "resistance":
        whole, prefix, rest, unit = letter_point.groups()
        return 1.0, f"{whole}.{rest}", _factor(prefix + unit, text, kind, field)
    match = _NUMBER.match(text)
    if not match:
        raise refuse(field, _EXAMPLE[kind], text)
    sign, digits, unit = match.groups()
    if re.fullmatch(r"[1-9]\d{0,2},\d{3}", digits):
        plain = digits.replace(",", "")
        raise refuse(
            field, f"{digits.replace(',', '.')} or {plain} (a comma before three digits can mean either)", text
        )
    return (-1.0 if sign in ("-", "−") else 1.0), digits.replace(",", "."), _factor(unit, text, kind, field)


def _factor(unit: str, text: str, kind: Kind, field: str) -> float:
    base = {"ratio": 0.01, "cell_current": 0.001}.get(kind, 1.0)
    if not unit or re.fullmatch(_UNITS[kind], unit, re.IGNORECASE):
        return base
    prefix, rest = unit[0], unit[1:].strip()
    if kind not in _PREFIXED or prefix not in _PREFIX:
        raise refuse(field, _EXAMPLE[kind], text)
    if rest and not re.fullmatch(_UNITS[kind], rest, re.IGNORECASE):
        raise refuse(field, _EXAMPLE[kind], text)
    if prefix == "M" and kind in ("voltage", "current"):
        prefix = "m"  # no workshop has megavolts: a tablet's capital letter
    return _PREFIX[prefix]
