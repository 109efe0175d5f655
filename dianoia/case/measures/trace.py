"""Figures of a recorded scan signal."""

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from dianoia.case.measures.bench_traits import BenchTraits
from dianoia.case.measures.figures import Parsed
from dianoia.case.measures.scan import PIDS, SCAN_KIND, UNITS, on_tool, pids_of
from dianoia.case.measures.state import EntryFields, Seconds, State
from dianoia.case.recordings import OfRecording
from dianoia.case.strict import STRICT
from dianoia.case.terms import FigureName, Pid
from dianoia.families.tables import FamilyRow
from dianoia.quantities.types import Quantity

#: Figures that are read off a recording of a scan value; of any other none.
RECORDED: dict[Pid, tuple[FigureName, ...]] = {
    "sensor_voltage": ("min", "max", "switches_per_min", "first_activity_s", "rise_s"),
    "cell_current": ("min", "max", "delay_s", "first_activity_s"),
    "lambda": ("min", "max", "delay_s", "first_activity_s"),
    "short_trim": ("min", "max"), "nox": ("min", "max"), "o2": ("min", "max"),
}  # fmt: skip

BENCH = BenchTraits("Record", "r", touches=False, key="running", connector="mated")


@dataclass(frozen=True, kw_only=True)
class TraceProbe(State):
    """Figures of a recorded scan signal."""

    __pydantic_config__ = STRICT
    measure: Literal["trace"]
    signal: Pid

    @property
    def scanned(self) -> Pid:
        """See ``State``."""
        return self.signal

    @property
    def recorded(self) -> bool:
        """See ``State``."""
        return True

    @property
    def tool(self) -> str:
        """See ``State``."""
        return "recording"

    @property
    def place(self) -> str:
        """See ``State``."""
        return f"of the {PIDS[self.signal]}"

    @property
    def where(self) -> str:
        """See ``State``."""
        return f"of the {on_tool(self.signal)}"


@dataclass(frozen=True, kw_only=True)
class TraceFigures:
    """Figures of a recording. Times in seconds; None for "never", where it was looked for."""

    __pydantic_config__ = STRICT
    min: str | None = None
    max: str | None = None
    mean: str | None = None
    switches_per_min: Annotated[float, Field(ge=0, le=60_000)] | None = None
    first_activity_s: Seconds | None = None
    rise_s: Seconds | None = None
    fall_s: Seconds | None = None
    delay_s: Seconds | None = None


@dataclass(frozen=True, kw_only=True)
class TraceReading(OfRecording, TraceProbe, EntryFields):
    """Figures of a recording."""

    value: TraceFigures
    """The recording's figures."""

    def parse(self) -> Parsed:
        """See ``EntryFields``."""
        found, noted, kind = Parsed(), vars(self.value), SCAN_KIND.get(self.signal, "number")
        if all(figure is None for figure in noted.values()):
            found.refuse("value", f"at least one figure: {', '.join(noted)}", "none")
        for name, figure in noted.items():
            if isinstance(figure, str):
                found.quantity(name, figure, kind, f"value.{name}")
            elif figure is not None:
                found.add(name, Quantity("number" if name == "switches_per_min" else "time", figure))
        return found


@dataclass(frozen=True)
class RecordingChoice:
    """A scan value that may be recorded."""

    signal: Pid
    unit: str
    """Unit of the recording's lowest and highest."""
    figures: tuple[FigureName, ...]
    """What is read off the recording."""


def recordings_of(family: FamilyRow) -> tuple[RecordingChoice, ...]:
    """What may be recorded of a sensor of this family, the cell's own signal first."""
    return tuple(RecordingChoice(pid, UNITS.get(pid, ""), RECORDED[pid]) for pid in pids_of(family) if pid in RECORDED)
