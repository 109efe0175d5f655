"""A simulated scan tool that records: it asks for one value after the other, so that each is refreshed in its turn."""

from collections.abc import Iterator, Sequence

from dianoia.errors import refuse
from dianoia.instruments.interface import Channel, Row
from dianoia.instruments.vehicle import SimulatedVehicle
from dianoia.simulated.heat import STEP_S
from dianoia.simulated.sensor import Sensor

#: Requests that a module answers in a second, one value each.
REQUESTS_HZ = 20.0
UNITS = {
    "sensor_voltage": "V", "cell_current": "mA", "lambda": "", "short_trim": "%", "long_trim": "%", "heater_current": "A",
    "heater_command": "%", "battery_voltage": "V", "engine_speed": "rpm", "coolant": "C", "loop": "", "nox": "ppm", "o2": "%",
    "nox_status": "", "can_messages": "",
}  # fmt: skip
#: Digits after the point.
DIGITS = {"V": 3, "mA": 3, "": 3, "%": 1, "A": 2, "rpm": 0, "C": 0, "ppm": 0}
#: Values that belong to the whole engine.
OF_ENGINE = ("battery_voltage", "engine_speed", "coolant")


def channel(signal: str, of: str | None) -> Channel:
    """A scan tool's channel. Raises RefusedInput for an unknown value."""
    if signal not in UNITS:
        raise refuse("signal", "one of " + ", ".join(UNITS), signal)
    unit, name = UNITS[signal], signal.replace("_", " ")
    told = f"{of} {name}" if of else name
    return Channel(f"{told} [{unit}]" if unit else told, signal, of, unit)


def usual_channels(vehicle: SimulatedVehicle) -> tuple[Channel, ...]:
    """What a technician would record of this vehicle: each sensor's signal, the heater in question, trims and the engine."""
    found = [channel(name, None) for name in OF_ENGINE]
    for sensor in vehicle.live.sensors:
        found += [channel(name, sensor.address) for name in _signals(sensor)]
    own = vehicle.sensor
    if own.kind != "nox":
        found += [
            channel(name, own.address) for name in ("heater_current", "heater_command") if own.element is not None
        ]
        found += [channel(name, own.address) for name in ("short_trim", "long_trim", "loop")]
    return tuple(found)


def _signals(sensor: Sensor) -> tuple[str, ...]:
    return {"nox": ("nox", "o2", "nox_status"), "switching": ("sensor_voltage",), "titania": ("sensor_voltage",)}.get(
        sensor.kind, ("lambda", "cell_current")
    )


class ScanRecorder:
    """Records live values. Each row is an answer: one value is new, the others stand as they were."""

    def __init__(
        self, vehicle: SimulatedVehicle, channels: Sequence[Channel] = (), rows_hz: float | None = None
    ) -> None:
        self.vehicle = vehicle
        self.channels = tuple(channels) or usual_channels(vehicle)
        # a row at each answer, or, as many tools store it, at a rate of the tool's own
        self.rate_hz = rows_hz or REQUESTS_HZ / len(self.channels)
        self._values: list[float | str | None] = [None] * len(self.channels)
        self._next = 0
        self._due_s = 0.0

    def samples(self, seconds: float) -> Iterator[Row]:
        """Rows over so many seconds."""
        live = self.vehicle.live
        began_s, row_s = live.now_s, 0.0
        while live.now_s - began_s < seconds - 1e-9:
            live.advance(STEP_S)
            at_s = live.now_s - began_s
            self._ask(at_s)
            while row_s <= at_s:
                yield Row(round(row_s, 3), tuple(self._values))
                row_s += 1.0 / self.rate_hz
        self._due_s -= seconds

    def _ask(self, at_s: float) -> None:
        """Every request that is due by now."""
        awake = self.vehicle.live.setup.key != "off"
        while self._due_s <= at_s:
            asked = self.channels[self._next]
            self._values[self._next] = self._answer(asked) if awake else None
            self._next = (self._next + 1) % len(self.channels)
            self._due_s += 1.0 / REQUESTS_HZ

    def _answer(self, asked: Channel) -> float | str | None:
        value = self.vehicle.bench.number(asked.signal, self.vehicle.live.loop(asked.of))
        return round(value, DIGITS[asked.unit]) if isinstance(value, float) else value
