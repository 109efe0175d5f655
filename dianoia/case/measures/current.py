"""A clamp, or an ammeter in series."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from dianoia.case.measures.bench_traits import BenchTraits
from dianoia.case.measures.figures import Parsed
from dianoia.case.measures.state import EntryFields, PublishedRange, State
from dianoia.case.points import around_wire, words
from dianoia.case.sensor import Pin
from dianoia.case.strict import STRICT
from dianoia.quantities.types import Kind

BENCH = BenchTraits("A", "a", key="running", connector="mated")


@dataclass(frozen=True, kw_only=True)
class CurrentProbe(State):
    """Clamp or series ammeter at a point, averaged over the PWM period."""

    __pydantic_config__ = STRICT
    measure: Literal["current"]
    at: str

    @property
    def named_points(self) -> tuple[tuple[str, str], ...]:
        """See ``State``."""
        return (("at", self.at),)

    @property
    def at_work(self) -> bool:
        """See ``State``."""
        return True

    @property
    def metered(self) -> Kind:
        """See ``State``."""
        return "current"

    @property
    def of_heater_current(self) -> bool:
        """See ``State``."""
        return True

    @property
    def tool(self) -> str:
        """See ``State``."""
        return "clamp"

    @property
    def place(self) -> str:
        """See ``State``."""
        return f"at {words(self.at)}"

    def short_place(self, pins: Mapping[str, Pin] | None = None) -> str:
        """See ``State``."""
        return words(self.at, pins)

    def seen_at(self, point: str) -> str:
        """See ``State``; a clamp goes round the wire, which carries the same on either side of a plug."""
        return around_wire(point)


@dataclass(frozen=True, kw_only=True)
class CurrentReading(CurrentProbe, EntryFields):
    """Amperes through a wire."""

    value: str
    """As typed."""

    def parse(self) -> Parsed:
        """See ``EntryFields``."""
        found = Parsed()
        found.live(self.value, "current", moving=False)
        return found


@dataclass(frozen=True, kw_only=True)
class CurrentSpec(CurrentProbe, PublishedRange):
    """The vehicle's own range for a current."""

    @property
    def kind(self) -> Kind:
        """Of the range's ends."""
        return "current"
