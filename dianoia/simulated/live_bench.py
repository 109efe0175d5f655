"""The instruments at the second car in time: what they show at this moment, and the state that belongs to it."""

from dataclasses import dataclass
from random import Random
from typing import Any

import numpy as np

from dianoia.simulated.heat import STOPPED_C
from dianoia.simulated.instruments import Bench, new_bench
from dianoia.simulated.live import LiveCar
from dianoia.simulated.sensor import Sensor
from dianoia.simulated.state import State

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
        if state.key in ("on", "running"):
            found["at_s"] = round(live.since)
        if state.key == "running":
            found |= {"coolant_c": round(live.coolant_c)} | ({} if state.rpm is None else {"rpm": round(state.rpm)})
        if live.cleared_s is not None:
            found["codes_cleared"] = True
        return found | _laid_on(state)

    def _warmth(self, probe: dict[str, Any], sensor: Sensor) -> int | str:
        warm = self.element_c(probe, sensor)
        return 20 if warm < STOPPED_C else "hot" if warm > HOT_C else 10 * round(warm / 10)

    def _look(self, values: np.ndarray) -> float:
        return float(values[-1])


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
