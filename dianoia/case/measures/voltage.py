"""A multimeter on DC volts, or a voltage under a lamp."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from dianoia.case.measures.bench_traits import BenchTraits
from dianoia.case.measures.check_context import CheckContext
from dianoia.case.measures.figures import Parsed
from dianoia.case.measures.points_between import BetweenPoints
from dianoia.case.measures.state import EntryFields, PublishedRange, State, Watts
from dianoia.case.strict import STRICT
from dianoia.case.terms import Moves
from dianoia.errors import Finding
from dianoia.families.types import SIGNAL_TERMINALS
from dianoia.quantities.types import Kind

BENCH = BenchTraits("V", "v")


@dataclass(frozen=True, kw_only=True)
class VoltageProbe(BetweenPoints, State):
    """Multimeter, DC average, red against black."""

    __pydantic_config__ = STRICT
    measure: Literal["voltage"]
    red: str
    black: str
    load: Literal["lamp"] | None = None
    watts: Watts | None = None
    """Of the lamp that loads it, at system voltage; None for 5 W."""

    @property
    def at_work(self) -> bool:
        """See ``State``."""
        return True

    @property
    def metered(self) -> Kind:
        """See ``State``."""
        return "voltage"

    @property
    def loaded(self) -> bool:
        """See ``State``."""
        return self.load is not None

    @property
    def load_watts(self) -> float:
        """See ``State``."""
        return self.watts or 0.0

    @property
    def across_battery(self) -> bool:
        """See ``State``."""
        return not self.load and {self.red, self.black} == {"battery.positive", "battery.negative"}

    @property
    def may_move(self) -> bool:
        """See ``State``."""
        return bool(self.terminals & SIGNAL_TERMINALS)

    @property
    def tool(self) -> str:
        """See ``State``."""
        if self.load is None:
            return "volts"
        return f"volts under a {f'{self.watts:g} W ' if self.watts else ''}lamp"

    def own_findings(self, at: str, around: CheckContext) -> Iterator[Finding]:
        """See ``State``."""
        if self.watts is not None and self.load is None:
            yield Finding(f"{at}.watts", "no watts, except of a lamp that loads it", str(self.watts))


@dataclass(frozen=True, kw_only=True)
class VoltageReading(VoltageProbe, EntryFields):
    """Volts between two points."""

    value: str
    """As typed; may be a span on a signal wire."""
    moves: Moves | None = None
    """What it did while it was watched."""

    @property
    def said_moves(self) -> Moves | None:
        """See ``EntryFields``."""
        return self.moves

    def parse(self) -> Parsed:
        """See ``EntryFields``."""
        found = Parsed()
        found.live(self.value, "voltage", self.may_move)
        return found


@dataclass(frozen=True, kw_only=True)
class VoltageSpec(VoltageProbe, PublishedRange):
    """The vehicle's own range for a voltage."""

    @property
    def kind(self) -> Kind:
        """Of the range's ends."""
        return "voltage"
