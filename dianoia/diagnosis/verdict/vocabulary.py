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
class Said:
    """label: where there is little room; phrase: within a sentence."""

    label: str
    phrase: str


@dataclass(frozen=True)
class ResultWords:
    """How a judgement is said. mark: one character; word: after a value; sentence: standing alone, without its full stop."""

    mark: str
    word: str
    sentence: str


PARTS: Mapping[Part, Said] = {
    "supply": Said("supply", "the supply up to the plug"), "control": Said("control wire", "the heater's control wire"),
    "driver": Said("module driver", "the module's driver"), "heater": Said("heater element", "the heater element"),
    "signal": Said("signal wire", "the signal wire"), "return": Said("signal return", "the signal return"),
    "bias": Said("module bias", "the module's bias"), "reference": Said("reference", "the reference"),
    "pump": Said("pump wire", "the pump wire"), "trim": Said("trim resistor", "the trim resistor"),
    "cell": Said("cell", "the sensing cell"), "ground": Said("ground", "the ground"), "bus": Said("bus", "the bus"),
}  # fmt: skip
COMPONENTS: Mapping[Component, Said] = {
    "sensor": Said("sensor", "the sensor"), "wiring": Said("wiring", "the wiring"), "supply": Said("supply", "the supply"),
    "module": Said("module", "the module"), "exhaust": Said("exhaust", "an exhaust leak"), "mixture": Said("mixture", "the mixture"),
    "catalyst": Said("catalyst", "the catalyst"), "dosing": Said("dosing", "the dosing"),
    "feed": Said("feed", "the feed between battery and plug"),
}  # fmt: skip
RESULTS: Mapping[Result, ResultWords] = {
    "pass": ResultWords("✓", "good", "Good"), "fail": ResultWords("✗", "bad", "Bad"),
    "unclear": ResultWords("?", "not clear", "Neither good nor bad by itself"),
}  # fmt: skip


@dataclass(frozen=True)
class Vocabulary:
    """Everything that a screen says and no job changes.

    words: of the format, as they are said. fields: of the format that are called otherwise on a screen.
    keys: positions of the ignition key. measures: of the dial, in its order. units: of a number typed without one.
    results: of judgements. parts, components: their labels. styles, code_statuses, symptoms, history, checks, lights: what may be
    chosen. element_c: in °C, of an element that is taken as cold.
    """

    words: Mapping[str, str]
    fields: Mapping[str, str]
    keys: Mapping[Key, str]
    measures: Mapping[Measure, Dial]
    units: Mapping[Measure, str]
    results: Mapping[Result, ResultWords]
    parts: Mapping[Part, str]
    components: Mapping[Component, str]
    styles: tuple[Style, ...]
    code_statuses: tuple[CodeStatus, ...]
    symptoms: tuple[Symptom, ...]
    history: tuple[History, ...]
    checks: tuple[Check, ...]
    lights: tuple[LampLight, ...]
    element_c: float


def vocabulary() -> Vocabulary:
    """The words as they are served."""
    return Vocabulary(
        words=all_spoken(), fields=FIELDS, keys=KEYS, measures=DIAL, units=METER_UNITS, results=RESULTS,
        parts={part: said.label for part, said in PARTS.items()},
        components={name: said.label for name, said in COMPONENTS.items()},
        styles=get_args(Style), code_statuses=get_args(CodeStatus), symptoms=get_args(Symptom), history=get_args(History),
        checks=get_args(Check), lights=get_args(LampLight), element_c=NOMINAL_C,
    )  # fmt: skip
