"""A simulated scope: two channels with bandwidth, noise, steps of its converter and a trigger. A channel may be a current clamp."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import exp, pi

import numpy as np

from dianoia.errors import refuse
from dianoia.instruments.interface import Channel, Row
from dianoia.instruments.vehicle import SimulatedVehicle
from dianoia.simulated.heat import STEP_S
from dianoia.simulated.instruments import METER_OHMS
from dianoia.simulated.sensor import Sensor

#: Steps of an 8-bit converter over the channel's range, and noise in such steps.
STEPS, NOISE_STEPS = 256, 0.5
#: Ranges in volts or amperes, from the finest.
RANGES = (1.0, 2.0, 5.0, 20.0, 50.0)
#: Samples that one capture may have.
MOST_SAMPLES = 2_000_000
#: A clamp passes up to so many hertz, less than the scope.
CLAMP_HZ = 5e3


@dataclass(frozen=True)
class Trigger:
    """When a capture begins."""

    channel: int
    """0 or 1."""
    level: float
    """In the channel's unit."""
    rising: bool = True
    """Whether it is crossed upwards."""
    before_s: float = 0.0
    """Seconds kept from before it."""


@dataclass(frozen=True)
class Lead:
    """Where a channel is laid."""

    red: str
    """Point of the circuit; ``clamp`` for a clamp around the heater's feed."""
    black: str = "battery.negative"
    """The other point; of no meaning for a clamp."""

    @property
    def clamped(self) -> bool:
        """Whether it is a clamp."""
        return self.red == "clamp"


class Scope:
    """Two channels at one sensor."""

    def __init__(
        self,
        vehicle: SimulatedVehicle,
        leads: Sequence[Lead],
        rate_hz: float = 2000.0,
        bandwidth_hz: float = 2e4,
        trigger: Trigger | None = None,
    ) -> None:
        if not 1 <= len(leads) <= 2:
            raise refuse("leads", "one or two channels", f"{len(leads)}")
        if not 1.0 <= rate_hz <= 1e6:
            raise refuse("rate_hz", "1 to 1,000,000", f"{rate_hz:g}")
        self.vehicle, self.leads, self.rate_hz = vehicle, tuple(leads), rate_hz
        self.bandwidth_hz, self.trigger = bandwidth_hz, trigger
        own = vehicle.live.worked_on
        self.channels = tuple(
            Channel(f"{own} heater current [A]", "heater_current", own, "A")
            if lead.clamped
            else Channel(f"{lead.red} to {lead.black} [V]", lead.red, own, "V")
            for lead in self.leads
        )
        self._random = np.random.default_rng(vehicle.request.seed)

    def capture(self, seconds: float) -> tuple[np.ndarray, np.ndarray]:
        """Times in seconds, shape (n,), and values, shape (channels, n). Raises RefusedInput where a point does not exist."""
        count = round(seconds * self.rate_hz)
        if not 1 <= count <= MOST_SAMPLES:
            raise refuse("seconds", f"1 to {MOST_SAMPLES} samples at this rate", f"{count}")
        times = np.arange(count) / self.rate_hz
        values = np.empty((len(self.leads), count))
        done = 0
        live = self.vehicle.live
        while done < count:
            live.advance(STEP_S)
            until = min(round((times[done] + STEP_S) * self.rate_hz), count)
            until = max(until, done + 1)
            values[:, done:until] = self._moment(times[done:until])
            done = until
        for place, lead in enumerate(self.leads):
            values[place] = self._through(values[place], CLAMP_HZ if lead.clamped else self.bandwidth_hz)
        return self._triggered(times, values)

    def samples(self, seconds: float) -> Iterator[Row]:
        """The same row by row."""
        times, values = self.capture(seconds)
        for at_s, row in zip(times.tolist(), values.T.tolist(), strict=True):
            yield Row(at_s, row)

    def _moment(self, times: np.ndarray) -> np.ndarray:
        """All channels over one step of the car, in which the driver switches on and off."""
        live, sensor = self.vehicle.live, self.vehicle.live.loop(self.vehicle.live.worked_on)
        share = live.share_on(live.stood(sensor), sensor)
        period = times * sensor.pwm_hz
        driven = (period - np.floor(period) < share) if sensor.drive == "pwm" else np.full(len(times), share > 0.5)
        on, off = (self._levels(sensor, each) for each in (True, False))
        return np.where(driven, on[:, None], off[:, None])

    def _levels(self, sensor: Sensor, driven: bool) -> np.ndarray:
        live = self.vehicle.live
        state, gas = live.stood(sensor), self.vehicle.bench._gas_now(sensor) if sensor.kind != "nox" else None
        element_c, cell_c = live.temperatures(state, sensor)
        net = live.network(state, sensor, driven, element_c, gas, cell_c)
        for lead in self.leads:
            if not lead.clamped:
                for name, point in (("red", lead.red), ("black", lead.black)):
                    if not net.has(point):
                        raise refuse(name, "a point of this vehicle's circuit", point)
                net.resistor(lead.red, lead.black, METER_OHMS)
        volts = net.solve()
        ohms = sensor.element.ohms(element_c) if sensor.element else np.inf
        clamp = 0.0
        if any(lead.clamped for lead in self.leads) and "sensor.heater_supply" in volts:
            clamp = (
                abs(volts["sensor.heater_supply"] - volts["sensor.heater_control"]) / ohms
                + self.vehicle.bench.clamp_off_a
            )
        return np.array([clamp if lead.clamped else volts[lead.red] - volts[lead.black] for lead in self.leads])

    def _through(self, values: np.ndarray, bandwidth_hz: float) -> np.ndarray:
        """Bandwidth (first order), noise, and the steps of the converter."""
        keeps = exp(-2.0 * pi * bandwidth_hz / self.rate_hz)
        if keeps > 1e-3:
            length = int(np.ceil(np.log(1e-4) / np.log(keeps)))
            kernel = (1.0 - keeps) * keeps ** np.arange(length)
            padded = np.concatenate([np.full(length - 1, values[0]), values])
            values = np.convolve(padded, kernel / kernel.sum(), mode="valid")
        most = max(float(np.abs(values).max()), 1e-9)
        step = 2.0 * next((size for size in RANGES if size >= most), RANGES[-1]) / STEPS
        noisy = values + self._random.normal(0.0, NOISE_STEPS * step, len(values))
        return np.round(noisy / step) * step

    def _triggered(self, times: np.ndarray, values: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Zero at the trigger. Without a crossing, everything that was seen, as a scope does that is set to run anyway."""
        if self.trigger is None:
            return times, values
        over = values[self.trigger.channel] > self.trigger.level
        crossed = np.flatnonzero((over[1:] & ~over[:-1]) if self.trigger.rising else (~over[1:] & over[:-1])) + 1
        first = int(self.trigger.before_s * self.rate_hz)
        crossed = crossed[crossed >= first]
        if len(crossed) == 0:
            return times, values
        at = int(crossed[0])
        return times[at - first :] - times[at], values[:, at - first :]
