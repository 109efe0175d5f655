"""What may be entered in the ledger: one file a measure, and this list of them.

A Probe says what is measured and in which state; a Reading is a Probe with the value the instrument showed; a Spec is a Probe with
the vehicle's own range. None always means "not known".
"""

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import Field

from dianoia.case.measures import act, current, inspect, lamp, resistance, scan, scope, trace, voltage
from dianoia.case.measures.act import ActProbe, ActReading
from dianoia.case.measures.bench_traits import BenchTraits
from dianoia.case.measures.current import CurrentProbe, CurrentReading, CurrentSpec
from dianoia.case.measures.inspect import InspectProbe, InspectReading
from dianoia.case.measures.lamp import LampProbe, LampReading
from dianoia.case.measures.resistance import ResistanceProbe, ResistanceReading, ResistanceSpec
from dianoia.case.measures.scan import ScanProbe, ScanReading, ScanSpec
from dianoia.case.measures.scope import ScopeProbe, ScopeReading
from dianoia.case.measures.trace import TraceProbe, TraceReading
from dianoia.case.measures.voltage import VoltageProbe, VoltageReading, VoltageSpec

Probe = Annotated[
    VoltageProbe | ResistanceProbe | LampProbe | ScopeProbe | CurrentProbe | ScanProbe | TraceProbe
    | InspectProbe | ActProbe,
    Field(discriminator="measure"),
]  # fmt: skip
Reading = Annotated[
    VoltageReading | ResistanceReading | LampReading | ScopeReading | CurrentReading | ScanReading | TraceReading
    | InspectReading | ActReading,
    Field(discriminator="measure"),
]  # fmt: skip
Spec = Annotated[VoltageSpec | ResistanceSpec | CurrentSpec | ScanSpec, Field(discriminator="measure")]

Measure = Literal["voltage", "resistance", "lamp", "scope", "current", "scan", "trace", "inspect", "act"]
#: In the order of the dial.
MEASURES: Mapping[Measure, BenchTraits] = {
    "voltage": voltage.BENCH, "resistance": resistance.BENCH, "lamp": lamp.BENCH, "current": current.BENCH, "scope": scope.BENCH,
    "scan": scan.BENCH, "trace": trace.BENCH, "inspect": inspect.BENCH, "act": act.BENCH,
}  # fmt: skip
