"""A test lamp."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from dianoia.case.measures.bench_traits import BenchTraits
from dianoia.case.measures.check_context import CheckContext
from dianoia.case.measures.figures import Parsed
from dianoia.case.measures.points_between import BetweenPoints
from dianoia.case.measures.state import EntryFields, State, Watts
from dianoia.case.sensor import Pin
from dianoia.case.strict import STRICT
from dianoia.case.terms import LampLight
from dianoia.errors import Finding

BENCH = BenchTraits("Lamp", "l", key="running", connector="unplugged")


@dataclass(frozen=True, kw_only=True)
class LampProbe(BetweenPoints, State):
    """Test lamp between two points, which may be left out (empty) where it stands in place of the heater.

    watts at system voltage.
    """

    __pydantic_config__ = STRICT
    measure: Literal["lamp"]
    red: str = ""
    black: str = ""
    watts: Watts = 5.0
    kind: Literal["bulb", "led"] | None = None
    in_place_of: Literal["heater"] | None = None

    @property
    def named_points(self) -> tuple[tuple[str, str], ...]:
        """See ``State``."""
        left_out = self.in_place_of is not None and not (self.red or self.black)
        return () if left_out else (("red", self.red), ("black", self.black))

    @property
    def at_work(self) -> bool:
        """See ``State``."""
        return True

    @property
    def is_lamp(self) -> bool:
        """See ``State``."""
        return True

    @property
    def led(self) -> bool:
        """See ``State``."""
        return self.kind == "led"

    @property
    def load_watts(self) -> float:
        """See ``State``."""
        return self.watts

    @property
    def replaces_heater(self) -> bool:
        """See ``State``."""
        return self.in_place_of is not None

    @property
    def tool(self) -> str:
        """See ``State``."""
        return f"{self.watts:g} W {'LED' if self.led else 'test'} lamp"

    def short_place(self, pins: Mapping[str, Pin] | None = None) -> str:
        """See ``State``."""
        return super().short_place(pins) if self.points else "in place of the heater"

    def own_findings(self, at: str, around: CheckContext) -> Iterator[Finding]:
        """See ``State``."""
        if self.in_place_of is None:
            return
        if not {"heater_supply", "supply"} & set(around.terminals):
            yield Finding(f"{at}.in_place_of", "a sensor with a heater for a lamp in its place", str(self.in_place_of))
        if self.connector == "mated":
            yield Finding(f"{at}.connector", "unplugged, for a lamp in place of the heater", "mated")


@dataclass(frozen=True, kw_only=True)
class LampReading(LampProbe, EntryFields):
    """A test lamp between two points."""

    value: LampLight
    """What the lamp did."""

    def parse(self) -> Parsed:
        """See ``EntryFields``."""
        return Parsed([("value", self.value)])
