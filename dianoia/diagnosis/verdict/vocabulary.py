"""The words of parts, components, judgements and of the format, once for every door."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import get_args

from dianoia.case.measures import Measure
from dianoia.case.measures.offered import METER_UNITS
from dianoia.case.measures.state_words import KEYS
from dianoia.case.measures.words import DIAL, FIELDS, Dial, all_spoken
from dianoia.case.terms import Check, CodeStatus, History, Key, LampLight, Style, Symptom
from dianoia.circuit.heater import NOMINAL_C
from dianoia.diagnosis.faults.types import Component, Part
from dianoia.readings.judge import Result


@dataclass(frozen=True)
class Term:
    """A word of the trade, short and within a sentence."""

    label: str
    """Where there is little room."""
    phrase: str
    """Within a sentence."""


@dataclass(frozen=True)
class ResultWords:
    """How a judgement is said."""

    mark: str
    """One character."""
    word: str
    """After a value."""
    sentence: str
    """Standing alone, without its full stop."""


PARTS: Mapping[Part, Term] = {
    "supply": Term("supply", "the supply up to the plug"), "control": Term("control wire", "the heater's control wire"),
    "driver": Term("module driver", "the module's driver"), "heater": Term("heater element", "the heater element"),
    "signal": Term("signal wire", "the signal wire"), "return": Term("signal return", "the signal return"),
    "bias": Term("module bias", "the module's bias"), "reference": Term("reference", "the reference"),
    "pump": Term("pump wire", "the pump wire"), "trim": Term("trim resistor", "the trim resistor"),
    "cell": Term("cell", "the sensing cell"), "ground": Term("ground", "the ground"), "bus": Term("bus", "the bus"),
}  # fmt: skip
COMPONENTS: Mapping[Component, Term] = {
    "sensor": Term("sensor", "the sensor"), "wiring": Term("wiring", "the wiring"), "supply": Term("supply", "the supply"),
    "module": Term("module", "the module"), "exhaust": Term("exhaust", "an exhaust leak"), "mixture": Term("mixture", "the mixture"),
    "catalyst": Term("catalyst", "the catalyst"), "dosing": Term("dosing", "the dosing"),
    "feed": Term("feed", "the feed between battery and plug"),
}  # fmt: skip
RESULTS: Mapping[Result, ResultWords] = {
    "pass": ResultWords("✓", "good", "Good"), "fail": ResultWords("✗", "bad", "Bad"),
    "unclear": ResultWords("?", "not clear", "Neither good nor bad by itself"),
}  # fmt: skip


@dataclass(frozen=True)
class Vocabulary:
    """Everything that a screen says and no job changes."""

    words: Mapping[str, str]
    """Of the format, as they are said."""
    fields: Mapping[str, str]
    """Of the format that are called otherwise on a screen."""
    keys: Mapping[Key, str]
    """Positions of the ignition key."""
    measures: Mapping[Measure, Dial]
    """Of the dial, in its order."""
    units: Mapping[Measure, str]
    """Of a number typed without one."""
    results: Mapping[Result, ResultWords]
    """Of judgements."""
    parts: Mapping[Part, str]
    """Their labels."""
    components: Mapping[Component, str]
    """Their labels."""
    styles: tuple[Style, ...]
    """What may be chosen."""
    code_statuses: tuple[CodeStatus, ...]
    """What may be chosen."""
    symptoms: tuple[Symptom, ...]
    """What may be chosen."""
    history: tuple[History, ...]
    """What may be chosen."""
    checks: tuple[Check, ...]
    """What may be chosen."""
    lights: tuple[LampLight, ...]
    """What may be chosen."""
    element_c: float
    """In °C, of an element that is taken as cold."""


def vocabulary() -> Vocabulary:
    """The words as they are served."""
    return Vocabulary(
        words=all_spoken(), fields=FIELDS, keys=KEYS, measures=DIAL, units=METER_UNITS, results=RESULTS,
        parts={part: said.label for part, said in PARTS.items()},
        components={name: said.label for name, said in COMPONENTS.items()},
        styles=get_args(Style), code_statuses=get_args(CodeStatus), symptoms=get_args(Symptom), history=get_args(History),
        checks=get_args(Check), lights=get_args(LampLight), element_c=NOMINAL_C,
    )  # fmt: skip
