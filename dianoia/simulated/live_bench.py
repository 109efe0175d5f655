"""The instruments at the second car in time: what they show at this moment, and the state that belongs to it."""

from collections.abc import Sequence
from dataclasses import dataclass
from random import Random
from typing import Any

import numpy as np

from dianoia.simulated.heat import STOPPED_C, Drive
from dianoia.simulated.instruments import Bench, new_bench
from dianoia.simulated.live import LiveCar
from dianoia.simulated.net import Net
from dianoia.simulated.sensor import Sensor
from dianoia.simulated.state import State
from dianoia.simulated.wiring import GROUND

#: Live values that move with the mixture.
MOVING = ("sensor_voltage", "cell_current", "lambda", "short_trim", "long_trim")
#: What damp insulation and neighbouring wires lead into a point: 14 V over some hundred megohms to gigaohms, in amperes. A meter of 10
#: megohms shows 0.02 to 0.4 V of it.
PICKED_UP_A = (2e-9, 4e-8)
#: A clamp's drift after zeroing, in amperes (data sheets of 20 A clamps: 10 to 50 mA).
CLAMP_DRIFT_A = 0.03
#: Swing under which people say that a signal stands still, as a share of a whole one; changes in ten seconds from which it switches.
STEADY, SWITCHING_CHANGES = 0.1, 2
#: So long after clearing, codes count as just cleared, in seconds. A heater that was cleared while the engine ran is driven anew: the
#: seconds since the start say nothing about it then.
CLEARED_FOR_S = 60.0
#: From here an element is called hot, in °C; below, its temperature is said to ten degrees.
HOT_C = 300.0


