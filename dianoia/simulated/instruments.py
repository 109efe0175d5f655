"""What the instruments show: a meter that averages and rounds, a lamp, a scope, a clamp, a scan tool that refreshes.

``Bench.read`` takes a probe as a case file writes it (without its value) and returns the value as a person would type it, or
None where there is nothing to read.
"""

from dataclasses import dataclass, replace
from math import inf
from random import Random
from typing import Any

import numpy as np

from dianoia.simulated.car import Car
from dianoia.simulated.engine import STEP_S, Run
from dianoia.simulated.net import Net
from dianoia.simulated.parts import lamp_ohms
from dianoia.simulated.sensor import Sensor, new_sensor
from dianoia.simulated.state import State
from dianoia.simulated.wiring import GROUND

#: A hand multimeter: input, averaging time, error of volts and ohms (0.5 % and 0.8 % of 6,000-count meters), and where it
#: says OL.
METER_OHMS, AVERAGES_S, VOLTS_OFF, OHMS_OFF, OL_FROM = 1e7, 0.3, 0.004, 0.008, 4.2e7
#: An ohmmeter: open volts and the resistance behind them by range (diode-test and ohm ranges of hand meters).
OHMMETER = ((600.0, 1.0, 1.5e3), (6e3, 1.0, 1.5e4), (6e5, 0.7, 3e5), (inf, 0.7, 4e6))
#: A lamp's power as a share of its rated: from where it is seen to glow, and called bright.
GLOWS, BRIGHT = 0.035, 0.5
#: Below so many hertz flashing is seen.
SEEN_HZ = 14.0
#: Share of the time that an intermittent fault does not show.
AWAY = 0.5
#: A scan tool's refresh in hertz.
REFRESH_HZ = (1.0, 8.0)


