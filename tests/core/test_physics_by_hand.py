"""What a fault shows at a telling reading, against sums worked out by hand from the component values beside them.

No figure here comes from the engine: the sums stand in the last column, in the trade's own units.
"""

from dataclasses import replace
from typing import Any, NamedTuple
from unittest import TestCase

import numpy as np

from dianoia.case.job import job_of
from dianoia.case.sensor import Sensor
from dianoia.case.types import Case
from dianoia.circuit.known import known_of
from dianoia.diagnosis.faults.hypotheses import traits
from dianoia.diagnosis.faults.tables import faults
from dianoia.readings.circuit_model import CircuitModel, ModelRequest
from dianoia.readings.heater_model import HeaterModel
from dianoia.readings.nox_model import NoxModel
from tests.cases import STEADY, case, probe

OL = float("inf")
#: The element is specified 4 to 7.5 ohm at 20 °C; charging 13.2 to 14.7 V; engine off 12.1 to 12.8 V; a wire 0.02 to 0.12 ohm.
BASE = case(sensor=STEADY, vehicle={"label": "Van 3", "feed_live": "key-on", "feed_order": "relay-fuse"})
NOX = {"code": "P2200", "sensor": {"family": "nox-can-4w", "bank": 1, "position": 1}}
CIRCUITS = {
    "low-side": BASE,
    "high-side": replace(BASE, sensor=replace(BASE.sensor or Sensor(), heater_switch="high-side")),
    "NOx": case(**NOX, vehicle={"label": "Plough 2", "feed_live": "key-on", "feed_order": "relay-fuse"}),
    "NOx 24 V": case(
        **NOX, vehicle={"label": "Plough 2", "feed_live": "key-on", "feed_order": "relay-fuse", "system_voltage": 24}
    ),
}
#: Share of all draws that must lie within the sum: flat batteries and values beyond tolerance are the rest.
WITHIN = 0.85


def _ohms(red: str, black: str, **state: Any) -> dict[str, Any]:
    return {
        "measure": "resistance",
        "red": red,
        "black": black,
        "key": "off",
        "connector": "unplugged",
        "value": "1",
        **state,
    }


def _volts(red: str, **state: Any) -> dict[str, Any]:
    return {"measure": "voltage", "red": red, "black": "battery.negative", "key": "running", "value": "1 V",
            "codes_cleared": True, "at_s": 20, **state}  # fmt: skip


ELEMENT = _ohms("sensor.heater_supply", "sensor.heater_control", sensor_c=20)
SUPPLY_WIRE = _ohms("fuse.out", "harness.heater_supply")
CONTROL_WIRE = _ohms("module.heater_control", "harness.heater_control", module_connector="unplugged")
CONTROL_TO_GROUND = _ohms("harness.heater_control", "battery.negative", module_connector="unplugged")
SUPPLY_TO_GROUND = _ohms("harness.heater_supply", "battery.negative")
SUPPLY_OPEN = _volts("harness.heater_supply", connector="unplugged")
SUPPLY_LOADED = {**SUPPLY_OPEN, "load": "lamp", "watts": 21}
SUPPLY_MATED = _volts("harness.heater_supply", connector="mated")
CONTROL_MATED = _volts("harness.heater_control", connector="mated")
CONTROL_APART = _volts("harness.heater_control", connector="unplugged", module_connector="unplugged")
HIGH_SIDE_APART = _volts("harness.heater_supply", connector="unplugged", module_connector="unplugged")
HIGH_SIDE_GROUND = _ohms("harness.heater_control", "battery.negative")
FUSE_OUT = _volts("fuse.out", connector="unplugged")
FUSE_IN = _volts("fuse.in", connector="unplugged")


class Row(NamedTuple):
    """low, high: in the base unit of what is measured; sum: how they were worked out; circuit: one of ``CIRCUITS``."""

    fault: str | None
    probe: dict[str, Any]
    low: float
    high: float
    sum: str
    circuit: str = "low-side"


