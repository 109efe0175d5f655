"""The traps of the trade, noticed in the readings."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from dianoia.case.job import Job
from dianoia.circuit.network import Array
from dianoia.circuit.nox import DEW_POINT_S
from dianoia.circuit.setting import setting_of
from dianoia.diagnosis.decision.decide import Standing
from dianoia.diagnosis.decision.proof import PartState, loads_nothing, under_load
from dianoia.diagnosis.faults.meaning import Meaning
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.inference.belief import Belief
from dianoia.diagnosis.verdict.types import Warned
from dianoia.quantities.show import percent
from dianoia.quantities.types import Quantity
from dianoia.readings.heater_model import HeaterModel
from dianoia.readings.judge import COLD_C, is_element
from dianoia.readings.value import figures

#: Battery below these volts, at 12 V nominal, makes every other reading doubtful: (key, volts).
_LOW_BATTERY = {"off": 12.0, "on": 11.6, "running": 13.0, "cranking": 9.3}
#: Chance from which a state or a slip is worth a warning.
LIKELY = 0.4
_CELL_TERMINALS = {"signal", "signal_return", "cell_positive", "cell_negative", "nernst", "virtual_ground", "pump"}


@dataclass(frozen=True)
class View:
    """What the warnings look at."""

    job: Job
    belief: Belief
    meaning: Meaning
    posterior: Array
    states: Mapping[str, PartState]
    standing: Standing
    slips: Mapping[int, float]

    @property
    def counted(self) -> list[tuple[int, Any]]:
        """Readings that count, with their places."""
        return [(place, item) for place, item in enumerate(self.job.case.readings) if item.struck is None]


def warnings(view: View) -> tuple[Warned, ...]:
    """Every warning that applies, each named once for each reading it belongs to."""
    found: list[Warned] = []
    for check in (
        _battery,
        _pwm,
        _unloaded,
        _hot,
        _live,
        _cell,
        _latched,
        _contradict,
        _nox,
        _mismatch,
        _about_the_job,
    ):
        found += check(view)
    return tuple(found)


def _battery(view: View) -> Iterator[Warned]:
    scale = (view.job.case.vehicle.system_voltage or 12) / 12.0
    for place, item in view.counted:
        at_battery = item.measure == "voltage" and {item.red, item.black} == {"battery.positive", "battery.negative"}
        on_scan = item.measure == "scan" and item.pid == "battery_voltage"
        if not (at_battery or on_scan):
            continue
        volts = _number(item)
        limit = scale * _LOW_BATTERY[item.key or "on"]
        if volts is not None and abs(volts) < limit:
            yield Warned(warning="low-battery", reading=place, says=f"Battery at {abs(volts):.1f} V, at least {limit:.1f} V "
                         "wanted in this state: charge it before trusting any other voltage.")  # fmt: skip


def _number(item: Any) -> float | None:
    shown = figures(item).get("value")
    return shown.value if isinstance(shown, Quantity) else None


def _pwm(view: View) -> Iterator[Warned]:
    sensor = view.job.case.sensor
    if sensor and sensor.heater_drive == "steady":
        return
    switched = "heater_supply" if sensor and sensor.heater_switch == "high-side" else "heater_control"
    known = bool(sensor and sensor.heater_drive == "pwm")
    system_v = view.job.case.vehicle.system_voltage or 12
    for place, item in view.counted:
        if item.measure != "voltage" or item.key != "running" or item.load:
            continue
        ends = [point for point in (item.red, item.black) if point.endswith("." + switched)]
        volts = _number(item)
        between = volts is not None and 0.06 * system_v < abs(volts) < 0.9 * system_v
        if len(ends) == 1 and (item.connector or "mated") == "mated" and (known or between):
            yield Warned(warning="pwm-average", reading=place, says=f"A multimeter shows the average of a pulsed wire: "
                         f"{abs(volts or 0):.1f} V may be a healthy drive. A scope or a lamp tells.")  # fmt: skip


def _unloaded(view: View) -> Iterator[Warned]:
    supply = view.states.get("supply") or view.states.get("ground")
    for place, item in view.counted:
        if item.measure != "voltage" or item.load or not _on_feed(item):
            continue
        volts = _number(item)
        reached = volts is not None and abs(volts) > 0.6 * (view.job.case.vehicle.system_voltage or 12)
        bare = loads_nothing(item) or not under_load(item) or not (supply and supply.proven)
        if reached and bare and not (supply and supply.proven):
            yield Warned(warning="unloaded-supply", reading=place, says=f"{abs(volts or 0):.1f} V reaches the point, but "
                         "nothing was asked to flow: one strand passes as much into a meter. Put a lamp across both "
                         "heater terminals of the loom.")  # fmt: skip


def _on_feed(item: Any) -> bool:
    points = (item.red, item.black)
    return any(
        point.endswith((".heater_supply", ".supply")) or point in ("fuse.out", "relay.out") for point in points
    ) and ("battery.negative" in points or "chassis" in points)


def _hot(view: View) -> Iterator[Warned]:
    for place, item in view.counted:
        if not is_element(item) or _number(item) == float("inf"):  # OL is OL at any temperature
            continue
        if item.sensor_c is None:
            text = "No temperature with this resistance: a warm element reads higher. Note it, or measure cold."
        elif item.sensor_c == "hot" or item.sensor_c > COLD_C:
            text = "A hot element reads two to four times its cold resistance: measure again cold before judging it."
        else:
            continue
        yield Warned(warning="hot-resistance", reading=place, says=text)


def _live(view: View) -> Iterator[Warned]:
    for place, item in view.counted:
        if item.measure != "resistance":
            continue
        setting = setting_of(item, resistance=True)
        on_sensor = all(point.startswith("sensor.") for point in (item.red, item.black))
        apart = on_sensor and setting.connector == "unplugged"
        if setting.powered and not apart:
            yield Warned(warning="meter-on-live-circuit", reading=place, says="An ohmmeter on a live circuit lies: key off, "
                         "and the battery disconnected where the wire stays live, then measure again.")  # fmt: skip


def _cell(view: View) -> Iterator[Warned]:
    for place, item in view.counted:
        if item.measure != "resistance":
            continue
        ends = [point.partition(".") for point in (item.red, item.black)]
        if all(end[0] == "sensor" and (end[2] in _CELL_TERMINALS or end[2] == "shell") for end in ends):
            yield Warned(warning="ohms-on-cell", reading=place, says="An ohmmeter drives current through the cell: the value "
                         "means nothing and the cell may suffer. Measure its voltage or current instead.")  # fmt: skip


def _latched(view: View) -> Iterator[Warned]:
    model = view.belief.models.get("heater")
    if not isinstance(model, HeaterModel):
        return
    own = _own_posterior(view, "heater")
    for place, item in reversed(view.counted):
        powered = item.measure in ("voltage", "scope", "lamp", "current", "scan") and item.key in ("on", "running")
        if not powered or item.codes_cleared or item.of or not _shows_drive(view, item):
            continue
        latched = model.latched(setting_of(item))
        chance = float((own[:, None] * view.belief.draws("heater") * latched).sum())
        if chance > LIKELY:
            yield Warned(warning="heater-latched-off", reading=place, says="The module has probably shut this heater off after "
                         "a bad current: clear the codes, then measure within the first half minute.")  # fmt: skip
            return


def _shows_drive(view: View, item: Any) -> bool:
    """Whether a reading tells if the module drives the heater: on the switched wire, or its current."""
    sensor = view.job.case.sensor
    switched = "heater_supply" if sensor and sensor.heater_switch == "high-side" else "heater_control"
    points = [str(getattr(item, name, "") or "") for name in ("red", "black", "at", "pid")]
    return any(point.endswith(switched) or point in ("heater_current", "heater_command") for point in points)


def _own_posterior(view: View, loop: str) -> Array:
    rows = view.belief.space.rows[loop]
    return np.bincount(rows, weights=view.posterior, minlength=len(view.belief.models[loop].hypotheses))


def _contradict(view: View) -> Iterator[Warned]:
    for place, chance in view.slips.items():
        if chance > 0.5:
            yield Warned(warning="readings-contradict", reading=place, says=f"Reading {place + 1} does not fit the others under "
                         "any one or two faults: take it again, at the right pin, in the state noted.")  # fmt: skip


def _nox(view: View) -> Iterator[Warned]:
    if view.job.family.cell != "nox":
        return
    for place, item in view.counted:
        if item.measure != "scan" or item.pid not in ("nox", "o2", "nox_status", "can_messages"):
            continue
        silent = str(item.value).strip().lower() in ("n/a", "not-at-temperature", "not-stable")
        early = item.key != "running" or item.at_s is None or item.at_s < DEW_POINT_S[1]
        if silent and early:
            yield Warned(warning="dew-point-wait", reading=place, says="Until the exhaust is dry the sensor waits before it "
                         "heats: no value in the first minutes is normal. Drive it warm, then read again.")  # fmt: skip
        ppm = _number(item) if item.pid == "nox" else None
        if ppm is not None and ppm > 80 and view.job.position == 2 and "dosing-off" not in item.conditions:
            yield Warned(warning="ammonia-cross-sensitivity", reading=place, says=f"{ppm:.0f} ppm after the SCR may be ammonia: "
                         "the sensor reads it as NOx. Read again with the dosing off.")  # fmt: skip


def _mismatch(view: View) -> Iterator[Warned]:
    """The code names one circuit, the readings another."""
    primary = view.job.primary
    if primary is None or primary.kind != "oxygen":
        return
    table = faults()
    for name, rows in view.meaning.has_fault.items():
        chance = float(view.posterior[rows].sum())
        loops = table[name].loop.split()
        coded = "heater" if primary.circuit == "heater" else "signal"
        if chance > 0.8 and coded not in loops:
            yield Warned(warning="code-evidence-mismatch", says=f"The code names the {coded} circuit, the readings say that "
                         f"{table[name].says}: evidence outranks the code.")  # fmt: skip
        if chance > 0.8 and name in ("cell-slow", "cell-contaminated", "cell-biased-rich", "cell-biased-lean"):
            yield Warned(warning="follow-on-catalyst", says="A lazy or shifted sensor can mask a worn catalyst: tell the "
                         "customer that a catalyst code may follow once the sensor is good.")  # fmt: skip


def _about_the_job(view: View) -> Iterator[Warned]:
    job, case = view.job, view.job.case
    sensor = case.sensor
    if not case.specs and not (sensor and (sensor.heater_ohms_20c or sensor.heater_amps)):
        yield Warned(warning="generic-spec", says="No figures of this vehicle's own: readings are held against general "
                     "ranges. Enter the service data and they count instead.")  # fmt: skip
    heaters = sorted({name for code in job.codes if code.circuit == "heater" for name in code.sensors})
    if len(heaters) > 1:
        yield Warned(warning="common-cause", says=f"{', '.join(heaters)} have heater codes together: look first at the fuse, "
                     "relay and connector they share.")  # fmt: skip
    unsupported = any(
        item.measure == "scan" and item.pid == "heater_monitor" and str(item.value).strip().lower() == "unsupported"
        for _, item in view.counted
    )
    if unsupported or (sensor and sensor.heater_monitor is False):
        yield Warned(warning="no-heater-monitor", says="This vehicle has no heater monitor: a dead heater sets no code, and "
                     "a missing code proves nothing.")  # fmt: skip
    several = float(view.posterior[view.meaning.several].sum())
    if several > LIKELY:
        yield Warned(warning="two-faults", says=f"Two faults at once are likely ({percent(several)}): mend the easiest first, then "
                     "measure again everything it touched.")  # fmt: skip
    two_banks = case.vehicle.engine is not None and case.vehicle.engine.sensor_banks == 2
    if view.standing.decision == "replace-sensor" and two_banks:
        yield Warned(warning="twin-same-age", says="The twin on the other bank is of the same age: tell the customer, and "
                     "compare its reading while you are there.")  # fmt: skip
