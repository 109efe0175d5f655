"""The module's own tests in time: heaters, sensors, mixture, catalyst and NOx units, each from what the module can see."""

from statistics import fmean
from typing import TYPE_CHECKING

from dianoia.simulated.engine import STEP_S as MIXTURE_S
from dianoia.simulated.module import (
    CATALYST_CODES,
    CATALYST_FROM_S,
    HEATER_FROM_S,
    LEAN_CODES,
    NO_SIGNAL,
    NOX_CODES,
    OPEN_CIRCUIT,
    PASSED_ON,
    RICH_CODES,
    SENSORS_FROM_S,
    SIGNAL_CODES,
    TRIMMED,
    heater_code,
    heater_failure,
    signal_failure,
)
from dianoia.simulated.sensor import Sensor

if TYPE_CHECKING:
    from dianoia.simulated.live import LiveCar

#: Seconds between two tests of a signal, which are as long as what a test looks at.
EVERY_S = 10.0
#: Coolant from which sensors are tested, in °C.
WARM_C = 60.0
#: The element's temperature at which a module's limits of current are given, in °C.
TESTED_C = 500.0
#: A NOx unit that is heated and not at temperature after so many seconds has a dead heater; what a value may be off.
UNIT_COLD_S, VALUE_OFF, LEFT_OVER = 120.0, 0.35, 0.3


def run_monitors(car: "LiveCar") -> None:
    """Every test that is due at this moment of a running engine."""
    for sensor in car.sensors:
        if sensor.element is not None and sensor.kind != "nox":
            _heater(car, sensor)
    if car.now_s < car.tests_at_s:
        return
    car.tests_at_s = car.now_s + EVERY_S
    if car.sensor.kind == "nox":
        for sensor in car.sensors:
            _unit(car, sensor)
    elif (
        car.running_s >= SENSORS_FROM_S
        and car.coolant_c > WARM_C
        and not car.setup.conditions
        and car.setup.rpm is None
    ):
        for bank in car.loops:
            _bank(car, bank)


def _heater(car: "LiveCar", sensor: Sensor) -> None:
    part = car.parts[sensor.address]
    fails = part.bad_s > sensor.latches_after_s
    if part.driven_s < HEATER_FROM_S or part.tested == ("failed" if fails else "passed"):
        return
    if fails:
        on, off = (
            abs(port.open_v) / (sensor.element.ohms(TESTED_C) + port.ohms) if sensor.element else 0.0
            for port in car.heater_ports(sensor)
        )
        failure = heater_failure(on, off, *car.accepted_amps(sensor)) or OPEN_CIRCUIT
        car.memory.tested(heater_code(sensor, failure), failure)
    elif part.bad_s == 0.0 and not part.latched:
        car.memory.tested(heater_code(sensor, ""), None)
    else:
        return
    part.tested = "failed" if fails else "passed"
    if all(car.parts[item.address].tested or item.element is None for item in car.sensors):
        car.memory.complete.add("heater")


def _bank(car: "LiveCar", bank: int) -> None:
    loop, samples = car.loops[bank], car.samples[bank]
    _, _, front_answers, rear_answers, shorts = zip(*samples[-round(EVERY_S / MIXTURE_S) :], strict=True)
    trim, closed = loop.long_trim + fmean(shorts), car.closed[bank]
    swings = []
    for sensor, answers in ((loop.front, front_answers), (loop.rear, rear_answers)):
        offset, share = (0.45, 0.0) if sensor.input_dead else car.seen(sensor)
        lit = car.lit(sensor) or sensor.kind != "switching"
        shown = [offset + share * (value if lit else 0.0) for value in answers]
        swings.append(max(shown) - min(shown))
        if sensor is loop.front or closed:
            _signal(car, sensor, shown, trim)
    if not closed:
        return
    car.memory.complete.add("oxygen-sensor")
    for codes, failed in ((LEAN_CODES, trim > TRIMMED), (RICH_CODES, trim < -TRIMMED)):
        car.memory.tested(codes[bank - 1], NO_SIGNAL if failed else None)
    car.memory.complete.add("fuel-system")
    if (
        car.closed_s[bank] > CATALYST_FROM_S
        and loop.front.kind == loop.rear.kind == "switching"
        and loop.front is not loop.rear
    ):
        worn = swings[0] > 0.3 and swings[1] > PASSED_ON * swings[0]
        car.memory.tested(CATALYST_CODES[bank - 1], NO_SIGNAL if worn else None)
        car.memory.complete.add("catalyst")


def _signal(car: "LiveCar", sensor: Sensor, shown: list[float], trim: float) -> None:
    if sensor.kind == "switching":
        failure = signal_failure(sensor, shown, trim)
    else:
        answers = car.lit(sensor) and car.connected(car.stood(sensor), sensor) and not sensor.bias_gone
        failure = None if answers else (f"P{SIGNAL_CODES[sensor.address] + 4:04d}", NO_SIGNAL)
    if failure is not None:
        car.memory.tested(*failure)
        return
    for place in range(5):
        car.memory.tested(f"P{SIGNAL_CODES[sensor.address] + place:04d}", None)


def _unit(car: "LiveCar", sensor: Sensor) -> None:
    state, memory = car.stood(sensor), car.memory
    heard, supply = car.unit_seen(state, sensor)
    status = car.unit_status(state, sensor, supply)
    failed = {
        "nox-messages": not heard,
        "nox-supply": heard and status == "supply-out-of-range",
        "nox-heater": heard and car.parts[sensor.address].cold_s > UNIT_COLD_S,
        "nox-value": heard and status == "valid" and _value_off(car, sensor),
    }
    for name, wrong in failed.items():
        memory.tested(NOX_CODES[name][sensor.position - 1], NO_SIGNAL if wrong else None)
    if status == "valid" or any(failed.values()):
        memory.complete.add("nox")


def _value_off(car: "LiveCar", sensor: Sensor) -> bool:
    """Against what the module expects: the engine's own NOx ahead of the catalyst, a small rest behind it."""
    state = car.stood(sensor)
    shown = car.nox_ppm(state, sensor) * sensor.nox_factor + sensor.nox_offset
    made = car.nox["engine"]
    return abs(shown / made - 1.0) > VALUE_OFF if sensor.position == 1 else shown > LEFT_OVER * made
