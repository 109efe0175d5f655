"""What is known of a vehicle and its sensor that the circuit depends on."""

from dataclasses import dataclass

from dianoia.case.job import Job
from dianoia.case.sensor import Sensor
from dianoia.case.terms import FeedLive, FeedOrder, HeaterDrive, HeaterSwitch
from dianoia.families.tables import FamilyRow, families
from dianoia.families.types import Family

Pair = tuple[float, float]


@dataclass(frozen=True)
class KnownValues:
    """None: not known."""

    family_id: Family
    position: int = 1
    """1 in front of the catalyst, 2 and 3 behind."""
    system_v: float = 12.0
    """12 or 24, in volts."""
    feed_live: FeedLive | None = None
    feed_order: FeedOrder | None = None
    heater_switch: HeaterSwitch | None = None
    heater_drive: HeaterDrive | None = None
    bias_v: float | None = None
    """The module's bias on the signal wire, in volts."""
    heater_ohms_20c: Pair | None = None
    """Low and high in ohms at 20 °C."""
    heater_amps: Pair | None = None
    """Settled, in amperes."""

    @property
    def family(self) -> FamilyRow:
        """The sensor's family."""
        return families()[self.family_id]


def known_of(job: Job) -> KnownValues:
    """What a job says of it."""
    vehicle, sensor = job.case.vehicle, job.case.sensor or Sensor()
    return KnownValues(
        family_id=job.family.id, position=job.position or 1, system_v=job.system_v,
        feed_live=vehicle.feed_live, feed_order=vehicle.feed_order, heater_switch=sensor.heater_switch,
        heater_drive=sensor.heater_drive, bias_v=sensor.bias_v, heater_ohms_20c=sensor.heater_ohms_20c,
        heater_amps=sensor.heater_amps,
    )  # fmt: skip
