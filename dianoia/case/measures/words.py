"""The format's words as a person says them, once for every door."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import get_args

from dianoia.case.measures import MEASURES, Measure
from dianoia.case.measures.scan import SCAN_WORDS
from dianoia.case.measures.scope import FIGURES as SCOPE_FIGURES
from dianoia.case.terms import (
    Action,
    Check,
    CodeStatus,
    Condition,
    ExhaustPlace,
    FigureName,
    History,
    InspectTarget,
    LampLight,
    Moves,
    Outcome,
    Pid,
    Seen,
    Style,
    Symptom,
)

#: Words that are not said as they are written.
_IRREGULAR: Mapping[str, str] = {
    "rich": "enriched", "lean": "leaned out", "snap": "throttle snap", "fresh-air": "in fresh air",
    "known-good": "a known-good one", "new": "the new one", "old": "the old one",
    "before-front": "before the front sensor", "between": "between the sensors", "after-rear": "after the rear sensor",
    "live-first": "Live first", "ohms-first": "Ohms first", "scan-first": "Scan first", "basic-kit": "Basic kit",
    "high": "high, V", "low": "low, V", "duty_low": "low, %", "frequency": "Hz", "min": "lowest", "max": "highest",
    "switches_per_min": "switches / min", "first_activity_s": "first moves, s", "rise_s": "edge, s",
    "fall_s": "falling edge, s", "delay_s": "follows after, s",
    "battery-on-signal": "battery voltage was put on the signal wire", "urea": "urea (diesel exhaust fluid)",
    "leads-shorted": "leads shorted first", "other-tips": "with other tips",
    "none": "no symptom felt", "failed-inspection": "failed the inspection", "derate": "runs with less power",
    "engine-work": "engine or gearbox work", "exhaust-work": "exhaust work", "recent-sensor": "sensor replaced lately",
    "water": "water or flood", "rodent": "rodents", "repeat-visit": "back again with the same", "nox": "NOx", "o2": "O2", "nox_status": "NOx status", "can_messages": "CAN messages",
}  # fmt: skip


def spoken(word: str) -> str:
    """A word of the format as it is said.

    >>> spoken("heater_current"), spoken("B1S2"), spoken("snap")
    ('heater current', 'B1 S2', 'throttle snap')
    """
    if word[:1] == "B" and word[2:3] == "S":
        return f"{word[:2]} {word[2:]}"
    return _IRREGULAR.get(word, word.replace("_", " ").replace("-", " "))


def all_spoken() -> dict[str, str]:
    """Every word that an entry may consist of, as it is said."""
    terms = (
        Pid,
        Condition,
        InspectTarget,
        Seen,
        Action,
        Outcome,
        ExhaustPlace,
        FigureName,
        LampLight,
        Style,
        Moves,
        Check,
    )
    words = [word for term in terms for word in get_args(term)]
    words += [*get_args(Symptom), *get_args(History), *get_args(CodeStatus)]
    words += [word for listed in SCAN_WORDS.values() for word in listed]
    return {word: spoken(word) for word in (*words, *SCOPE_FIGURES, *_OTHERS)}


#: Fields of the format that are called otherwise on a screen.
FIELDS: Mapping[str, str] = {
    "sensor_c": "element temperature",
    "at_s": "seconds since start",
    "coolant_c": "coolant temperature",
    "red": "red lead",
    "black": "black lead",
    "at": "point",
    "of": "part measured",
    "with": "taken with",
    "pid": "scan value",
    "jumper": "bridge",
    "rise_s": "edge",
    "delay_s": "follows after",
    "first_activity_s": "first moves",
    "switches_per_min": "switches a minute",
    "duty_low": "low",
    "heater_ohms_20c": "heater at 20 °C",
    "heater_amps": "heater current",
    "bias_v": "bias",
    "torque_nm": "torque",
    "spec_source": "where it comes from",
    "ohms_20c": "element at 20 °C",
    "meter_v": "what the meter shows",
    "old": "password until now",
    "new": "new password",
    "labour_per_hour": "labour",
    "part_price": "a sensor",
    "wrong_call_cost": "a wrong call",
}


@dataclass(frozen=True)
class Dial:
    """How a measurement stands on the meter's dial."""

    label: str
    letter: str
    """Of the keyboard."""


#: In the order of the dial.
DIAL: Mapping[Measure, Dial] = {name: Dial(bench.label, bench.letter) for name, bench in MEASURES.items()}
#: What a reading may be of, besides the sensor in question.
_OTHERS = ("known-good", "new", "old", *(f"B{bank}S{position}" for bank in (1, 2) for position in (1, 2, 3)))