HEATER = (
    Row(None, ELEMENT, 3.9, 8.1, "4 to 7.5 ohm, plus up to 0.4 of the leads, 2 % each way"),
    Row("heater-open", ELEMENT, 38.0, OL, "ten times 4 ohm, a trace of carbon, to nothing at all"),
    Row("heater-high", ELEMENT, 6.8, 54.0, "4 + 0.9 x 3.5 = 7.1 at least; 7.5 + 6 x 7.5 = 52.5 at most"),
    Row("heater-low", ELEMENT, 0.75, 4.9, "4 beside 1 = 0.8; 7.5 beside 9 = 4.1; leads up to 0.4"),
    Row("heater-short", ELEMENT, 0.0, 0.9, "7.5 beside 0.4 = 0.38 at most; leads up to 0.4"),
    Row(None, SUPPLY_WIRE, 0.0, 0.6, "0.12 of wire at most; leads up to 0.4"),
    Row("wire-open:heater_supply", SUPPLY_WIRE, 350.0, OL, "thirty times a hot element of 3 x 4 ohm to nothing at all"),
    Row("wire-high:heater_supply", SUPPLY_WIRE, 1.0, 690.0, "0.085 x 12 ohm takes 15 % of the power; 30 x 3 x 7.5 = 675 at most; wire, leads up to 0.5"),
    Row(None, CONTROL_WIRE, 0.0, 0.6, "0.12 of wire at most; leads up to 0.4"),
    Row("wire-open:heater_control", CONTROL_WIRE, 350.0, OL, "thirty times a hot element of 3 x 4 ohm to nothing at all"),
    Row("wire-high:heater_control", CONTROL_WIRE, 1.0, 690.0, "as in the feed"),
    Row(None, CONTROL_TO_GROUND, 2e4, OL, "the wire hangs free: both its plugs are apart"),
    Row("wire-short-ground:heater_control", CONTROL_TO_GROUND, 0.0, 5.5, "0.02 to 5 ohm where it chafes; leads up to 0.4"),
    Row("wire-short-ground:heater_supply", SUPPLY_TO_GROUND, 0.0, 1.5, "0.02 to 1 ohm where it chafes; leads up to 0.4"),
    Row(None, SUPPLY_OPEN, 13.0, 14.8, "13.2 to 14.7 V: no current, no drop"),
    Row(None, SUPPLY_LOADED, 12.6, 14.75, "2 A of the lamp through 0.05 + 0.06 + 0.01 + 0.12 ohm at most: 0.5 V less at most"),
    Row("fuse-blown", SUPPLY_OPEN, -0.05, 0.5, "nothing feeds it"),
    Row("fuse-blown", FUSE_IN, 13.0, 14.8, "all of it is there before the fuse"),
    Row("relay-open", SUPPLY_LOADED, -0.05, 0.35, "14.7 V through 360 ohm at least into a lamp of 8.3: 0.33 V"),
    Row("supply-open", SUPPLY_LOADED, -0.05, 0.35, "as with the relay"),
    Row("supply-high", SUPPLY_LOADED, 0.0, 13.2, "14.7 x 8.3 / (8.3 + 1.0) = 13.1 at most; 13.2 x 8.3 / 690 = 0.16 at least, less into other consumers"),
    Row(None, HIGH_SIDE_APART, -0.05, 0.5, "the module is apart: nothing feeds the wire", "high-side"),
    Row("wire-short-battery:heater_supply", HIGH_SIDE_APART, 13.0, 14.8, "battery through 1 ohm at most: no drop", "high-side"),
    Row(None, HIGH_SIDE_GROUND, 0.0, 0.7, "0.12 of wire and 0.02 of strap; leads up to 0.4", "high-side"),
    Row("wire-open:heater_control", HIGH_SIDE_GROUND, 350.0, OL, "thirty times a hot element of 12 ohm", "high-side"),
    Row("wire-open:heater_supply", FUSE_OUT, 13.0, 14.8, "the break lies behind"),
    Row("pin-open:heater_supply", SUPPLY_OPEN, 13.0, 14.8, "the loom side of the plug does not feel a spread terminal"),
    Row("pin-open:heater_supply", CONTROL_MATED, 0.0, 0.5, "the driver pulls it to ground; nothing comes through the element"),
    Row("pin-open:heater_control", CONTROL_MATED, -0.05, 0.5, "nothing comes through the element; the driver pulls the loom to ground"),
    Row("pin-open:heater_control", {**CONTROL_MATED, "red": "sensor.heater_control"}, 12.3, 14.8, "13.2 x 360 / (360 + 22) = 12.4 at least stand at the sensor's own pin"),
    Row("wire-open:heater_control", CONTROL_MATED, 12.3, 14.8, "hardly a current, so the supply stands at the far end of the element: 13.2 x 360 / 382"),
    Row("driver-open", CONTROL_MATED, 13.0, 14.8, "the same where the driver stays open"),
    Row("heater-open", CONTROL_MATED, 0.0, 0.4, "the driver pulls it to ground; nothing comes through the element"),
    Row("wire-short-ground:heater_control", CONTROL_MATED, 0.0, 8.3, "14.7 x 5 / (5 + 4) = 8.2 V at most with the driver open"),
    Row("wire-short-battery:heater_control", CONTROL_APART, 13.0, 14.8, "battery through 3 ohm at most, the module apart: no drop"),
    Row("driver-stuck-on", {**CONTROL_MATED, "key": "on"}, 0.02, 1.3,
        "12.6 / 4 x (0.25 driver + 0.12 wire + 0.02 ground) = 1.2 at most; a warm element draws a third of it"),
    Row("module-ground-high", CONTROL_MATED, 0.6, 14.4, "14 x 0.085 / 1.085 = 1.1, less where the element is hotter; 14.7 x 30 / 31 = 14.2 at most"),
)  # fmt: skip


