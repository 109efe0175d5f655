"""What was read off an instrument: figures as numbers, words where words are shown; typed text is parsed here, once."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from dianoia.errors import Finding, RefusedInput
from dianoia.quantities.parse import parse, parse_live
from dianoia.quantities.types import Kind, Quantity, Span

Shown = Quantity | str
#: Figures by name, in the order they are read off; ``value`` where there is only one.
Figures = tuple[tuple[str, Shown], ...]
#: Figures of a span: the lowest and the highest that was seen.
LOWEST, HIGHEST = "min", "max"


@dataclass
class Parsed:
    """A reading's value, parsed."""

    figures: list[tuple[str, Shown]] = field(default_factory=list)
    """As far as they could be."""
    findings: list[Finding] = field(default_factory=list)
    """What was refused, fields named from the reading on."""

    def add(self, name: str, shown: Shown) -> None:
        """A figure that needs no parsing."""
        self.figures.append((name, shown))

    def refuse(self, at: str, expected: str, found: str) -> None:
        """A finding about a field."""
        self.findings.append(Finding(at, expected, found))

    def quantity(self, name: str, text: str, kind: Kind, at: str = "value") -> None:
        """A figure from typed text."""
        try:
            self.add(name, parse(text, kind, at))
        except RefusedInput as refusal:
            self.findings += refusal.findings

    def live(self, text: str, kind: Kind, moving: bool, expected: str = "") -> None:
        """One value, or its lowest and highest where what is read may be a span. expected: added to what a refusal tells."""
        try:
            shown = self._live(text, kind, moving)
        except RefusedInput as refusal:
            self.findings += [Finding(item.field, item.expected + expected, item.found) for item in refusal.findings]
            return
        if isinstance(shown, Span):
            self.figures += [(LOWEST, shown.low), (HIGHEST, shown.high)]
        else:
            self.add("value", shown)

    def _live(self, text: str, kind: Kind, moving: bool) -> Quantity | Span:
        if moving:
            return parse_live(text, kind)
        try:
            return parse(text, kind)
        except RefusedInput:
            if refusals(lambda: parse_live(text, kind)):
                raise
        one = "one value; a span only of a signal wire, a scan signal or a trim"
        raise RefusedInput([Finding("value", one, text)])


def findings_about(text: str, kind: Kind, at: str) -> Sequence[Finding]:
    """Findings about typed text."""
    return refusals(lambda: parse(text, kind, at))


def refusals(read: Callable[[], object]) -> Sequence[Finding]:
    """What a function refuses."""
    try:
        read()
    except RefusedInput as refusal:
        return refusal.findings
    return ()
