"""What a column of a log holds: its heading matched to a signal, a sensor and a unit."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Literal

from dianoia.errors import refuse
from dianoia.signals.known import signals
from dianoia.tables import read_rows

_DATA = Path(__file__).parent / "data"
#: A unit behind a heading, in brackets of any kind.
_BRACKETS = re.compile(r"[\[({]\s*([^\[\](){}]*?)\s*[\])}]\s*$")
_TIME = re.compile(r"^(time|timestamp|zeit|t|elapsed|seconds?|secs?|clock|date ?time|offset|x axis|x)\b")
#: A unit that ends a heading without brackets.
_ENDING = re.compile(r" (m?v|m?a|ppm|rpm|ohms?|%)$")
_SENSOR = re.compile(r"\bb(?:ank)? ?([12])[ ,:]*(?:sensor|s|o2|pos(?:ition)?)? ?s? ?([123])\b")
_SENSOR_FIRST = re.compile(r"\bs(?:ensor)? ?([123])[ ,:]*b(?:ank)? ?([12])\b")
_DIGITS = re.compile(r"\b(?:h?o2s?|hego|ego|afs?|ufego|lambda|sensor) ?([12])([123])\b")
_BANK = re.compile(r"\b(?:b(?:ank)?|stft|ltft|shrtft|longft|trim) ?([12])\b")
_NOX = (
    ("B1S1", re.compile(r"\b(nox ?1|before|upstream|inlet|intake|engine out|pre|in)\b")),
    ("B1S2", re.compile(r"\b(nox ?2|after|behind|downstream|outlet|tailpipe|post|out)\b")),
)
#: Signals that belong to the engine and not to a sensor.
OF_ENGINE = frozenset(("battery_voltage", "engine_speed", "coolant"))
#: Signals of a bank: they stand with its front sensor.
_OF_BANK = frozenset(("short_trim", "long_trim", "loop"))
ADDRESS = re.compile(r"B[12]S[123]")


#: Channels of a scope: they belong to the point that their lead lies on.
OF_SCOPE = ("volts", "amps")


def belongs_to(signal: str) -> Literal["sensor", "engine", "point"]:
    """What a signal is measured of."""
    if signal in OF_ENGINE:
        return "engine"
    return "point" if signal in OF_SCOPE else "sensor"


@dataclass(frozen=True)
class HeadingRow:
    """A row of headings.csv: the first pattern that a heading fits says its signal."""

    signal: str
    pattern: str
    """Regular expression, on the heading in lower case, without its unit, with spaces for signs."""

    def __post_init__(self) -> None:
        re.compile(self.pattern)
        if self.signal not in signals():
            raise ValueError(f"{self.signal!r} is no signal of signals.csv")


@dataclass(frozen=True)
class UnitRow:
    """A row of units.csv."""

    written: str
    """In lower case."""
    unit: str
    factor: str

    def __post_init__(self) -> None:
        float(self.factor)


@dataclass(frozen=True)
class Match:
    """What a heading says."""

    signal: str | None
    """None where it is not known."""
    of: str | None
    """None where the heading does not say it."""
    unit: str
    """As written; empty where none is."""


@cache
def units() -> Mapping[str, tuple[str, float]]:
    """Unit as written, in lower case -> unit, and how many of them it is. Raises BrokenTable."""
    return {row.written: (row.unit, float(row.factor)) for row in read_rows(_DATA / "units.csv", UnitRow)}


@cache
def _headings() -> Sequence[tuple[str, re.Pattern[str]]]:
    return [(row.signal, re.compile(row.pattern)) for row in read_rows(_DATA / "headings.csv", HeadingRow)]


def split_unit(heading: str) -> tuple[str, str]:
    """A heading without its unit, and the unit as written.

    >>> split_unit("O2S11 [V]"), split_unit("battery")
    (('O2S11', 'V'), ('battery', ''))
    """
    found = _BRACKETS.search(heading.strip())
    if found and found[1].lower() in units():
        return heading.strip()[: found.start()].strip(), found[1]
    return heading.strip(), ""


def is_unit(text: str) -> bool:
    """Whether a cell says a unit and nothing else."""
    return text.strip().strip("[](){}").strip().lower() in units()


def is_time(heading: str) -> bool:
    """Whether a heading is that of a column of times."""
    return bool(_TIME.match(_plain(split_unit(heading)[0])))


def match(heading: str, unit: str = "") -> Match:
    """What a heading says. unit: from a row of units; a unit in the heading comes first.

    >>> match("Bank 2 Sensor 1 O2 voltage (mV)")
    Match(signal='sensor_voltage', of='B2S1', unit='mV')
    """
    bare, written = split_unit(heading)
    plain = _plain(bare)
    unit = written or unit.strip().strip("[](){}")
    if point := _point(bare):
        return Match("amps" if units().get(unit.lower(), ("",))[0] == "A" else "volts", point, unit)
    if not unit and (ending := _ENDING.search(plain)):
        unit = ending[1]
    found = next((signal for signal, pattern in _headings() if pattern.search(plain)), None)
    if found is not None and not fits(found, unit):
        found = _by_unit(found, unit)
    return Match(found, _of(plain, found), unit)


def _plain(heading: str) -> str:
    return " ".join(re.sub(r"[^\w%/°λµ]+|_", " ", heading.lower()).replace("/", " ").split())


def _by_unit(signal: str, unit: str) -> str | None:
    """The cell's signal that the unit tells, where the heading was of another one."""
    if signal not in ("sensor_voltage", "cell_current", "lambda"):
        return None
    base = units().get(unit.lower(), ("", 1.0))[0]
    return {"V": "sensor_voltage", "A": "cell_current", "": "lambda"}.get(base)


