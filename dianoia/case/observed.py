"""A reading parsed once, at the door: what was measured, and its figures as numbers. Nothing further in reads text again."""

from dataclasses import dataclass, fields
from typing import Any

from dianoia.case.measures import Probe, Reading, Spec
from dianoia.case.measures.figures import HIGHEST, LOWEST, Figures, Shown
from dianoia.case.measures.state import State, own_fields
from dianoia.case.terms import Check, Moves
from dianoia.errors import RefusedInput
from dianoia.quantities.parse import parse
from dianoia.quantities.show import show, show_range
from dianoia.quantities.types import Kind, Quantity

#: From this share of the time on, a scan tool calls a heater commanded on.
COMMANDED = 0.02


@dataclass(frozen=True)
class Observed:
    """A reading."""

    probe: Probe
    """What was measured, its points as terminals."""
    figures: Figures
    """Numbers, or words where words are shown."""
    moves: Moves | None = None
    """As it was seen to."""
    struck: str | None = None
    """Why it counts for nothing."""
    taken: str | None = None
    """When, as noted."""
    of_fault: str | None = None
    """Of an act that repairs, what it was said to mend."""
    checked: tuple[Check, ...] = ()
    """What was done against a gross error before it was taken."""

    @property
    def counts(self) -> bool:
        """Whether it was not struck out."""
        return self.struck is None

    @property
    def is_span(self) -> bool:
        """Whether it is the lowest and highest that a live value ran through."""
        return self.probe.may_move and [name for name, _ in self.figures] == [LOWEST, HIGHEST]

    @property
    def value(self) -> Shown | None:
        """Its one figure; None where it has several."""
        return next((shown for name, shown in self.figures if name == "value"), None)

    @property
    def number(self) -> float | None:
        """The same as a number in the base unit (infinite for ``OL``); None for words."""
        return self.value.value if isinstance(self.value, Quantity) else None

    def figure(self, name: str) -> Shown | None:
        """The figure of a name; None where it was not noted."""
        return next((shown for known, shown in self.figures if known == name), None)

    @property
    def says_commanded(self) -> bool:
        """Whether it is a scan tool's word, or a share above ``COMMANDED``, that the heater is commanded on."""
        if self.probe.recorded or self.probe.scanned != "heater_command":
            return False
        return self.number > COMMANDED if self.number is not None else self.value == "on"

    @property
    def said(self) -> str:
        """The figures in words: ``13.8 V``, ``OL``, ``flashing``, ``0.1 to 0.85 V, switching``."""
        moves = [self.moves] if self.moves else []
        if self.is_span:
            low, high = (shown for _, shown in self.figures)
            assert isinstance(low, Quantity) and isinstance(high, Quantity)
            return ", ".join([show_range(low.value, high.value, low.kind), *moves])
        return ", ".join([*(_said(name, shown) for name, shown in self.figures), *moves])


def _said(name: str, shown: Shown) -> str:
    text = show(shown.value, shown.kind) if isinstance(shown, Quantity) else shown
    return text if name == "value" else f"{name.replace('_', ' ')} {text}"


@dataclass(frozen=True)
class ParsedRange:
    """The vehicle's own range for a reading. low and high in the base unit of ``kind``, None for an open end."""

    probe: Probe
    kind: Kind
    low: float | None
    high: float | None
    source: str


def observe(reading: Reading) -> Observed:
    """A reading, as it was parsed. Raises RefusedInput where its value says nothing."""
    if reading.parsed.findings:
        raise RefusedInput(reading.parsed.findings)
    return Observed(
        probe_of(reading), tuple(reading.parsed.figures), reading.said_moves, reading.struck, reading.taken, reading.said_fault,
        reading.checked or (),
    )  # fmt: skip


def published(spec: Spec) -> ParsedRange:
    """A checked spec, parsed."""
    kind = spec.kind
    assert kind is not None
    low, high = (parse(text, kind).value if text is not None else None for text in spec.range)
    return ParsedRange(probe_of(spec), kind, low, high, spec.source)


def probe_of(taken: Reading | Spec) -> Probe:
    """What was measured, without what came of it."""
    kind = _probe_type(type(taken))
    probe: Probe = kind(**{name: getattr(taken, name) for name in (*_STATE, *own_fields(kind))})
    return probe


_STATE = tuple(field.name for field in fields(State))


_kinds: dict[type[Any], type[Any]] = {}


def _probe_type(taken: type[Any]) -> type[Any]:
    """The kind of probe that a kind of reading or spec is."""
    if taken not in _kinds:
        _kinds[taken] = next(base for base in taken.__mro__ if base.__name__.endswith("Probe"))
    return _kinds[taken]
