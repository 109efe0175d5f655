"""An oscilloscope."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from dianoia.case.measures.bench_traits import BenchTraits
from dianoia.case.measures.figures import Parsed
from dianoia.case.measures.points_between import BetweenPoints
from dianoia.case.measures.state import EntryFields, State
from dianoia.case.recordings import OfRecording
from dianoia.case.strict import STRICT
from dianoia.quantities.types import Kind

#: The figures of a scope, and of what kind each is.
FIGURES: Mapping[str, Kind] = {"high": "voltage", "low": "voltage", "duty_low": "ratio", "frequency": "frequency"}

BENCH = BenchTraits("Scope", "s")


@dataclass(frozen=True, kw_only=True)
class ScopeProbe(BetweenPoints, State):
    """Oscilloscope, red against black."""

    __pydantic_config__ = STRICT
    measure: Literal["scope"]
    red: str
    black: str

    @property
    def at_work(self) -> bool:
        """See ``State``."""
        return True

    @property
    def is_wave(self) -> bool:
        """See ``State``."""
        return True

    @property
    def tool(self) -> str:
        """See ``State``."""
        return "scope"


@dataclass(frozen=True, kw_only=True)
class ScopeFigures:
    """What the scope showed, each as typed text."""

    __pydantic_config__ = STRICT
    high: str | None = None
    low: str | None = None
    duty_low: str | None = None
    frequency: str | None = None


@dataclass(frozen=True, kw_only=True)
class ScopeReading(OfRecording, ScopeProbe, EntryFields):
    """A scope's figures between two points."""

    value: ScopeFigures
    """The figures read off the screen."""

    def parse(self) -> Parsed:
        """See ``EntryFields``."""
        found, typed = Parsed(), vars(self.value)
        if all(text is None for text in typed.values()):
            found.refuse("value", f"at least one figure: {', '.join(typed)}", "none")
        for name, kind in FIGURES.items():
            if typed[name] is not None:
                found.quantity(name, typed[name], kind, f"value.{name}")
        return found