def _point(bare: str) -> str | None:
    """The point a scope's lead lies on, where the heading names it."""
    found = re.match(r"((?:harness|sensor|module|fuse|relay|battery)\.[\w.]+)", bare)
    return found[1] if found else None


def _of(plain: str, signal: str | None) -> str | None:
    if signal is None or signal in OF_ENGINE:
        return None
    if found := _SENSOR.search(plain) or _DIGITS.search(plain):
        return f"B{found[1]}S{found[2]}"
    if found := _SENSOR_FIRST.search(plain):
        return f"B{found[2]}S{found[1]}"
    if signal in _OF_BANK and (found := _BANK.search(plain)):
        return f"B{found[1]}S1"
    if signal in ("nox", "o2", "nox_status"):
        return next((of for of, pattern in _NOX if pattern.search(plain)), None)
    return None


def fits(signal: str, unit: str) -> bool:
    """Whether samples in a unit can be of a signal; no unit fits all."""
    return not unit or _conversion(signal, unit) is not None


def _conversion(signal: str, unit: str) -> tuple[float, float] | None:
    wanted, (found, factor) = signals()[signal].unit, units().get(unit.lower(), (None, 1.0))
    if found is None:
        return None
    if wanted == "°C" and found == "°F":
        return 5.0 / 9.0, -160.0 / 9.0
    if wanted == "mA" and found == "A":
        return factor * 1000.0, 0.0
    if wanted == "%" and found == "":
        return 100.0, 0.0
    return (factor, 0.0) if wanted == found else None


def conversion(signal: str, unit: str, field: str = "unit") -> tuple[float, float]:
    """Factor and offset from a unit as written to the signal's own. Raises RefusedInput for a unit of something else."""
    if not unit:
        return 1.0, 0.0
    found = _conversion(signal, unit)
    if found is None:
        row = signals()[signal]
        raise refuse(field, f"a unit of the {row.label}, as {row.unit or 'a ratio'}", unit)
    return found


def seconds_in(unit: str) -> float | None:
    """Seconds in a unit of time as written; None for any other unit."""
    found = units().get(unit.lower())
    return found[1] if found and found[0] == "s" else None
