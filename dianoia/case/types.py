"""The case file's types: one job, from the codes to the readings. The names are the open format's own.

None always means "not known".
"""

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import Field

from dianoia.case.measures import Reading, Spec
from dianoia.case.recordings import MOST_RECORDINGS, CaseRecording
from dianoia.case.sensor import Sensor
from dianoia.case.strict import STRICT
from dianoia.case.terms import CodeStatus, FeedLive, FeedOrder, History, Style, Symptom
from dianoia.case.workshop import Minutes, SetUp, Workshop


@dataclass(frozen=True, kw_only=True)
class Exhaust:
    """What the exhaust has."""

    __pydantic_config__ = STRICT
    merged: bool | None = None
    """Both banks flow into one pipe."""
    catalysts_in_row: Annotated[int, Field(ge=0, le=3)] | None = None
    """Catalysts one after another in a pipe."""
    scr: bool | None = None


@dataclass(frozen=True, kw_only=True)
class VehicleEngine:
    """The engine, as far as a place depends on it."""

    __pydantic_config__ = STRICT
    cylinders: Annotated[int, Field(ge=1, le=16)] | None = None
    layout: Literal["inline", "v", "flat"] | None = None
    mounting: Literal["longitudinal", "transverse"] | None = None
    bank_1: Literal["left", "right", "front", "rear"] | None = None
    """The side or end of the vehicle where cylinder 1's bank sits."""
    sensor_banks: Literal[1, 2] | None = None
    exhaust: Exhaust | None = None


@dataclass(frozen=True, kw_only=True)
class Vehicle:
    """The vehicle, as far as its circuit depends on it."""

    __pydantic_config__ = STRICT
    label: Annotated[str, Field(min_length=1, max_length=200)]
    year: Annotated[int, Field(ge=1950, le=2100)] | None = None
    fuel: Literal["petrol", "diesel", "gas"] | None = None
    system_voltage: Literal[12, 24] | None = None
    """In volts, nominal."""
    steering: Literal["left", "right"] | None = None
    feed_live: FeedLive | None = None
    feed_order: FeedOrder | None = None
    engine: VehicleEngine | None = None
    access: dict[SetUp, Minutes] | None = None
    """Minutes to reach a place on this vehicle."""


@dataclass(frozen=True, kw_only=True)
class ListedCode:
    """A code as the scan tool lists it."""

    __pydantic_config__ = STRICT
    code: Annotated[str, Field(min_length=1, max_length=60)]
    status: CodeStatus | None = None


MOST_READINGS = 500


@dataclass(frozen=True, kw_only=True)
class Cannot:
    """A proposed reading that cannot be taken."""

    __pydantic_config__ = STRICT
    reading: Annotated[str, Field(max_length=60)]
    """Its id (``next.id``)."""
    reason: Annotated[str, Field(min_length=1, max_length=200)]
    """Why."""


@dataclass(frozen=True, kw_only=True)
class Closing:
    """The job was closed."""

    __pydantic_config__ = STRICT
    by: Annotated[str, Field(max_length=80)] = ""
    """Who."""
    at: Annotated[str, Field(max_length=40)] = ""
    """When, ISO 8601."""
    reason: Annotated[str, Field(max_length=500)] = ""
    """Why it was closed though the repair is not proven."""
    readings: Annotated[int, Field(ge=0, le=MOST_READINGS)]
    """How many the ledger had then. A later reading opens the job again."""


@dataclass(frozen=True, kw_only=True)
class Case:
    """One job."""

    __pydantic_config__ = STRICT
    format: Literal["dianoia-case/1"]
    vehicle: Vehicle
    title: Annotated[str, Field(max_length=200)] = ""
    style: Style = "live-first"
    sensor: Sensor | None = None
    specs: Annotated[tuple[Spec, ...], Field(max_length=100)] = ()
    codes: Annotated[tuple[ListedCode, ...], Field(max_length=100)] = ()
    complaint: Annotated[str, Field(max_length=2000)] = ""
    """The driver's own words."""
    symptoms: Annotated[tuple[Symptom, ...], Field(max_length=20)] = ()
    history: Annotated[tuple[History, ...], Field(max_length=20)] = ()
    readings: Annotated[tuple[Reading, ...], Field(max_length=MOST_READINGS)] = ()
    recordings: Annotated[tuple[CaseRecording, ...], Field(max_length=MOST_RECORDINGS)] = ()
    """What was recorded, with figures; the samples are in files of their own."""
    cannot: Annotated[tuple[Cannot, ...], Field(max_length=100)] = ()
    workshop: Workshop | None = None
    closed: Closing | None = None
    simulated: Annotated[int, Field(ge=0, lt=2**32)] | None = None
    """Seed of the simulated vehicle that the job is connected to. Such a job counts in no statistics. None for a real vehicle."""

    @property
    def of_simulated(self) -> bool:
        """Whether anything of it comes from a simulated vehicle."""
        noted = (*self.readings, *self.recordings)
        return self.simulated is not None or any(item.instrument is not None for item in noted)


Plain = dict[str, Any]
