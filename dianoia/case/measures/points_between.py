"""What instruments have in common that lie across two points."""

from collections.abc import Mapping

from dianoia.case.points import words
from dianoia.case.sensor import Pin


class BetweenPoints:
    """Mixed into a probe with a red and a black point."""

    red: str
    black: str

    @property
    def named_points(self) -> tuple[tuple[str, str], ...]:
        """See ``State``."""
        return ("red", self.red), ("black", self.black)

    @property
    def place(self) -> str:
        """See ``State``."""
        if {self.red, self.black} == {"sensor.heater_supply", "sensor.heater_control"}:
            return "across the heater element"
        return f"from {words(self.red)} to {words(self.black)}"

    def short_place(self, pins: Mapping[str, Pin] | None = None) -> str:
        """See ``State``."""
        return f"{words(self.red, pins)} → {words(self.black, pins)}"
