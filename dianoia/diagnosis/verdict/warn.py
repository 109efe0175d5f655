"""The traps of the trade, noticed in the readings."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from dianoia.case.job import Job
from dianoia.case.measures import Probe
from dianoia.case.measures.scan import OF_UNIT
from dianoia.case.observed import Observed
from dianoia.circuit.assumptions import assumptions, battery
from dianoia.circuit.cells.nox import DEW_POINT_S
from dianoia.circuit.network import Array
from dianoia.diagnosis.decision.decide import Standing
from dianoia.diagnosis.decision.proof import PartState
from dianoia.diagnosis.faults.partition import Partition
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.faults.types import Part
from dianoia.diagnosis.inference.belief import Belief
from dianoia.diagnosis.inference.evidence import DRAWS_A
from dianoia.diagnosis.verdict.types import Warned
from dianoia.families.types import SIGNAL_TERMINALS
from dianoia.readings.heater_model import HeaterModel

#: Chance from which a state or a gross error is worth a warning.
LIKELY = 0.4
#: Share of the system voltage across the heater's terminals from which the module, or a short, grounds it.
DRIVEN_FROM = 0.15


@dataclass(frozen=True)
class WarningContext:
    """What the warnings look at."""

    job: Job
    belief: Belief
    partition: Partition
    posterior: Array
    states: Mapping[Part, PartState]
    standing: Standing
    gross_errors: Mapping[int, float]

    @property
    def switched(self) -> str:
        """The heater's wire that the module switches, as far as it is known."""
        sensor = self.job.case.sensor
        return "heater_supply" if sensor and sensor.heater_switch == "high-side" else "heater_control"

    @property
    def counted(self) -> list[tuple[int, Observed]]:
        """Readings that count, with their places."""
        return [(place, item) for place, item in enumerate(self.job.readings) if item.counts]


def warnings(view: WarningContext) -> tuple[Warned, ...]:
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


def _battery(view: WarningContext) -> Iterator[Warned]:
    for place, item in view.counted:
        probe, volts = item.probe, item.number
        at_battery = probe.reads_volts and set(probe.points) == {"battery.positive", "battery.negative"}
        if volts is None or not (at_battery or probe.scanned == "battery_voltage"):
            continue
        limit = view.job.system_v / 12.0 * battery()[probe.key or "on"].wanted_v
        if abs(volts) < limit:
            yield Warned(warning="low-battery", reading=place, says=f"Battery at {abs(volts):.1f} V, at least {limit:.1f} V "
                         "wanted in this state: charge it before trusting any other voltage.")  # fmt: skip


def _pwm(view: WarningContext) -> Iterator[Warned]:
    sensor = view.job.case.sensor
    if sensor and sensor.heater_drive == "steady":
        return
    known = bool(sensor and sensor.heater_drive == "pwm")
    for place, item in view.counted:
        probe, volts = item.probe, item.number
        if not probe.reads_volts or probe.key != "running" or probe.loaded:
            continue
        ends = [point for point in probe.points if point.endswith("." + view.switched)]
        between = volts is not None and 0.06 * view.job.system_v < abs(volts) < 0.9 * view.job.system_v
        if len(ends) == 1 and probe.setting.connector == "mated" and (known or between):
            yield Warned(warning="pwm-average", reading=place, says=f"A multimeter shows the average of a pulsed wire: "
                         f"{abs(volts or 0):.1f} V may be a good drive. Use a scope or a lamp.")  # fmt: skip


def _unloaded(view: WarningContext) -> Iterator[Warned]:
    supply = view.states.get("supply") or view.states.get("ground")
    for place, item in view.counted:
        probe, volts = item.probe, item.number
        if not probe.reads_volts or probe.loaded or not _on_feed(probe) or (supply and supply.proven):
            continue
        if volts is not None and abs(volts) > 0.6 * view.job.system_v:
            yield Warned(warning="unloaded-supply", reading=place, says=f"{abs(volts):.1f} V reaches the point, but "
                         "without load: for a meter one strand is enough. Put a lamp across both heater terminals of "
                         "the loom.")  # fmt: skip


def _on_feed(probe: Probe) -> bool:
    points = probe.points
    return any(
        point.endswith((".heater_supply", ".supply")) or point in ("fuse.out", "relay.out") for point in points
    ) and ("battery.negative" in points or "chassis" in points)


def _hot(view: WarningContext) -> Iterator[Warned]:
    for place, item in view.counted:
        celsius = item.probe.sensor_c
        if not item.probe.across_element or item.number == float("inf"):  # OL is OL at any temperature
            continue
        if celsius is None:
            text = "No temperature is noted with this resistance, and a warm element reads higher: note it, or measure cold."
        elif celsius == "hot" or celsius > assumptions().cold_c:
            text = "A hot element reads two to four times its cold resistance: measure again cold before judging it."
        else:
            continue
        yield Warned(warning="hot-resistance", reading=place, says=text)


def _live(view: WarningContext) -> Iterator[Warned]:
    for place, item in view.counted:
        probe = item.probe
        if not probe.reads_ohms:
            continue
        apart = probe.on_the_part and probe.setting.connector == "unplugged"
        if probe.setting.powered and not apart:
            yield Warned(warning="meter-on-live-circuit", reading=place, says="An ohmmeter shows wrong values on a live "
                         "circuit: turn the key off, disconnect the battery if the wire stays live, then measure again.")  # fmt: skip