@dataclass
class LiveBench(Bench):
    """Instruments at a car that has a clock. What a probe says of state and time is left aside: the car's own counts."""

    def state(self, probe: dict[str, Any]) -> State:
        """How the car stands."""
        return self.live.stood(self.sensor(probe.get("of")))

    @property
    def live(self) -> LiveCar:
        """The car."""
        assert isinstance(self.car, LiveCar)
        return self.car

    def element_c(self, probe: dict[str, Any], sensor: Sensor) -> float:
        """How warm the element is, in °C."""
        if probe.get("of") in ("known-good", "new", "old"):
            return 20.0
        return self.live.parts[sensor.address].element_c

    def said(self, probe: dict[str, Any]) -> dict[str, Any]:
        """The state that a reading of this probe is stored with, in the case file's own names."""
        live, sensor = self.live, self.sensor(probe.get("of"))
        state = live.stood(sensor)
        found: dict[str, Any] = {"key": state.key, "connector": state.connector}
        if state.module != "mated":
            found["module_connector"] = state.module
        if state.battery != "connected":
            found["battery"] = state.battery
        if probe["measure"] == "resistance":
            return found | {"sensor_c": self._warmth(probe, sensor)}
        cleared_s = None if live.cleared_s is None else live.now_s - live.cleared_s
        if state.key in ("on", "running") and (cleared_s is None or cleared_s > min(live.since, CLEARED_FOR_S)):
            found["at_s"] = round(live.since)
        if state.key == "running":
            found |= {"coolant_c": round(live.coolant_c)} | ({} if state.rpm is None else {"rpm": round(state.rpm)})
        if cleared_s is not None and cleared_s <= CLEARED_FOR_S:
            found["codes_cleared"] = True
        return found | _laid_on(state)

    def _warmth(self, probe: dict[str, Any], sensor: Sensor) -> int | str:
        warm = self.element_c(probe, sensor)
        return 20 if warm < STOPPED_C else "hot" if warm > HOT_C else 10 * round(warm / 10)

    def number(self, pid: str, sensor: Sensor) -> float | str | None:
        """A live value now: volts, amperes, milliamperes, ohms, percent, lambda, a word; None where the module knows none."""
        live, state = self.live, self.live.stood(sensor)
        part = live.parts[sensor.address]
        if pid in MOVING:
            return self._moving_number(pid, state, sensor)
        if pid == "heater_current":
            amps = 0.0 if sensor.element is None else heater_amps(sensor.element.ohms(part.element_c), part.drives)
            return amps if sensor.kind != "nox" else None
        if pid == "battery_voltage":
            return live.volts - 0.05
        if pid == "engine_speed":
            return 0.0 if state.key != "running" else state.rpm or live.engine.idle_rpm
        if pid == "coolant":
            return live.coolant_c
        if pid == "heater_command":
            return 100.0 * live.duty(state, sensor)
        if pid == "loop":
            return "closed" if live.closed.get(sensor.bank) and state.key == "running" else "open"
        return self._unit_number(pid, sensor)

    def moves(self, sensor: Sensor) -> str:
        """How a sensor's answer moved over the last ten seconds: ``steady``, ``slow`` or ``switching``."""
        front = sensor is self.live.loops[sensor.bank].front
        run = self.live.running(self.live.setup, sensor)
        answer = run.answer if front else run.rear_answer
        swing = float(np.ptp(answer))
        full = (
            sensor.cell.rich_v - sensor.cell.lean_v
            if sensor.kind in ("switching", "titania")
            else 0.05 * sensor.cell.slope_a
        )
        if swing < STEADY * full:
            return "steady"
        over = answer > float(answer.min()) + swing / 2
        return "switching" if int((over[1:] != over[:-1]).sum()) >= SWITCHING_CHANGES else "slow"

    def _scan(self, pid: str, state: State, sensor: Sensor, span: bool) -> Any:
        if pid == "heater_monitor":
            return self.live.memory.monitors.get("heater", "unsupported")
        return super()._scan(pid, state, sensor, span)

    def _unit_number(self, pid: str, sensor: Sensor) -> float | str | None:
        text = self.read({"measure": "scan", "pid": pid, "of": sensor.address})
        number = str(text).split()[0]
        try:
            return float(number)
        except ValueError:
            return None if number in ("n/a", "None") else str(text)

    def _moving_number(self, pid: str, state: State, sensor: Sensor) -> float | None:
        live, loop = self.live, self.live.loops[sensor.bank]
        if pid in ("short_trim", "long_trim"):
            return 100.0 * (loop.trim if pid == "short_trim" else loop.long_trim)
        answer = loop.answer if sensor is loop.front else loop.rear_answer
        if pid == "sensor_voltage":
            if sensor.input_dead:
                return 0.45 * self.scan_off
            if sensor.kind == "switching":
                offset, share = live.seen(sensor)
                return (offset + share * (answer if live.lit(sensor) else 0.0)) * self.scan_off
            return self._input(self._net(state, sensor, False, self._gas_now(sensor)).solve(), sensor) * self.scan_off
        if state.key != "running":
            return None
        reached = live.lit(sensor) and live.connected(state, sensor) and not sensor.bias_gone
        amps = answer if reached else 0.0
        if pid == "cell_current":
            return 1e3 * amps
        return min(max(1.0 + amps / sensor.cell.slope_a / (1.5 if amps < 0 else 1.0), 0.7), 1.99)

    def _gas_now(self, sensor: Sensor) -> float | None:
        samples = self.live.samples[sensor.bank]
        if self.live.setup.key != "running" or not samples:
            return None
        return samples[-1][0 if sensor.position == 1 else 1]

    def _across(self, net: Net, probe: dict[str, Any]) -> None:
        super()._across(net, probe)
        for point in (probe["red"], probe["black"]):
            net.current(GROUND, point, self._picked_up(point))

    def _picked_up(self, point: str) -> float:
        """Amperes that leak or couple into a point: some volts on a wire that leads nowhere, nothing on one that is loaded."""
        return Random(f"{self.sensor(None).address}{point}{self.leads_ohms}").uniform(*PICKED_UP_A)

    def _current(self, probe: dict[str, Any], state: State, sensor: Sensor, span: bool) -> Any:
        amps = self._heater_amps(state, sensor) * self.volts_off + self.clamp_off_a
        return f"{amps + 0.0:.2f} A"

    @property
    def clamp_off_a(self) -> float:
        """What this clamp shows with nothing in it, in amperes: it was zeroed, and has drifted since."""
        return CLAMP_DRIFT_A * (2.0 * Random(f"clamp{self.leads_ohms}").random() - 1.0)

    def _look(self, values: np.ndarray) -> float:
        return float(values[-1])


def heater_amps(ohms: float, drives: Sequence[Drive]) -> float:
    """Mean current through an element of so many ohms, in amperes."""
    return sum(item.share * abs(item.port.open_v) / (ohms + item.port.ohms) for item in drives)


def _laid_on(state: State) -> dict[str, Any]:
    """Leads and conditions of a state, in the case file's own names."""
    found: dict[str, Any] = {}
    if state.jumper is not None:
        found["jumper"] = list(state.jumper)
    if state.fed_v is not None:
        found["fed_v"] = state.fed_v
    told = sorted(state.conditions | ({"signal-fed"} if state.fed_v is not None else set()))
    if told:
        found["with"] = told[0] if len(told) == 1 else told
    return found


def live_bench(car: LiveCar, seed: int) -> LiveBench:
    """Instruments with errors of their own at a car in time."""
    made = new_bench(car, Random(seed))
    return LiveBench(**vars(made))
