"""What a reading is checked against: the families the sensor may be of, what is known of it, its pin table."""

from collections.abc import Mapping
from dataclasses import dataclass

from dianoia.case.sensor import Pin, Sensor
from dianoia.families.tables import FamilyRow


@dataclass(frozen=True)
class CheckContext:
    """What a reading is checked against."""

    families: tuple[FamilyRow, ...]
    """Families that the sensor may be of."""
    sensor: Sensor
    """What is known of the sensor."""
    pins: Mapping[str, Pin]
    """The sensor's pin table."""

    @property
    def terminals(self) -> tuple[str, ...]:
        """Every terminal that the sensor may have."""
        return tuple(dict.fromkeys(name for family in self.families for name in family.terminals))


def may_be_grounded(sensor: Sensor) -> bool:
    """Whether the heater's control may be grounded by hand: never a pulsed heater, and only the ground side."""
    return sensor.heater_switch != "high-side" and sensor.heater_drive != "pwm"