# 12 V: charging 13.3 to 14.6; a wire 0.02 to 0.1 ohm; the unit's heater 2.5 to 6 ohm; each end of the bus 120 ohm.
NOX_SUPPLY = _volts("harness.supply", connector="unplugged")
NOX_LOADED = {**NOX_SUPPLY, "load": "lamp", "watts": 21}
NOX_WIRE = _ohms("fuse.out", "harness.supply")
NOX_GROUND = _ohms("harness.ground", "battery.negative")
BUS = _ohms("harness.can_high", "harness.can_low", battery="disconnected")
UNIT_AMPS = {
    "measure": "current",
    "at": "harness.supply",
    "key": "running",
    "connector": "mated",
    "at_s": 1800,
    "value": "1 A",
}
NOX_ROWS = (
    Row(None, NOX_SUPPLY, 13.2, 14.7, "13.3 to 14.6 V: no current, no drop", "NOx"),
    Row(None, NOX_SUPPLY, 26.4, 29.4, "twice that", "NOx 24 V"),
    Row("fuse-blown", NOX_SUPPLY, -0.05, 0.5, "nothing feeds it", "NOx"),
    Row("relay-open", NOX_LOADED, -0.05, 0.05, "14.6 V through 10 kohm into a lamp of 8 ohm at most: 12 mV", "NOx"),
    Row("supply-open", NOX_LOADED, -0.05, 0.05, "as with the relay", "NOx"),
    Row("supply-high", NOX_LOADED, 0.0, 14.3, "14.6 x 8.3 / (8.3 + 0.2) = 14.2 at most; 13.3 x 8.3 / 1800 = 0.06 at least", "NOx"),
    Row("wire-open:supply", NOX_WIRE, 9.9e3, OL, "10 kohm of damp to nothing at all", "NOx"),
    Row("wire-high:supply", NOX_WIRE, 0.2, 1810.0, "0.085 x 2.5 ohm takes 15 % of the heater's power; 300 x 6 at most", "NOx"),
    Row("wire-high:supply", NOX_WIRE, 0.8, 7210.0, "four times the ohms do the same harm on 24 V", "NOx 24 V"),
    Row("pin-open:supply", {**NOX_SUPPLY, "red": "sensor.supply", "connector": "mated"}, -0.05, 2.0, "14.6 x 1.5 / (1.5 + 10) = 1.9 V at most pass the pin into a unit at rest", "NOx"),
    Row("wire-short-ground:supply", _ohms("harness.supply", "battery.negative"), 0.0, 3.6, "0.05 to 3 ohm; leads up to 0.4", "NOx"),
    Row(None, NOX_GROUND, 0.0, 0.6, "0.1 of wire, 0.02 of strap; leads up to 0.4", "NOx"),
    Row("wire-open:ground", NOX_GROUND, 9.9e3, OL, "10 kohm of damp to nothing at all", "NOx"),
    Row("wire-high:ground", NOX_GROUND, 0.2, 1810.0, "as in the feed", "NOx"),
    Row("pin-open:ground", {**NOX_SUPPLY, "red": "sensor.ground", "connector": "mated"}, 12.5, 14.7, "the supply comes through the unit", "NOx"),
    Row(None, BUS, 58.0, 62.0, "120 beside 120 = 60", "NOx"),
    Row("terminator-lost", BUS, 115.0, 125.0, "one 120 left; what else hangs on the bus has kilohms", "NOx"),
    Row("can-lines-shorted", BUS, 0.0, 20.5, "0.05 to 30 ohm beside 60; leads up to 0.4", "NOx"),
    Row("wire-open:can_high", BUS, 9.9e3, OL, "10 kohm of damp to nothing at all", "NOx"),
    Row("wire-open:can_low", BUS, 9.9e3, OL, "10 kohm of damp to nothing at all", "NOx"),
    Row("wire-short-ground:can_high", _ohms("harness.can_high", "battery.negative", battery="disconnected"), 0.0, 30.6, "0.05 to 30 ohm; leads up to 0.4", "NOx"),
    Row("wire-short-ground:can_low", _ohms("harness.can_low", "battery.negative", battery="disconnected"), 0.0, 30.6, "the same", "NOx"),
    Row("wire-short-battery:can_high", _volts("harness.can_high", connector="unplugged"), 12.5, 14.7, "14 V behind 30 ohm, beside 60 of the bus and its bias", "NOx"),
    Row("wire-short-battery:can_low", _volts("harness.can_low", connector="unplugged"), 12.5, 14.7, "the same", "NOx"),
    Row("pin-open:can_high", _ohms("sensor.can_high", "sensor.can_low", connector="mated", battery="disconnected"), 1.9e4, 6e4, "the unit's own 25 to 50 kohm alone", "NOx"),
    Row("pin-open:can_low", _ohms("sensor.can_high", "sensor.can_low", connector="mated", battery="disconnected"), 1.9e4, 6e4, "the same", "NOx"),
    Row("unit-dead", UNIT_AMPS, -0.05, 0.05, "14.6 V over the dead unit's 100 kohm: nothing to speak of", "NOx"),
    Row("probe-heater", UNIT_AMPS, -0.05, 0.2, "14.6 / 150 = 0.1 A for the unit itself at most", "NOx"),
)  # fmt: skip
#: Faults of a NOx sensor that no meter sees: they change its values only.
VALUES_ONLY = {
    "probe-cell",
    "probe-drift",
    "probe-nonsense",
    "probe-crystals",
    "ammonia-slip",
    "dosing-low",
    "scr-worn",
}


