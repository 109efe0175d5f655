"""When the evidence is enough: the gates that stand before each decision."""

from collections.abc import Iterator, Mapping, Sequence, Set
from dataclasses import dataclass
from typing import Literal

from dianoia.case.ledger import ActProbe, CurrentProbe, LampProbe, ScanProbe, ScopeProbe, VoltageProbe
from dianoia.case.observed import Observed
from dianoia.diagnosis.decision.proof import DOUBT, PartState
from dianoia.diagnosis.faults.types import Component, Part

DecisionName = Literal[
    "replace-sensor", "repair-wiring", "restore-supply", "suspect-module", "fix-exhaust-leak", "fix-mixture",
    "check-catalyst", "check-dosing", "repair-several", "no-fault-now", "keep-testing",
]  # fmt: skip

#: Confidence in the exact set of components from which a decision is made.
DECIDE = 0.99
#: Or from this one, where all that is named is at fault with the chance ``NAMED``: what stays open is whether something
#: else is bad besides, which the sheet lists as unproven.
DECIDE_NAMED, NAMED = 0.98, 0.995
#: And where no further reading could change it; or from the second one, where all that is named is certain: what stays
#: open hides behind what was found, until that is mended.
DECIDE_AT_THE_END, NAMED_AT_THE_END = 0.85, 0.5
#: A part that cannot be proven holds up nothing at the end where it is likelier bad than healthy: it is what was found.
LIKELIER_BAD = 0.5
#: A component is named only when it is itself at fault with this chance; a sensor or module called wrongly costs most.
NAME: Mapping[Component, float] = {"sensor": 0.996, "module": 0.99}
#: The same where no further reading could change it.
NAME_AT_THE_END: Mapping[Component, float] = {"sensor": 0.97, "module": 0.92}
_NAMES: Mapping[frozenset[Component], DecisionName] = {
    frozenset(("sensor",)): "replace-sensor", frozenset(("wiring",)): "repair-wiring",
    frozenset(("supply",)): "restore-supply", frozenset(("module",)): "suspect-module",
    frozenset(("exhaust",)): "fix-exhaust-leak", frozenset(("mixture",)): "fix-mixture",
    frozenset(("catalyst",)): "check-catalyst", frozenset(("dosing",)): "check-dosing",
    frozenset(): "no-fault-now",
}  # fmt: skip
#: What a gate may still want to see, besides proven parts.
MODULE_POWER = "the module's own power and ground, measured"
COMMANDED = "a reading with the driver commanded and the codes just cleared"
CODE_AWAY = "the codes cleared and not back"
ELEMENT_APART = "the element measured at the sensor's own pins, or a good one in its place"
SEEN_COMMANDED = "the heater's command on the scan tool while it stays off, or the heater commanded with it"
#: What a gate wants -> the candidates that show it, the simplest first.
SHOWN_BY = {
    MODULE_POWER: ("module-ground",), COMMANDED: ("lamp-across",), CODE_AWAY: ("clear",),
    ELEMENT_APART: ("element",),
    SEEN_COMMANDED: ("scan-command-cleared", "control-commanded", "lamp-commanded"),
}  # fmt: skip
#: Parts that must be proven healthy, besides what is held to be bad, before a component is named.
_GATES: dict[str, dict[Component | Literal[""], tuple[Part, ...]]] = {
    "heater": {
        "sensor": ("supply", "control"),
        "module": ("supply", "control", "heater"),
        "": ("supply", "control", "driver", "heater"),
    },
    "signal": {
        "sensor": ("bias", "signal", "reference", "return", "pump"),
        "module": ("signal", "reference", "return"),
        "": ("bias", "signal", "reference", "return", "pump", "trim", "cell"),
    },
    "nox": {
        "sensor": ("supply", "ground", "bus"),
        "": ("supply", "ground", "bus", "cell"),
    },
}


@dataclass(frozen=True)
class Standing:
    """What the readings say now, and what still stands before a decision.

    components: the likeliest set; confidence: that it is exactly right; sure: each of its components is at fault
    with the chance that naming it takes; missing: parts still to be proven for it; wants: other things still to be
    seen, in words; exhausted: no reading is left that could change it.
    """

    components: frozenset[Component]
    confidence: float
    sure: bool
    missing: tuple[Part, ...]
    wants: tuple[str, ...]
    exhausted: bool = False
    #: ``sure`` by what has to do when nothing is left to measure.
    nearly_sure: bool = False
    #: Chance that all of the components are at fault, whatever else may be.
    named: float = 0.0
    #: Of the missing parts those that hold up a decision even when nothing is left to measure: a part that is not
    #: likely to be bad, and hides behind what was found, cannot be proven before that is mended.
    doubtful: tuple[Part, ...] = ()

    @property
    def decided(self) -> bool:
        """Whether the decision can be made; with nothing left to measure a little less confidence has to do."""
        if self.exhausted:
            enough = NAMED_AT_THE_END if self.named >= NAMED else DECIDE_AT_THE_END
            return self.confidence >= enough and self.nearly_sure and not self.doubtful and not self.wants
        return self.proven and not self.wants

    @property
    def proven(self) -> bool:
        """Whether readings say enough, whatever else a gate may want to see."""
        enough = DECIDE_NAMED if self.named >= NAMED else DECIDE
        return self.confidence >= enough and self.sure and not self.missing

    @property
    def decision(self) -> DecisionName:
        """The decision's name, ``keep-testing`` before it can be made."""
        if not self.decided:
            return "keep-testing"
        return _NAMES.get(self.components, "repair-several")


