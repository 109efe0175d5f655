"""An ohmmeter."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from math import isfinite
from typing import Literal

from dianoia.case.measures.bench_traits import BenchTraits
from dianoia.case.measures.check_context import CheckContext
from dianoia.case.measures.figures import Parsed, findings_about
from dianoia.case.measures.points_between import BetweenPoints
from dianoia.case.measures.state import EntryFields, PublishedRange, State
from dianoia.case.sensor import Pin
from dianoia.case.strict import STRICT
from dianoia.case.terms import Mating
from dianoia.errors import Finding
from dianoia.quantities.parse import parse
from dianoia.quantities.types import Kind

BENCH = BenchTraits("Ω", "o", live=False, key="off", connector="unplugged")


@dataclass(frozen=True, kw_only=True)
class ResistanceProbe(BetweenPoints, State):
    """Ohmmeter."""

    __pydantic_config__ = STRICT
    measure: Literal["resistance"]
    red: str
    black: str
    leads: str | None = None
    """The leads' own resistance, to be subtracted; unknown leads are 0 to 0.5 ohm."""

    @property
    def _connector_unsaid(self) -> Mating:
        return "unplugged"

    @property
    def metered(self) -> Kind:
        """See ``State``."""
        return "resistance"

    @property
    def across_element(self) -> bool:
        """See ``State``."""
        return {self.red, self.black} == {"sensor.heater_supply", "sensor.heater_control"}

    @cached_property
    def leads_ohms(self) -> float | None:
        """The leads' own resistance in ohms; None for not known."""
        return parse(self.leads, "resistance", "leads").value if self.leads else None

    @property
    def tool(self) -> str:
        """See ``State``."""
        return "ohms"

    def short_place(self, pins: Mapping[str, Pin] | None = None) -> str:
        """See ``State``."""
        return self.place if self.across_element else super().short_place(pins)

    def own_findings(self, at: str, around: CheckContext) -> Iterator[Finding]:
        """See ``State``."""
        if not self.leads:
            return
        problems = findings_about(self.leads, "resistance", f"{at}.leads")
        yield from problems
        if not problems and not isfinite(parse(self.leads, "resistance").value):
            yield Finding(f"{at}.leads", "what the leads read when held together, such as 0.3 ohm", self.leads)


@dataclass(frozen=True, kw_only=True)
class ResistanceReading(ResistanceProbe, EntryFields):
    """Ohms between two points."""

    value: str
    """As typed; may be OL."""

    def parse(self) -> Parsed:
        """See ``EntryFields``."""
        found = Parsed()
        found.live(self.value, "resistance", moving=False)
        return found


@dataclass(frozen=True, kw_only=True)
class ResistanceSpec(ResistanceProbe, PublishedRange):
    """The vehicle's own range for a resistance."""

    @property
    def kind(self) -> Kind:
        """Of the range's ends."""
        return "resistance"