def _model(wired: Case, listed: list[tuple[str, ...]]) -> CircuitModel:
    job = job_of(wired)
    if job.family.cell == "nox":
        return NoxModel(known_of(job), ModelRequest(listed, traits()))
    return HeaterModel(known_of(job), ModelRequest(listed, traits()))


class ByHand(TestCase):
    """Heater loops switched on either side, and NOx sensors on 12 and 24 V."""

    def test_every_fault_shows_what_the_sum_beside_it_gives(self) -> None:
        for row in (*HEATER, *NOX_ROWS):
            with self.subTest(row.fault or "sound", at=row.probe.get("red"), circuit=row.circuit, sum=row.sum):
                listed: list[tuple[str, ...]] = [(), (row.fault,)] if row.fault else [()]
                model = _model(CIRCUITS[row.circuit], listed)
                displays: Any = model.displays(probe(**row.probe))
                shown = np.broadcast_to(displays["value"].shown, (len(listed), model.draws))[-1]
                within = model.draw_weight[(shown >= row.low) & (shown <= row.high)].sum() / model.draw_weight.sum()
                self.assertGreater(within, WITHIN, f"shows {np.quantile(shown, [0.05, 0.5, 0.95])}")

    def test_every_fault_that_a_meter_sees_stands_in_the_table(self) -> None:
        for loop, rows, others in (("heater", HEATER, set[str]()), ("nox", NOX_ROWS, VALUES_ONLY)):
            listed = {name for name, fault in faults().items() if loop in fault.loop.split()}
            self.assertEqual(listed - {row.fault for row in rows}, others)
