"""A simulated CAN recorder: frames of the engine's module and of the NOx units, bit by bit as long as on a real bus.

Layout of the gas messages: the public J1939 parameter groups of intake and outlet gas (61454 and 61455).
"""

from collections.abc import Iterator
from dataclasses import dataclass
from random import Random

from dianoia.instruments.interface import Frame
from dianoia.instruments.vehicle import SimulatedVehicle
from dianoia.simulated.heat import STEP_S
from dianoia.simulated.sensor import Sensor

#: Bits a second on a vehicle's J1939 bus.
BITRATE = 250_000
#: Bits of a frame's check sum; and after it those that are not stuffed: delimiters, acknowledgement, end, pause.
CRC_BITS, TAIL_BITS = 15, 13
#: Polynomial of the check sum (ISO 11898-1).
CRC_POLYNOMIAL = 0x4599
#: Gas messages by position, and engine speed, faults: identifiers. Source addresses: engine 0, units 0x51 and 0x52.
GAS_IDS, SPEED_ID, FAULTS_ID = {1: 0x18F00E51, 2: 0x18F00F52}, 0x0CF00400, 0x18FECA00
#: Seconds between two messages of each.
GAS_S, SPEED_S, FAULTS_S = 0.05, 0.01, 1.0
#: Suspect parameter numbers of the units, and failure modes by what the module's code says.
SPNS = {1: 3216, 2: 3226}
FAILURE_MODES = {"U029D": 9, "U029E": 9, "P220A": 4, "P220B": 4, "P2205": 5, "P22A3": 5, "P2201": 2, "P229F": 2}
#: A controller on a broken bus tries so many times, then waits before it tries again, in seconds.
TRIES, WAITS_S, ERROR_BITS = 32, 0.5, 20
#: Errors on a bus that has lost a terminator, as a share of its frames.
REFLECTED = 0.004


@dataclass(frozen=True)
class GasMessage:
    """What a NOx unit says in one message."""

    nox_ppm: float | None
    """NOx in ppm; None for not available."""
    o2_percent: float | None
    """Oxygen in percent; None for not available."""
    power_in_range: bool
    """Whether the supply is."""
    at_temperature: bool
    """Whether the probe is."""
    nox_stable: bool
    """Whether the NOx value is."""
    o2_stable: bool
    """Whether the oxygen value is."""
    heater_failure: int = 31
    """Failure mode of the heater; 31 for none."""

    def data(self) -> bytes:
        """The eight bytes of a message."""
        nox = 0xFFFF if self.nox_ppm is None else min(max(round((self.nox_ppm + 200.0) / 0.05), 0), 0xFAFF)
        o2 = 0xFFFF if self.o2_percent is None else min(max(round((self.o2_percent + 12.0) / 0.000514), 0), 0xFAFF)
        flags = (self.power_in_range, self.at_temperature, self.nox_stable, self.o2_stable)
        status = sum(int(flag) << (2 * place) for place, flag in enumerate(flags))
        return bytes((nox & 255, nox >> 8, o2 & 255, o2 >> 8, status, 0x80 | self.heater_failure, 0xFF, 0xFF))


def frame_bits(can_id: int, data: bytes) -> int:
    """Bits that an extended frame takes on the bus, stuffed ones and the pause after it included."""
    bits = [0, *_bits(can_id >> 18, 11), 1, 1, *_bits(can_id & 0x3FFFF, 18), 0, 0, 0, *_bits(len(data), 4)]
    for byte in data:
        bits += _bits(byte, 8)
    crc = 0
    for bit in bits:
        crc = ((crc << 1) ^ CRC_POLYNOMIAL if bit != crc >> 14 else crc << 1) & 0x7FFF
    bits += _bits(crc, CRC_BITS)
    return len(bits) + _stuffed(bits) + TAIL_BITS


def _bits(value: int, count: int) -> list[int]:
    return [(value >> place) & 1 for place in range(count - 1, -1, -1)]


def _stuffed(bits: list[int]) -> int:
    """Bits put in after each five of one kind."""
    count = run = 0
    last = -1
    for bit in bits:
        run = run + 1 if bit == last else 1
        last = bit
        if run == 5:
            count, run, last = count + 1, 1, 1 - bit
    return count