def gate_of(components: Set[Component], loop: str) -> list[Part]:
    """The parts that must be proven before these components are named, by the gates of a loop."""
    gates = _GATES[loop]
    none: Literal[""] = ""
    gated: list[Component | Literal[""]] = (
        [*sorted(name for name in components if name in gates)] if components else [none]
    )
    return list(dict.fromkeys(part for name in gated for part in gates[name]))


@dataclass(frozen=True)
class Held:
    """What is held of a ledger, were the likeliest component set the decision.

    confidence: that the set is exactly right; chances: of each component being at fault; loop: the one whose gates stand;
    silent_driver: a driver that never switches on is suspected, and a scan tool is at hand to tell whether it was ever asked
    to; behind: parts of the sensor that hide behind a pin of its plug that is held to be open, and must be proven before the
    pin is named; element_askable: the element can be measured by itself.
    """

    components: frozenset[Component]
    confidence: float
    chances: Mapping[Component, float]
    states: Mapping[Part, PartState]
    readings: Sequence[Observed]
    loop: str
    silent_driver: bool = False
    behind: Sequence[Part] = ()
    element_askable: bool = True


def standing(held: Held) -> Standing:
    """Where the job stands."""
    components, states = held.components, held.states
    gate = gate_of(components, held.loop)
    needed = [*gate, *(() if "sensor" in components else held.behind)]
    missing = tuple(part for part in needed if part in states and not _settled(part, states, components))
    sure, nearly = (
        all(held.chances.get(name, 0.0) >= least for name, least in table.items() if name in components)
        for table in (NAME, NAME_AT_THE_END)
    )
    return Standing(
        components,
        held.confidence,
        sure,
        missing,
        tuple(_wants(held)),
        nearly_sure=nearly,
        named=min((held.chances.get(name, 0.0) for name in components), default=0.0),
        doubtful=tuple(part for part in missing if part in gate and DOUBT <= states[part].chance_bad < LIKELIER_BAD),
    )


def _wants(held: Held) -> Iterator[str]:
    """What the gates want to see besides proven parts."""
    components = held.components
    counted = [item for item in held.readings if item.counts]
    heater = held.loop == "heater"
    if "module" in components and not any(map(_shows_module_power, counted)):
        yield MODULE_POWER
    if heater and "module" in components and not any(map(_commanded_after_clearing, counted)):
        yield COMMANDED
    if held.element_askable and heater and "sensor" in components and not any(map(_element_apart, counted)):
        yield ELEMENT_APART
    if held.silent_driver and "module" in components and not any(map(_seen_commanded, counted)):
        yield SEEN_COMMANDED
    if not components and not _code_stayed_away(counted):
        yield CODE_AWAY


def _settled(part: Part, states: Mapping[Part, PartState], components: frozenset[Component]) -> bool:
    """Proven, or, where several components are at fault, known to be what is bad."""
    state = states[part]
    return state.proven or (len(components) > 1 and state.failed)


def _shows_module_power(item: Observed) -> bool:
    probe = item.probe
    points = {"module.power_ground", "module.power_feed"}
    return isinstance(probe, VoltageProbe) and probe.key in ("on", "running") and bool(points & set(probe.points))


def _commanded_after_clearing(item: Observed) -> bool:
    probe = item.probe
    at_work = isinstance(probe, VoltageProbe | LampProbe | ScopeProbe | CurrentProbe | ScanProbe)
    return (
        at_work and probe.key in ("on", "running") and (probe.codes_cleared or "heater-commanded" in probe.conditions)
    )


def _element_apart(item: Observed) -> bool:
    probe = item.probe
    return not probe.by_hand and (probe.of == "known-good" or (probe.of is None and probe.across_element))


def _seen_commanded(item: Observed) -> bool:
    return item.says_commanded or "heater-commanded" in item.probe.conditions


def _code_stayed_away(readings: Sequence[Observed]) -> bool:
    outcomes = [
        item.value for item in readings if isinstance(item.probe, ActProbe) and item.probe.action == "clear-codes"
    ]
    return bool(outcomes) and outcomes[-1] == "not-returned"