def _cell(view: WarningContext) -> Iterator[Warned]:
    for place, item in view.counted:
        of_cell = item.probe.on_the_part and item.probe.terminals <= {*SIGNAL_TERMINALS, "shell"}
        if item.probe.reads_ohms and of_cell and not view.job.family.kind.is_resistance:
            yield Warned(warning="ohms-on-cell", reading=place, says="An ohmmeter drives current through the cell: the value "
                         "means nothing, and the cell can be damaged. Measure its voltage or current instead.")  # fmt: skip


def _latched(view: WarningContext) -> Iterator[Warned]:
    model = view.belief.models.get("heater")
    if not isinstance(model, HeaterModel):
        return
    own = _own_posterior(view, "heater")
    for place, item in reversed(view.counted):
        probe = item.probe
        at_work = probe.at_work or probe.live_value is not None
        powered = at_work and probe.key in ("on", "running")
        if not powered or probe.codes_cleared or probe.of or not _shows_drive(view, probe):
            continue
        if _driven(view, item):
            return
        latched = model.latched(probe.setting)
        chance = float((own[:, None] * view.belief.draws("heater") * latched).sum())
        if chance > LIKELY:
            yield Warned(warning="heater-latched-off", reading=place, says="The module has probably shut this heater off after "
                         "a bad current: clear the codes, then measure within the first half minute.")  # fmt: skip
            return


def _shows_drive(view: WarningContext, probe: Probe) -> bool:
    """Whether a reading tells if the module drives the heater: on the switched wire, or its current."""
    on_wire = any(point.endswith(view.switched) for point in probe.points)
    return on_wire or probe.scanned in ("heater_current", "heater_command")


def _driven(view: WarningContext, item: Observed) -> bool:
    """Whether a reading shows the heater driven: a good part of the battery across it, or a current through it."""
    if item.number is None or item.number == float("inf"):
        return False
    if item.probe.scanned == "heater_current" or item.probe.reads_amps:
        return abs(item.number) > DRAWS_A
    ends = {point.rpartition(".")[2] for point in item.probe.points}
    across = item.probe.reads_volts and ends == {"heater_supply", "heater_control"}
    return across and abs(item.number) > DRIVEN_FROM * view.job.system_v


def _own_posterior(view: WarningContext, loop: str) -> Array:
    rows = view.belief.space.rows[loop]
    return np.bincount(rows, weights=view.posterior, minlength=len(view.belief.models[loop].hypotheses))


def _contradict(view: WarningContext) -> Iterator[Warned]:
    for place, chance in view.gross_errors.items():
        of = view.job.readings[place].probe.of
        if chance > 0.5 and not (of and of.startswith("B")):  # another sensor may have a fault of its own
            yield Warned(warning="readings-contradict", reading=place, says=f"Reading {place + 1} does not fit the others under "
                         "any one or two faults: take it again, at the right pin, in the state noted.")  # fmt: skip


def _nox(view: WarningContext) -> Iterator[Warned]:
    if not view.job.family.kind.unit:
        return
    for place, item in view.counted:
        probe = item.probe
        if probe.live_value not in OF_UNIT:
            continue
        early = probe.key != "running" or probe.ran_s is None or probe.ran_s < DEW_POINT_S[1]
        if item.value in ("n/a", "not-at-temperature", "not-stable") and early:
            yield Warned(warning="dew-point-wait", reading=place, says="Until the exhaust is dry the sensor waits before it "
                         "heats: no value in the first minutes is normal. Drive it warm, then read again.")  # fmt: skip
        ppm = item.number if probe.live_value == "nox" else None
        behind = probe.of.endswith("2") if probe.of and probe.of.startswith("B") else view.job.position == 2
        if ppm is not None and ppm > 80 and behind and "dosing-off" not in probe.conditions:
            yield Warned(warning="ammonia-cross-sensitivity", reading=place, says=f"{ppm:.0f} ppm after the SCR may be ammonia: "
                         "the sensor reads it as NOx. Read again with the dosing off.")  # fmt: skip


def _mismatch(view: WarningContext) -> Iterator[Warned]:
    """The code names one circuit, the readings another."""
    primary = view.job.primary
    if primary is None or primary.kind != "oxygen":
        return
    table = faults()
    for name, rows in view.partition.has_fault.items():
        chance = float(view.posterior[rows].sum())
        loops = table[name].loop.split()
        coded = "heater" if primary.circuit == "heater" else "signal"
        if chance > 0.8 and coded not in loops:
            yield Warned(warning="code-evidence-mismatch", says=f"The code names the {coded} circuit, but the readings say that "
                         f"{table[name].says}. Trust the readings.")  # fmt: skip
        if chance > 0.8 and table[name].masks_catalyst:
            yield Warned(warning="follow-on-catalyst", says="A lazy or shifted sensor can mask a worn catalyst: tell the "
                         "customer that a catalyst code may follow once the sensor is good.")  # fmt: skip


def _about_the_job(view: WarningContext) -> Iterator[Warned]:
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
        item.probe.scanned == "heater_monitor" and item.value == "unsupported" for _, item in view.counted
    )
    if unsupported or (sensor and sensor.heater_monitor is False):
        yield Warned(warning="no-heater-monitor", says="This vehicle has no heater monitor: a dead heater sets no code, and "
                     "a missing code proves nothing.")  # fmt: skip
    several = float(view.posterior[view.partition.several].sum())
    if several > LIKELY:
        yield Warned(warning="two-faults", says="Two faults at once are likely: mend the easiest first, then "
                     "measure again everything it touched.")  # fmt: skip
    two_banks = case.vehicle.engine is not None and case.vehicle.engine.sensor_banks == 2
    if view.standing.decision == "replace-sensor" and two_banks:
        yield Warned(warning="twin-same-age", says="The twin on the other bank is of the same age: tell the customer, and "
                     "compare its reading while you are there.")  # fmt: skip