@dataclass
class Bench:
    """The instruments at one car."""

    car: Car
    random: Random
    refresh_hz: float
    leads_ohms: float
    volts_off: float
    ohms_off: float
    scan_off: float
    other: Car | None = None
    """The car while an intermittent fault does not show; None where none comes and goes."""

    # ---- states

    def state(self, probe: dict[str, Any]) -> State:
        """How everything stands while a probe is read."""
        conditions = probe.get("with", ())
        listed = frozenset([conditions] if isinstance(conditions, str) else conditions)
        resistance = probe["measure"] == "resistance"
        return State(
            key=probe.get("key", "off" if resistance else "running"),
            connector=probe.get("connector", "unplugged" if resistance else "mated"),
            module=probe.get("module_connector", "mated"), battery=probe.get("battery", "connected"),
            cleared=bool(probe.get("codes_cleared")), at_s=probe.get("at_s"), rpm=probe.get("rpm"), conditions=listed,
            fed_v=probe.get("fed_v"), jumper=tuple(probe["jumper"]) if "jumper" in probe else None,
            cold=isinstance(probe.get("sensor_c"), int | float) and probe["sensor_c"] < 45,
        )  # fmt: skip

    def sensor(self, of: str | None) -> Sensor:
        """The sensor that is measured: this one, another of the vehicle, or a good one in its place."""
        own = self.car.sensor
        if of not in ("known-good", "new"):
            return self.car.loop(of)
        good = new_sensor(Random(self.random.random()), own.address, own.family, self.car.system_v)
        return replace(
            own,
            element=good.element,
            cell=good.cell,
            unit_dead=False,
            nox_factor=1.0,
            nox_offset=0.0,
            o2_factor=1.0,
            probe_cold=False,
        )

    def read(self, probe: dict[str, Any], span: bool = False) -> Any:
        """The value as typed. span: what moves is watched for ten seconds and noted from lowest to highest."""
        if self.other is not None and self.random.random() < AWAY:
            return replace(self, car=self.other, other=None).read(probe, span)
        state, sensor = self.state(probe), self.sensor(probe.get("of"))
        if probe["measure"] == "scan":
            return self._scan(probe["pid"], state, sensor, span)
        return getattr(self, "_" + str(probe["measure"]))(probe, state, sensor, span)

    # ---- the circuit's two moments

    def _moments(self, state: State, sensor: Sensor) -> list[tuple[bool, float]]:
        share = self.car.share_on(state, sensor)
        both = [(True, share), (False, 1.0 - share)]
        return [(driven, part) for driven, part in both if part > 1e-6]

    def _net(self, state: State, sensor: Sensor, driven: bool, gas: float | None = None) -> Net:
        element_c, cell_c = self.car.temperatures(state, sensor)
        return self.car.network(state, sensor, driven, element_c, gas, cell_c)

    # ---- meter

    def _voltage(self, probe: dict[str, Any], state: State, sensor: Sensor, span: bool) -> Any:
        live = self._live_volts(probe, state, sensor)
        if live is not None:
            return self._noted_live(live, "V", 2, span)
        total = 0.0
        for driven, share in self._moments(state, sensor):
            net = self._net(state, sensor, driven)
            if not (net.has(probe["red"]) and net.has(probe["black"])):
                return None
            self._across(net, probe)
            volts = net.solve()
            total += share * (volts[probe["red"]] - volts[probe["black"]])
        return _volts(total * self.volts_off)

    def _across(self, net: Net, probe: dict[str, Any]) -> None:
        red, black = probe["red"], probe["black"]
        net.resistor(red, black, METER_OHMS)
        if probe.get("load") == "lamp":
            watts, rated = probe.get("watts", 5.0), 1.125 * self.car.system_v
            net.curved(red, black, lambda volts: lamp_ohms(volts, watts, rated))

    def _live_volts(self, probe: dict[str, Any], state: State, sensor: Sensor) -> np.ndarray | None:
        """Volts over ten seconds where the engine makes them move; None elsewhere."""
        points = (probe["red"], probe["black"])
        moving = any(
            point.rpartition(".")[2] in ("signal", "cell_positive", "cell_negative", "nernst", "pump")
            for point in points
        )
        if (
            state.key != "running"
            or not moving
            or sensor.kind == "nox"
            or (state.connector != "mated" and "sensor." not in "".join(points))
        ):
            return None
        if not all(self._net(state, sensor, False).has(point) for point in points):
            return None
        gas = self._gas(self.car.running(state, sensor), sensor)
        volts = np.interp(gas, *self._curve(state, sensor, lambda solved: solved[points[0]] - solved[points[1]], probe))
        width = int(AVERAGES_S / STEP_S)
        return np.convolve(volts, np.ones(width) / width, mode="valid") * self.volts_off

    def _gas(self, run: Run, sensor: Sensor) -> np.ndarray:
        """Lambda at the sensor as its cell follows it."""
        lam = run.front if sensor.position == 1 else run.rear
        tau = 0.5 * (sensor.cell.rise_s + sensor.cell.fall_s)
        share, held, found = min(STEP_S / tau, 1.0), float(lam[0]), np.empty_like(lam)
        for place, value in enumerate(lam):
            held += (min(value, 3.0) - held) * share
            found[place] = held
        return found

    def _curve(
        self, state: State, sensor: Sensor, of: Any, probe: dict[str, Any] | None = None
    ) -> tuple[list[float], list[float]]:
        """What is shown over the gas, solved at some places."""
        element_c, cell_c = self.car.temperatures(state, sensor)
        gases = [0.7, 0.9, 0.97, 0.99, 0.995, 0.998, 0.999, 1.0, 1.001, 1.002, 1.005, 1.01, 1.03, 1.1, 1.5, 3.0]
        shown = []
        for gas in gases:
            net = self.car.network(state, sensor, False, element_c, gas, cell_c)
            if probe:
                self._across(net, probe)
            shown.append(of(net.solve()))
        return gases, shown

    def _noted_live(self, values: np.ndarray, unit: str, digits: int, span: bool, scale: float = 1.0) -> Any:
        values = values * scale
        if not span:
            return _text(self._look(values), digits, unit)
        low, high = float(values.min()), float(values.max())
        if abs(high - low) < 1.5 * 10**-digits:
            return _text((low + high) / 2, digits, unit)
        return f"{low:.{digits}f}..{high:.{digits}f} {unit}".rstrip()

    def _look(self, values: np.ndarray) -> float:
        """One look at what moves: any moment of it."""
        return float(self.random.choice(list(values)))

    def element_c(self, probe: dict[str, Any], sensor: Sensor) -> float:
        """How warm the element is that an ohmmeter is laid to, in °C, as the person says it."""
        celsius = probe.get("sensor_c")
        return 20.0 if celsius is None else 550.0 if celsius == "hot" else float(celsius)

    def _resistance(self, probe: dict[str, Any], state: State, sensor: Sensor, span: bool) -> Any:
        red, black = probe["red"], probe["black"]
        warm = self.element_c(probe, sensor)
        for most, volts, behind in OHMMETER:
            net = self.car.network(state, sensor, False, warm, 0.9 if "rich" in state.conditions else 1.05)
            if not (net.has(red) and net.has(black)):
                return None
            net.source(black, red, volts, behind)
            across = (lambda solved: solved[red] - solved[black])(net.solve())
            amps = (volts - across) / behind
            ohms = across / amps if amps > 1e-12 else inf
            if ohms <= most:
                break
        ohms = ohms * self.ohms_off + self.leads_ohms
        return "OL" if ohms > OL_FROM or ohms < -1.0 else _ohms(max(ohms, 0.0))

    def _current(self, probe: dict[str, Any], state: State, sensor: Sensor, span: bool) -> Any:
        return _text(self._heater_amps(state, sensor) * self.volts_off, 2, "A")

    def _heater_amps(self, state: State, sensor: Sensor) -> float:
        total, (celsius, _) = 0.0, self.car.temperatures(state, sensor)
        for driven, share in self._moments(state, sensor):
            volts = self.car.solved(state, sensor, driven, celsius)
            if sensor.kind == "nox":
                total += (
                    share * abs(volts["sensor.supply"] - volts["sensor.ground"]) / self.car.unit_ohms(state, sensor)
                    if state.connector == "mated"
                    else 0.0
                )
            elif sensor.element is not None:
                total += (
                    share
                    * abs(volts["sensor.heater_supply"] - volts["sensor.heater_control"])
                    / sensor.element.ohms(celsius)
                )
        return total

    # ---- lamp and scope

    def _lamp(self, probe: dict[str, Any], state: State, sensor: Sensor, span: bool) -> Any:
        watts, rated = probe.get("watts", 5.0), 1.125 * self.car.system_v
        if probe.get("in_place_of"):
            state = replace(state, connector="unplugged")
        lit = []
        for driven, share in self._moments(state, sensor):
            net = self._net(state, sensor, driven)
            if not (net.has(probe["red"]) and net.has(probe["black"])):
                return None
            net.curved(probe["red"], probe["black"], lambda volts: lamp_ohms(volts, watts, rated))
            solved = net.solve()
            volts = abs(solved[probe["red"]] - solved[probe["black"]])
            lit.append((share, volts**2 / lamp_ohms(volts, watts, rated) / watts))
        mean = sum(share * power for share, power in lit)
        swing = max(power for _, power in lit) - min(power for _, power in lit)
        if swing > 0.3 and min(share for share, _ in lit) > 0.04 and sensor.drive == "pwm" and sensor.pwm_hz < SEEN_HZ:
            return "flashing"
        return "off" if mean < GLOWS else "dim" if mean < BRIGHT else "bright"

    def _scope(self, probe: dict[str, Any], state: State, sensor: Sensor, span: bool) -> Any:
        seen = []
        for driven, share in self._moments(state, sensor):
            net = self._net(state, sensor, driven)
            if not (net.has(probe["red"]) and net.has(probe["black"])):
                return None
            net.resistor(probe["red"], probe["black"], 1e7)
            solved = net.solve()
            seen.append((solved[probe["red"]] - solved[probe["black"]], share))
        high, low = max(volts for volts, _ in seen), min(volts for volts, _ in seen)
        found = {"high": _text(high, 1, "V"), "low": _text(low, 1, "V")}
        if high - low > 0.25 * self.car.system_v and sensor.drive == "pwm":
            middle = (high + low) / 2
            found["duty_low"] = f"{100 * sum(share for volts, share in seen if volts < middle):.0f} %"
            found["frequency"] = f"{three_digits(sensor.pwm_hz)} Hz"
        return found

    # ---- scan tool

    def _scan(self, pid: str, state: State, sensor: Sensor, span: bool) -> Any:
        if pid in ("nox", "o2", "nox_status", "can_messages"):
            return self._nox(pid, state, sensor)
        if pid == "battery_voltage":
            volts = self.car.solved(state, sensor, False, 300.0)
            return _text(volts["module.power_feed"] - volts["module.power_ground"], 1, "V")
        if pid == "heater_current":
            return _text(self._heater_amps(state, sensor), 2, "A")
        if pid == "heater_command":
            duty = self.car.duty(state, sensor)
            return f"{100 * duty:.0f} %" if sensor.drive == "pwm" else "on" if duty > 0 else "off"
        if pid == "heater_resistance":
            amps, duty = self._heater_amps(state, sensor), self.car.share_on(state, sensor)
            return None if amps < 0.02 or duty < 0.02 else _text(self.car.battery_v(state.key) * duty / amps, 1, "ohm")
        if pid == "heater_monitor":
            return "complete" if self.car.plausible(sensor) else "incomplete"
        return self._moving(pid, state, sensor, span)

    def _moving(self, pid: str, state: State, sensor: Sensor, span: bool) -> Any:
        if pid == "loop":
            closed = state.key == "running" and self.car.running(state, sensor, 0.5).closed
            return "closed" if closed else "open"
        if state.key != "running":
            still = self._net(state, sensor, False).solve()
            return _text(self._input(still, sensor) * self.scan_off, 2, "V") if pid == "sensor_voltage" else None
        run = self.car.running(state, sensor)
        if pid in ("short_trim", "long_trim"):
            values = run.short if pid == "short_trim" else np.full_like(run.short, run.long)
            return self._noted_live(self._refreshed(values), "%", 0, span, 100.0)
        gas = self._gas(run, sensor)
        if pid == "sensor_voltage":
            curve = self._curve(state, sensor, lambda solved: self._input(solved, sensor))
            values = np.interp(gas, *curve) * self.scan_off
            return self._noted_live(self._refreshed(values), "V", 2, span)
        amps = self._cell_amps(state, sensor, gas)
        if pid == "cell_current":
            return self._noted_live(self._refreshed(amps), "mA", 2, span, 1e3)
        lam = np.clip(1.0 + amps / sensor.cell.slope_a / np.where(amps < 0, 1.5, 1.0), 0.7, 1.99)
        return self._noted_live(self._refreshed(lam), "", 2, span)

    def _input(self, solved: dict[str, float], sensor: Sensor) -> float:
        return 0.45 if sensor.input_dead else self.car.input_v(solved, sensor)

    def _cell_amps(self, state: State, sensor: Sensor, gas: np.ndarray) -> np.ndarray:
        """What the module measures of a current cell's or a pump's current."""
        if (
            not self.car.connected(state, sensor)
            or not self.car.cell_hot(state, sensor)
            or sensor.cell.dead
            or sensor.bias_gone
        ):
            return np.zeros_like(gas)
        shifted = gas + sensor.cell.off - 1.0
        return np.clip(sensor.cell.slope_a * shifted * np.where(shifted > 0, 1.0, 1.5), -4e-3, 4e-3)

    def _refreshed(self, values: np.ndarray) -> np.ndarray:
        """As the screen shows it: every so often a value, held."""
        return values[:: max(int(1.0 / self.refresh_hz / STEP_S), 1)]

    def _nox(self, pid: str, state: State, sensor: Sensor) -> Any:
        heard, share = self.car.unit_seen(state, sensor)
        if pid == "can_messages":
            return "present" if heard else "absent"
        status = self.car.unit_status(state, sensor, share) if heard else None
        if pid == "nox_status":
            return status
        if status in (None, "supply-out-of-range", "not-at-temperature"):
            return "n/a"
        if pid == "o2":
            return _text(self.car.nox_o2(state) * sensor.o2_factor, 1, "%")
        fresh = bool(state.conditions & {"fresh-air", "fuel-cut"})
        gas = self.random.uniform(0.0, 4.0) if fresh else self.car.nox_ppm(state, sensor)
        return _text(max(gas * sensor.nox_factor + sensor.nox_offset, 0.0), 0, "ppm")

    # ---- recordings

    def _trace(self, probe: dict[str, Any], state: State, sensor: Sensor, span: bool) -> Any:
        if state.key != "running" or probe["signal"] not in ("sensor_voltage", "cell_current"):
            return None
        run = self.car.running(state, sensor)
        gas = self._gas(run, sensor)
        if probe["signal"] == "cell_current":
            amps = self._refreshed(self._cell_amps(state, sensor, gas)) * 1e3
            return {"min": f"{amps.min():.2f} mA", "max": f"{amps.max():.2f} mA"}
        curve = self._curve(state, sensor, lambda solved: self._input(solved, sensor))
        values = np.interp(gas, *curve) * self.scan_off
        shown = self._refreshed(values)
        over = shown > 0.45
        switches = int((over[1:] != over[:-1]).sum()) * 6
        return {"min": f"{shown.min():.2f} V", "max": f"{shown.max():.2f} V", "switches_per_min": switches}


def new_bench(car: Car, random: Random) -> Bench:
    """Instruments with errors of their own."""
    return Bench(
        car, random, random.uniform(*REFRESH_HZ), random.uniform(0.05, 0.4), 1.0 + random.gauss(0, VOLTS_OFF / 2),
        1.0 + random.gauss(0, OHMS_OFF / 2), 1.0 + random.gauss(0, 0.008),
    )  # fmt: skip


def three_digits(value: float) -> str:
    """A number to three digits as an instrument writes it: never with an exponent."""
    return np.format_float_positional(float(f"{value:.3g}"), trim="-")


def _text(value: float, digits: int, unit: str) -> str:
    shown = f"{value:.{digits}f}"
    shown = shown.lstrip("-") if float(shown) == 0 else shown
    return f"{shown} {unit}".rstrip()


def _volts(value: float) -> str:
    return _text(value, 2 if abs(value) < 6 else 1, "V")


def _ohms(value: float) -> str:
    for size, unit in ((1e6, "M"), (1e3, "k")):
        if value >= size:
            return f"{three_digits(value / size)}{unit}"
    return f"{value:.1f} ohm"


__all__ = ["GROUND", "Bench", "new_bench", "three_digits"]