class CanRecorder:
    """Records the bus at the diagnostic plug."""

    def __init__(self, vehicle: SimulatedVehicle) -> None:
        self.vehicle = vehicle
        self._random = Random(vehicle.request.seed)

    def frames(self, seconds: float) -> Iterator[Frame]:
        """Frames over so many seconds."""
        live = self.vehicle.live
        began_s, free_s, tries = live.now_s, 0.0, 0
        due = {name: self._random.uniform(0.0, every) for name, every in self._schedule().items()}
        while live.now_s - began_s < seconds - 1e-9:
            live.advance(STEP_S)
            until = live.now_s - began_s
            if live.setup.key == "off":
                continue
            if not self._bus_works():
                while free_s < until:
                    free_s = max(free_s, until - STEP_S) + (ERROR_BITS + 40) / BITRATE
                    tries += 1
                    yield Frame(round(free_s, 6), 0, b"", error=True)
                    free_s += WAITS_S if tries % TRIES == 0 else 0.0
                continue
            for at_s, can_id, data in self._queued(due, until):
                free_s = max(free_s, at_s) + frame_bits(can_id, data) / BITRATE
                yield Frame(round(free_s, 6), can_id, data)
                if len(live.terminators) < 2 and self._random.random() < REFLECTED:
                    free_s += ERROR_BITS / BITRATE
                    yield Frame(round(free_s, 6), 0, b"", error=True)

    def _schedule(self) -> dict[int, float]:
        units = {GAS_IDS[sensor.position]: GAS_S for sensor in self._units()}
        return {SPEED_ID: SPEED_S, FAULTS_ID: FAULTS_S, **units}

    def _units(self) -> tuple[Sensor, ...]:
        return tuple(sensor for sensor in self.vehicle.live.sensors if sensor.kind == "nox")

    def _queued(self, due: dict[int, float], until: float) -> list[tuple[float, int, bytes]]:
        """What wants to be sent by now; of what is due at one time the lowest identifier goes first."""
        found = []
        data = {can_id: self._data(can_id) for can_id in due}
        for can_id, every in self._schedule().items():
            while due[can_id] < until:
                message = data[can_id]
                if message is not None:
                    found.append((due[can_id], can_id, message))
                due[can_id] += every
        return sorted(found, key=lambda item: (round(item[0], 4), item[1]))

    def _bus_works(self) -> bool:
        live = self.vehicle.live
        unit = self._units()
        if not unit:
            return True
        volts = live.solved(live.stood(unit[0]), unit[0], False, 20.0)
        high, low = volts["module.can_high"], volts["module.can_low"]
        return high - low > 0.07 and 2.0 < high < 3.6 and 1.4 < low < 3.0

    def _data(self, can_id: int) -> bytes | None:
        """A message's data now; None where its sender is silent."""
        live = self.vehicle.live
        if can_id == SPEED_ID:
            rpm = self.vehicle.bench.number("engine_speed", live.sensor)
            raw = round(float(rpm or 0.0) / 0.125)
            return bytes((0xFF, 0xFF, 0xFF, raw & 255, raw >> 8, 0xFF, 0xFF, 0xFF))
        if can_id == FAULTS_ID:
            return self._faults()
        sensor = next(item for item in self._units() if GAS_IDS[item.position] == can_id)
        state = live.stood(sensor)
        heard, supply = live.unit_seen(state, sensor)
        return self._gas(sensor, live.unit_status(state, sensor, supply)) if heard else None

    def _gas(self, sensor: Sensor, status: str) -> bytes:
        live = self.vehicle.live
        state = live.stood(sensor)
        warm = status in ("not-stable", "valid")
        gas = live.nox_ppm(state, sensor) * sensor.nox_factor + sensor.nox_offset + self._random.gauss(0.0, 2.0)
        o2 = live.nox_o2(state) * sensor.o2_factor + self._random.gauss(0.0, 0.05)
        return GasMessage(
            gas if warm else None,
            o2 if warm else None,
            status != "supply-out-of-range",
            warm,
            status == "valid",
            status == "valid",
            5 if sensor.probe_cold and live.parts[sensor.address].cold_s > 60.0 else 31,
        ).data()

    def _faults(self) -> bytes:
        """The active-fault message: lamps, then parameter, failure mode and count of the first fault."""
        codes = [item.code for item in self.vehicle.live.memory.codes if item.code in FAILURE_MODES]
        if not codes:
            return bytes((0x00, 0xFF, 0, 0, 0, 0, 0xFF, 0xFF))
        spn, mode = SPNS[1 if codes[0] in ("U029D", "P220A", "P2205", "P2201") else 2], FAILURE_MODES[codes[0]]
        return bytes((0x04, 0xFF, spn & 255, (spn >> 8) & 255, (spn >> 16) << 5 | mode, 1, 0xFF, 0xFF))
