"""A reading parsed once, at the door: what was measured, and its figures as numbers. Nothing further in reads text again."""

from collections.abc import Iterator
from dataclasses import dataclass, fields, replace
from typing import Any

from dianoia.case.answers import SCAN_KIND
from dianoia.case.ledger import (
    ActReading,
    CurrentReading,
    InspectReading,
    LampReading,
    Probe,
    Reading,
    ResistanceReading,
    ScanProbe,
    ScanReading,
    ScopeReading,
    Spec,
    State,
    TraceReading,
    VoltageProbe,
    VoltageReading,
    own_fields,
)
from dianoia.case.live import NO_VALUE, may_move
from dianoia.case.terms import Check, Moves
from dianoia.quantities.parse import parse, parse_live
from dianoia.quantities.show import show, show_range
from dianoia.quantities.types import Kind, Quantity, Span

#: From this share of the time on, a scan tool calls a heater commanded on.
COMMANDED = 0.02
#: Figures of a span: the lowest and the highest that was seen.
LOWEST, HIGHEST = "min", "max"
Shown = Quantity | str
#: Figures by name, in the order they are read off; ``value`` where there is only one.
Figures = tuple[tuple[str, Shown], ...]


@dataclass(frozen=True)
class Observed:
    """A reading. probe: what was measured, its points as terminals; figures: numbers, or words where words are shown;
    moves: as it was seen to; struck: why it counts for nothing; taken: when, as noted; checked: against a slip; of_fault: of an act that repairs, what it was said to mend.
    """

    probe: Probe
    figures: Figures
    moves: Moves | None = None
    struck: str | None = None
    taken: str | None = None
    of_fault: str | None = None
    checked: tuple[Check, ...] = ()

    @property
    def counts(self) -> bool:
        """Whether it was not struck out."""
        return self.struck is None

    @property
    def is_span(self) -> bool:
        """Whether it is the lowest and highest that a live value ran through."""
        return len(self.figures) == 2 and isinstance(self.probe, ScanProbe | VoltageProbe)

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
        if not isinstance(self.probe, ScanProbe) or self.probe.pid != "heater_command":
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
class Published:
    """The vehicle's own range for a reading. low and high in the base unit of ``kind``, None for an open end."""

    probe: Probe
    kind: Kind
    low: float | None
    high: float | None
    source: str


def observe(reading: Reading) -> Observed:
    """A checked reading, parsed."""
    probe = probe_of(reading)
    if isinstance(reading, ScanReading | VoltageReading):
        return replace(_live(reading, probe), checked=reading.checked or ())
    of_fault = reading.of_fault if isinstance(reading, ActReading) else None
    return Observed(
        probe,
        tuple(_figures(reading)),
        struck=reading.struck,
        taken=reading.taken,
        of_fault=of_fault,
        checked=reading.checked or (),
    )


def _live(reading: ScanReading | VoltageReading, probe: Probe) -> Observed:
    span = _span(reading, probe)
    if span is None:
        return Observed(probe, (("value", _one(reading)),), reading.moves, reading.struck, reading.taken)
    return Observed(probe, ((LOWEST, span.low), (HIGHEST, span.high)), reading.moves, reading.struck, reading.taken)


def _span(reading: ScanReading | VoltageReading, probe: Probe) -> Span | None:
    """The span a reading says; None where it is one look, or nothing that may be a span."""
    if not may_move(probe) or reading.value.strip().lower() in NO_VALUE:
        return None
    said = parse_live(reading.value, SCAN_KIND[reading.pid] if isinstance(reading, ScanReading) else "voltage")
    return said if isinstance(said, Span) else None


def _one(reading: ScanReading | VoltageReading) -> Shown:
    if isinstance(reading, VoltageReading):
        return parse(reading.value, "voltage")
    text = reading.value.strip().lower()
    if reading.pid == "heater_command" and text not in ("on", "off"):
        return parse(text, "ratio")
    kind = SCAN_KIND.get(reading.pid)
    return text if kind is None or text in NO_VALUE else parse(reading.value, kind)


def _figures(reading: Reading) -> Iterator[tuple[str, Shown]]:
    if isinstance(reading, ResistanceReading):
        yield "value", parse(reading.value, "resistance")
    elif isinstance(reading, CurrentReading):
        yield "value", parse(reading.value, "current")
    elif isinstance(reading, LampReading | InspectReading | ActReading):
        yield "value", reading.value
    elif isinstance(reading, ScopeReading):
        yield from _scope(reading)
    elif isinstance(reading, TraceReading):
        yield from _trace(reading)


def _scope(reading: ScopeReading) -> Iterator[tuple[str, Shown]]:
    value = reading.value
    typed: tuple[tuple[str, str | None, Kind], ...] = (
        ("high", value.high, "voltage"), ("low", value.low, "voltage"), ("duty_low", value.duty_low, "ratio"),
        ("frequency", value.frequency, "frequency"),
    )  # fmt: skip
    for name, text, kind in typed:
        if text is not None:
            yield name, parse(text, kind)


def _trace(reading: TraceReading) -> Iterator[tuple[str, Shown]]:
    value, kind = reading.value, SCAN_KIND.get(reading.signal, "number")
    for name, text in (("min", value.min), ("max", value.max), ("mean", value.mean)):
        if text is not None:
            yield name, parse(text, kind)
    if value.switches_per_min is not None:
        yield "switches_per_min", Quantity("number", value.switches_per_min)
    for name, seconds in (("first_activity_s", value.first_activity_s), ("rise_s", value.rise_s), ("fall_s", value.fall_s),
                          ("delay_s", value.delay_s)):  # fmt: skip
        if seconds is not None:
            yield name, Quantity("time", seconds)


def published(spec: Spec) -> Published:
    """A checked spec, parsed."""
    kind = SCAN_KIND[spec.pid] if isinstance(spec, ScanProbe) else spec.measure
    low, high = (parse(text, kind).value if text is not None else None for text in spec.range)
    return Published(probe_of(spec), kind, low, high, spec.source)


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
