"""Looking at something."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from dianoia.case.measures.bench_traits import BenchTraits
from dianoia.case.measures.check_context import CheckContext
from dianoia.case.measures.figures import Parsed
from dianoia.case.measures.state import EntryFields, State
from dianoia.case.strict import STRICT
from dianoia.case.terms import ExhaustPlace, InspectTarget, Seen
from dianoia.errors import Finding
from dianoia.families.tables import FamilyRow

#: What is worth telling apart when something is looked at.
LOOKS: dict[InspectTarget, tuple[Seen, ...]] = {
    "pins": ("ok", "loose", "corroded", "broken"),
    "connector": ("ok", "loose", "corroded", "wet", "melted", "broken", "unplugged"),
    "inline-connector": ("ok", "loose", "corroded", "wet", "melted", "broken", "unplugged"),
    "harness": ("ok", "chafed", "melted", "broken"),
    "fuse": ("ok", "blown", "corroded"),
    "ground": ("ok", "loose", "corroded"),
    "sensor": ("ok", "broken", "melted", "soot", "contaminated", "wrong-part"),
    "exhaust": ("ok", "leak", "soot"),
    "intake": ("ok", "leak"),
    "urea": ("ok", "poor"),
}

BENCH = BenchTraits("Look", "i", reads=False, touches=False, live=False)


@dataclass(frozen=True, kw_only=True)
class InspectProbe(State):
    """Looking."""

    __pydantic_config__ = STRICT
    measure: Literal["inspect"]
    target: InspectTarget
    at: ExhaustPlace | None = None
    """Where on the exhaust, for the target ``exhaust``."""

    @property
    def by_hand(self) -> bool:
        """See ``State``."""
        return True

    @property
    def looked(self) -> InspectTarget:
        """See ``State``."""
        return self.target

    @property
    def looked_in(self) -> ExhaustPlace | None:
        """See ``State``."""
        return self.at

    @property
    def tool(self) -> str:
        """See ``State``."""
        return "eyes"

    @property
    def place(self) -> str:
        """See ``State``."""
        if self.target == "pins":
            return "try the plug's terminals with a spare male pin"
        return f"look at the {self.target.replace('-', ' ')}"

    def own_findings(self, at: str, around: CheckContext) -> Iterator[Finding]:
        """See ``State``."""
        if self.at is not None and self.target != "exhaust":
            yield Finding(f"{at}.at", "no place, except for the target exhaust", str(self.at))


@dataclass(frozen=True, kw_only=True)
class InspectReading(InspectProbe, EntryFields):
    """Something that was looked at."""

    value: Seen
    """What was seen."""

    def parse(self) -> Parsed:
        """See ``EntryFields``."""
        return Parsed([("value", self.value)])


def looks_of(family: FamilyRow) -> dict[InspectTarget, tuple[Seen, ...]]:
    """What may be looked at on a vehicle with a sensor of this family, and seen there."""
    dosed = family.kind.unit
    return {target: values for target, values in LOOKS.items() if dosed or target != "urea"}
