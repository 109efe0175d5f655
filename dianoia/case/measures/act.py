"""Something done to the vehicle, and what came of it."""

from dataclasses import dataclass
from typing import Annotated, Literal, get_args

from pydantic import Field

from dianoia.case.measures.bench_traits import BenchTraits
from dianoia.case.measures.figures import Parsed
from dianoia.case.measures.state import EntryFields, State
from dianoia.case.strict import STRICT
from dianoia.case.terms import Action, Outcome
from dianoia.families.tables import FamilyRow

#: What may come of an act; of any other only that it was done.
OUTCOMES: dict[Action, tuple[Outcome, ...]] = {
    "clear-codes": ("done", "returned-at-once", "returned-later", "not-returned"),
    "swap-sensors": ("code-moved", "code-stayed", "not-driven"),
    "wiggle": ("changed", "no-change"),
    "dosing-test": ("passed", "failed"),
}
#: What is said where an act is noted that nobody should do.
CAUTIONS: dict[Action, str] = {
    "battery-on-signal": "Never do this: it destroys the cell and the module's input. Note it only where somebody has done it already.",
}
#: What is only done, and looked at, where urea is dosed.
OF_DOSING: tuple[Action, ...] = ("repair-dosing", "reset-learned-values", "dosing-test")
#: Acts that mend something: they begin so in the format.
REPAIRS: tuple[Action, ...] = tuple(name for name in get_args(Action) if name.startswith(("replace-", "repair-")))

BENCH = BenchTraits("Did", "d", reads=False, touches=False, live=False)


@dataclass(frozen=True, kw_only=True)
class ActProbe(State):
    """Something done."""

    __pydantic_config__ = STRICT
    measure: Literal["act"]
    action: Action
    at: str | None = None
    """The point, for ``wiggle``."""

    @property
    def named_points(self) -> tuple[tuple[str, str], ...]:
        """See ``State``."""
        return (("at", self.at),) if self.at else ()

    @property
    def by_hand(self) -> bool:
        """See ``State``."""
        return True

    @property
    def acted(self) -> Action:
        """See ``State``."""
        return self.action

    @property
    def mends(self) -> bool:
        """See ``State``."""
        return self.action in REPAIRS

    @property
    def tool(self) -> str:
        """See ``State``."""
        return "act"

    @property
    def place(self) -> str:
        """See ``State``."""
        return self.action.replace("-", " ")


@dataclass(frozen=True, kw_only=True)
class ActReading(ActProbe, EntryFields):
    """Something that was done, and its outcome."""

    value: Outcome
    """What came of it."""
    of_fault: Annotated[str, Field(max_length=60)] | None = None
    """The fault a repair took away, None for what was found."""
    part: Annotated[str, Field(max_length=100)] | None = None
    """What was fitted."""

    @property
    def said_fault(self) -> str | None:
        """See ``EntryFields``."""
        return self.of_fault

    @property
    def said_part(self) -> str | None:
        """See ``EntryFields``."""
        return self.part

    def parse(self) -> Parsed:
        """See ``EntryFields``."""
        found, allowed = Parsed([("value", self.value)]), OUTCOMES.get(self.action, ("done",))
        if self.value not in allowed:
            found.refuse("value", f"{' or '.join(allowed)} for {self.action}", self.value)
        for name, said in (("of_fault", self.of_fault), ("part", self.part)):
            if said is not None and not self.mends:
                found.refuse(name, "nothing, except for an act that replaces or repairs", said)
        return found


def acts_of(family: FamilyRow) -> dict[Action, tuple[Outcome, ...]]:
    """What may be done on a vehicle with a sensor of this family, and come of it."""
    dosed = family.kind.unit
    return {name: OUTCOMES.get(name, ("done",)) for name in get_args(Action) if dosed or name not in OF_DOSING}


def repairs_of(family: FamilyRow) -> tuple[Action, ...]:
    """Those that mend something."""
    return tuple(name for name in REPAIRS if family.kind.unit or name not in OF_DOSING)
