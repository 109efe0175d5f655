"""What faults of a cell's wires show, in every family that has them, against sums worked out by hand.

As in ``test_physics_by_hand``: the values the sums start from stand in the rows, none comes from the engine.
"""

from functools import cache
from typing import Any, NamedTuple
from unittest import TestCase

import numpy as np

from dianoia.case.job import job_of
from dianoia.circuit.cells.cell import terminals_of
from dianoia.circuit.draws import Sampling
from dianoia.circuit.known import KnownValues, known_of
from dianoia.diagnosis.faults.hypotheses import concerns, traits
from dianoia.diagnosis.faults.tables import faults
from dianoia.families.tables import families
from dianoia.readings.circuit_model import ModelRequest
from dianoia.readings.nox_model import NoxModel
from dianoia.readings.signal_model import SignalModel
from tests.cases import case, probe

OL = float("inf")
#: Share of all draws that must lie within the sum: tails beyond every tolerance are the rest.
WITHIN = 0.85
#: Faults that no meter sees in one reading: they change how the signal moves, or which engine it is told of.
MOVEMENT = {"cell-slow", "cell-biased-lean", "cell-biased-rich", "cell-contaminated", "cell-nonsense", "module-input-dead", "swapped-connectors",
            "swapped-connectors:nernst", "exhaust-leak", "engine-lean", "engine-rich", "catalyst-worn"}  # fmt: skip


class Wire(NamedTuple):
    """A fault of any wire of the cell. red, black: with ``{}`` for its terminal; low, high: by kind of cell where they differ."""

    fault: str
    probe: dict[str, Any]
    low: float | dict[str, float]
    high: float | dict[str, float]
    sum: str


def _along(red: str, black: str, **state: Any) -> dict[str, Any]:
    return {"measure": "resistance", "red": red, "black": black, "key": "off", "connector": "unplugged", "value": "1",
            "module_connector": "unplugged", "battery": "disconnected", **state}  # fmt: skip


WIRE = _along("module.{}", "harness.{}")
TO_GROUND = _along("harness.{}", "battery.negative")
AT_PLUG = {"measure": "voltage", "red": "harness.{}", "black": "battery.negative", "key": "running", "connector": "unplugged",
           "module_connector": "unplugged", "value": "1"}  # fmt: skip
PIN = _along("harness.{}", "sensor.{}", connector="mated")
WIRES = (
    Wire("", WIRE, 0.0, 0.9, "two halves of 0.01 to 0.15 ohm, leads up to 0.5"),
    Wire("wire-open", WIRE, 2.5e7, OL, "a break of 30 Mohm and more"),
    Wire("wire-high", WIRE, {"zirconia": 1.9e5, "": 290.0}, {"zirconia": 2.1e7, "": 3.1e4},
         "a switching cell's wire needs 0.2 to 20 Mohm to matter; a current cell's or a titania's 300 ohm to 30 kohm"),
    Wire("pin-open", PIN, 2.5e7, OL, "a pin that does not touch"),
    Wire("wire-short-ground", TO_GROUND, 0.0, 21.0, "0.05 to 20 ohm, leads up to 0.5"),
    Wire("wire-short-battery", AT_PLUG, 12.2, 14.6, "12.4 to 14.4 V behind 20 ohm into 10 Mohm"),
)  # fmt: skip


class Row(NamedTuple):
    """A reading at one family. known: of the sensor; low, high: in the base unit."""

    family: str
    fault: str
    probe: dict[str, Any]
    low: float
    high: float
    sum: str


def _scan(pid: str, stimulus: str) -> dict[str, Any]:
    return {"measure": "scan", "pid": pid, "key": "running", "with": stimulus, "value": "1"}


KEY_ON_LEAN = {"measure": "scan", "pid": "sensor_voltage", "key": "on", "connector": "unplugged", "value": "1"}
VOLTS_RICH, VOLTS_LEAN = _scan("sensor_voltage", "rich"), _scan("sensor_voltage", "lean")
AMPS_RICH, AMPS_LEAN = _scan("cell_current", "rich"), _scan("cell_current", "lean")
PLUG_APART = {
    "measure": "voltage",
    "red": "harness.{}",
    "black": "{low}",
    "key": "on",
    "connector": "unplugged",
    "value": "1",
}
SHELL = _along("sensor.shell", "battery.negative")
ROWS = (
    # a switching cell: 0.74 to 0.95 V rich, 0.03 to 0.2 V lean, behind 0.3 to 8 kohm; bias 0.45 V behind 0.1 to 1 Mohm; input
    # 1.5 to 10 Mohm
    *(Row(family, "", VOLTS_RICH, 0.73, 1.08, "it settles at 0.74 to 0.95 V; a tool reads up to 0.12 V more")
      for family in ("switching-1w", "switching-2w", "switching-3w", "switching-4w")),
    *(Row(family, "", VOLTS_LEAN, 0.0, 0.33, "0.03 to 0.2 V; a tool reads up to 0.12 V more")
      for family in ("switching-1w", "switching-2w", "switching-3w", "switching-4w")),
    *(Row(family, "cell-open", VOLTS_RICH, 0.25, 0.6, "the bias alone: 0.45 * 1.5 / (1.5 + 1) = 0.27 at least, 0.47 and 0.12 of the tool at most")
      for family in ("switching-1w", "switching-2w", "switching-3w", "switching-4w")),
    *(Row(family, "cell-shorted", VOLTS_RICH, -0.01, 0.4, "300 ohm across 300 ohm halves 0.6 V; mostly far less; the tool") for family in
      ("switching-1w", "switching-2w", "switching-3w", "switching-4w")),
    *(Row(family, "bias-missing", PLUG_APART, -0.02, 0.02, "nothing pulls the open wire up") for family in
      ("switching-1w", "switching-2w", "switching-3w", "switching-4w")),
    *(Row(family, "", PLUG_APART, 0.23, 0.48, "0.45 * 1.3 / (1.3 + 1) = 0.25: the input beside the meter against the source")
      for family in ("switching-1w", "switching-2w", "switching-3w", "switching-4w")),
    Row("switching-1w", "shell-ground-high", SHELL, 1.9e4, OL, "20 kohm and more of rust"),
    Row("switching-3w", "shell-ground-high", SHELL, 1.9e4, OL, "20 kohm and more of rust"),
    Row("switching-1w", "", SHELL, 0.0, 1.2, "0.02 to 0.5 ohm of thread, leads up to 0.5"),
    *(Row(family, "signal-short-heater", KEY_ON_LEAN, 0.2, 14.6, "the heater is not driven: 13 * 0.3 / 20.3 = 0.2 V at least, all of the battery at most")
      for family in ("switching-3w", "switching-4w")),
    Row("wideband-5w", "signal-short-heater:nernst", {"measure": "voltage", "red": "harness.nernst", "black": "battery.negative", "key": "on", "connector": "unplugged"}, 2.0, 14.6,
        "its own 2.7 V where the heater's wire floats, less what the input draws; else up to all of the battery"),
    Row("titania-4w", "signal-short-heater", KEY_ON_LEAN, 0.1, 14.6, "13 V over 20 kohm into 0.3 kohm = 0.19 V at least"),
    Row("switching-4w", "cell-heater-leak", VOLTS_LEAN, 0.05, 14.6, "0.03 + 13 * 0.3 / 200 = 0.05 V at least, all of the battery at most"),
    *(Row(family, f"wire-short-pair:{low}", _along(f"harness.{high}", f"harness.{low}"), 0.0, 21.0, "0.05 to 20 ohm, leads up to 0.5")
      for family, high, low in (("switching-4w", "signal", "signal_return"), ("titania-4w", "signal", "signal_return"),
                                ("airfuel-4w", "cell_positive", "cell_negative"), ("wideband-5w", "nernst", "virtual_ground"))),
    *(Row("switching-4w", fault, _along(f"{side}.signal", f"{side}.heater_supply"), low, high, why) for fault, side, low, high, why in (
        ("", "sensor", 5e8, OL, "nothing joins the loops"), ("", "harness", 5e8, OL, "with both ends apart neither in the loom"),
        ("cell-heater-leak", "sensor", 49.0, 2.1e5, "50 ohm to 200 kohm of cracked insulation"),
        ("cell-heater-leak", "harness", 5e8, OL, "the loom is free of it with the plug apart"))),
    # titania: 0.3 to 3 kohm rich, 50 to 500 kohm lean, pulled up to 1 or 5 V by 5 to 60 kohm
    Row("titania-4w", "", VOLTS_RICH, 0.0, 2.1, "5 * 3 / 8 = 1.9 V at most, and 7 % of the time lean"),
    Row("titania-4w", "", VOLTS_LEAN, 0.35, 5.0, "1 * 50 / 110 = 0.45 V at least, 7 % of the time rich"),
    Row("titania-4w", "cell-open", VOLTS_RICH, 0.9, 5.2, "the pull-up itself"),
    Row("titania-4w", "cell-shorted", VOLTS_RICH, -0.01, 0.3, "5 * 0.3 / 5.3 = 0.28 V at most"),
    Row("titania-4w", "bias-missing", PLUG_APART, -0.02, 0.02, "no pull-up"),
    # a limiting-current cell of 200 to 400 ohm, its two wires held 0.27 to 0.42 V apart by 20 to 60 ohm
    Row("airfuel-4w", "", AMPS_LEAN, 3e-5, 1.3e-3, "0.02 / 480 = 0.04 mA to 0.3 / 240 = 1.25 mA, lean forwards"),
    Row("airfuel-4w", "", AMPS_RICH, -1.3e-3, -3e-5, "the same backwards"),
    Row("airfuel-4w", "cell-open", AMPS_LEAN, -5e-6, 5e-6, "nothing flows"),
    Row("airfuel-4w", "cell-shorted", AMPS_LEAN, 6e-4, 1.1e-2, "0.27 / 380 = 0.7 mA to 0.42 / 41 = 10 mA"),
    Row("airfuel-4w", "bias-missing", {**PLUG_APART, "black": "battery.negative"}, -0.1, 3.3, "at most the other wire's, never its own"),
    *(Row(family, fault, {**PLUG_APART, "red": "harness.nernst", "black": "harness.virtual_ground"}, low, high, why)
      for family in ("wideband-5w", "wideband-6w") for fault, low, high, why in (
          ("", 0.1, 0.46, "0.45 V, less up to 2.9 V * 0.2 / 1.7 = 0.34 that the input draws to ground through the source"),
          ("bias-missing", -0.35, 0.46, "what the input draws alone; where another of its sources is lost, as ever"))),
    # two cells: 0.02 to 0.25 V of pump drive over 120 + 45 ohm
    *(Row(family, fault, stimulus, low, high, why) for family in ("wideband-5w", "wideband-6w") for fault, stimulus, low, high, why in (
        ("", AMPS_LEAN, 8e-5, 1.7e-3, "0.02 / 165 = 0.12 mA less 7 % rich, to 0.25 / 150 = 1.7 mA"),
        ("", AMPS_RICH, -1.7e-3, -8e-5, "the same backwards"),
        ("wire-open:nernst", AMPS_LEAN, -1e-6, 1e-6, "a module that does not see its sensing cell lets the pump go"),
        ("wire-open:pump", AMPS_LEAN, -1e-6, 1e-6, "nothing flows"),
        ("cell-open", AMPS_LEAN, -1e-6, 1e-6, "as with the sensing cell's wire open"),
    )),
)  # fmt: skip


@cache
def _model(family: str) -> SignalModel:
    """The healthy cell of a family, and each of its signal faults."""
    sensor: dict[str, Any] = {"family": family, "bank": 1, "position": 1}
    if families()[family].cell == "zirconia":
        sensor["bias_v"] = 0.45
    job = job_of(case(code="P0130", sensor=sensor, vehicle={"label": "Bus 4"}))
    own = [row for row in faults().values() if concerns(row, "signal", families()[family])]
    return SignalModel(known_of(job), ModelRequest([(), *((row.id,) for row in own)], traits()), Sampling(160))


def _placed(at: dict[str, Any], terminal: str, low: str | None) -> dict[str, Any]:
    ground = f"harness.{low}" if low else "module.power_ground"
    return {
        name: value.replace("{low}", ground).replace("{}", terminal) if isinstance(value, str) else value
        for name, value in at.items()
    }


class ByHand(TestCase):
    """The cell's own circuit."""

    def shows(self, family: str, fault: str, at: dict[str, Any], low: float, high: float, why: str) -> None:
        with self.subTest(fault or "healthy", family=family, at=at.get("red", at.get("pid")), sum=why):
            model = _model(family)
            row = list(model.hypotheses).index((fault,) if fault else ())
            figure: Any = next(iter((model.displays(probe(**at)) or {}).values()))
            shown = np.broadcast_to(figure.shown, (len(model.hypotheses), model.draws))[row]
            within = model.draw_weight[(shown >= low) & (shown <= high)].sum() / model.draw_weight.sum()
            self.assertGreater(within, WITHIN, f"shows {np.quantile(shown, [0.05, 0.5, 0.95])}")

    def test_every_wire_of_every_family(self) -> None:
        seen = set()
        for family, row in families().items():
            if row.cell == "nox":
                continue
            for terminal in (name for name in row.terminals if not name.startswith("heater")):
                for wire in WIRES:
                    fault = f"{wire.fault}:{terminal}" if wire.fault else ""
                    if fault and fault not in faults():
                        continue
                    seen.add(fault)
                    low, high = (
                        end.get(row.cell, end[""]) if isinstance(end, dict) else end for end in (wire.low, wire.high)
                    )
                    self.shows(family, fault, _placed(wire.probe, terminal, None), low, high, wire.sum)
        listed = {name for name, fault in faults().items() if fault.loop == "signal"}
        self.assertEqual(listed - seen - MOVEMENT - {row.fault for row in ROWS}, set())

    def test_every_row(self) -> None:
        for row in ROWS:
            positive, negative = terminals_of(families()[row.family].terminals)
            at = _placed(row.probe, positive, negative) if "{}" in str(row.probe) else row.probe
            self.shows(row.family, row.fault, at, row.low, row.high, row.sum)


class Moving(NamedTuple):
    """A figure that follows from how a signal or the gas behaves. low, high: its ends over all vehicles; near: how near some of
    them come, as a share of the range. It is less where several unknowns would have to be at their ends at once.
    """

    model: str
    fault: str
    probe: dict[str, Any]
    figure: str
    low: float
    high: float
    sum: str
    near: float = 0.035


RECORDED = {"measure": "trace", "signal": "sensor_voltage", "key": "running", "sensor_c": "hot", "value": {"max": "1"}}
TRIM = {"measure": "scan", "pid": "long_trim", "key": "running", "sensor_c": "hot", "value": "1"}
SHORT = {**TRIM, "pid": "short_trim"}
NOX = {"measure": "scan", "pid": "nox", "key": "running", "at_s": 900, "value": "1"}
O2 = {**NOX, "pid": "o2"}
CAN = {
    "measure": "scope",
    "red": "harness.can_high",
    "black": "battery.negative",
    "key": "on",
    "connector": "mated",
    "value": {"high": "1 V"},
}
MOVES = (
    Moving("front", "", RECORDED, "rise_s", 0.03, 0.09, "a lively cell crosses in 30 to 90 ms"),
    Moving("front", "cell-contaminated", RECORDED, "rise_s", 0.1, 0.5, "a coated one in a tenth of a second and more"),
    Moving("front", "cell-slow", RECORDED, "fall_s", 0.03, 1.6, "a lazy one up to 1.6 s, some of them one way only"),
    Moving("front", "", RECORDED, "delay_s", 0.11, 0.58, "gas on its way 0.05 to 0.4 s, then two edges of 0.03 to 0.09", 0.22),
    Moving("front", "", RECORDED, "first_activity_s", 8.0, 55.0, "heated, within 8 to 55 s"),
    Moving("front", "cell-slow", RECORDED, "first_activity_s", 15.0, 180.0, "lazy, 15 s to three minutes"),
    Moving("front", "@heater-dead", RECORDED, "first_activity_s", 80.0, 380.0, "by the exhaust alone, 80 to 380 s"),
    Moving("front", "", RECORDED, "switches_per_min", 35.0, 150.0, "a half-wave of 0.4 to 1.7 s at idle"),
    Moving("front", "", {**RECORDED, "rpm": 2500}, "switches_per_min", 70.0, 300.0, "the way is shorter at speed"),
    Moving("front", "cell-slow", RECORDED, "switches_per_min", 9.2, 150.0, "60 / (60 / 35 + 3 * 1.6) at the slowest, sound where an edge is hardly slow", 0.3),
    Moving("front", "engine-rich", RECORDED, "switches_per_min", 0.0, 150.0, "as ever where the trims make up for it, else hardly at all"),
    Moving("behind", "", RECORDED, "switches_per_min", 0.0, 40.0, "a good catalyst lets it wander up to six times, and a strong swing pass now and then", 0.2),
    Moving("behind", "catalyst-worn", RECORDED, "switches_per_min", 25.0, 85.0, "a worn one lets it follow the front sensor"),
    Moving("front", "", TRIM, "value", -0.08, 0.08, "eight per cent either way"),
    Moving("front", "", SHORT, "value", -0.08, 0.08, "what has not been learnt, and 3 % of wandering", 0.25),
    Moving("front", "engine-lean", TRIM, "value", 0.0, 0.4, "what of it has been learnt, up to the module's end"),
    Moving("front", "engine-lean", SHORT, "value", -0.03, 0.28, "what has not been, up to 25 %"),
    Moving("front", "exhaust-leak", {**TRIM, "rpm": 2500}, "value", 0.0, 0.16, "a quarter of it at speed: of 65 % where it is past the trims", 0.1),
    Moving("front", "wire-short-ground:signal", TRIM, "value", -0.08, 0.4, "0 V reads lean: to the end, or the loop is given up"),
    Moving("front", "engine-rich", TRIM, "value", -0.4, 0.0, "the other way"),
    Moving("front", "wire-short-battery:signal", TRIM, "value", -0.4, 0.08, "battery reads rich: to the other end, or the loop is given up"),
    Moving("front", "swapped-connectors", TRIM, "value", -0.4, 0.4, "each bank follows the other's sensor, to opposite ends"),
    Moving("behind", "exhaust-leak", TRIM, "value", -0.08, 0.08, "the rear sensor does not trim the engine"),
    Moving("NOx in front", "", CAN, "high", 3.4, 3.7, "2.5 V and half of what 3 to 4 V behind 40 ohm put across 60: 0.9 to 1.2 V", 0.3),
    Moving("NOx in front", "", {**CAN, "red": "harness.can_low"}, "low", 1.3, 1.6, "as much below 2.5 V", 0.3),
    Moving("NOx in front", "wire-short-ground:can_low", {**CAN, "red": "harness.can_low"}, "high", 0.0, 0.25, "30 ohm at most to ground against some kilohms and 100 ohm of drive", 1.0),
    Moving("NOx in front", "", NOX, "value", 120.0, 900.0, "what the engine makes"),
    Moving("NOx in front", "probe-crystals", NOX, "value", 24.0, 180.0, "a fifth of it reaches the cell"),
    Moving("NOx in front", "probe-drift", NOX, "value", 55.0, 2330.0, "120 / 2.2 to 2.2 * 900 + 350", 0.3),
    Moving("NOx in front", "", {**NOX, "with": "fresh-air"}, "value", 0.0, 6.0, "no NOx in air"),
    Moving("NOx in front", "probe-drift", {**NOX, "with": "fresh-air"}, "value", 0.0, 350.0, "its offset alone, where it has one"),
    Moving("NOx in front", "", O2, "value", 5.0, 16.0, "diesel exhaust holds 5 to 16 % oxygen"),
    Moving("NOx in front", "", {**O2, "with": "fresh-air"}, "value", 20.4, 21.3, "air holds 20.9 %"),
    Moving("NOx in front", "probe-drift", O2, "value", 2.5, 24.0, "half to one and a half times: 0.5 * 5 to 1.5 * 16", 0.22),
    Moving("NOx behind", "", NOX, "value", 5.0, 55.0, "what a working SCR leaves"),
    Moving("NOx behind", "scr-worn", NOX, "value", 60.0, 450.0, "half of what the engine makes"),
    Moving("NOx behind", "dosing-low", NOX, "value", 60.0, 450.0, "the same"),
    Moving("NOx behind", "ammonia-slip", NOX, "value", 70.0, 420.0, "ammonia reads as NOx"),
    Moving("NOx behind", "probe-drift", NOX, "value", 2.3, 470.0, "5 / 2.2 to 2.2 * 55 + 350", 0.3),
    Moving("NOx behind", "", {**NOX, "with": "dosing-off"}, "value", 30.0, 810.0, "a quarter to nine tenths of what the engine makes", 0.22),
    Moving("NOx behind", "scr-worn", {**NOX, "with": "dosing-off"}, "value", 108.0, 810.0, "nine tenths of it"),
    Moving("NOx behind", "", {**NOX, "with": "dosing-on"}, "value", 10.0, 70.0, "nearly all is gone"),
    Moving("NOx behind", "scr-worn", {**NOX, "with": "dosing-on"}, "value", 122.0, 715.0, "0.35 * 120 + 80 to 0.35 * 900 + 400: it slips past", 0.22),
    Moving("NOx behind", "ammonia-slip", {**NOX, "with": "dosing-on"}, "value", 80.0, 560.0, "more slips"),
    Moving("NOx behind", "dosing-low", {**NOX, "with": "dosing-on"}, "value", 18.0, 540.0, "0.15 to 0.6 of what the engine makes", 0.22),
)  # fmt: skip


@cache
def _moving(name: str) -> SignalModel | NoxModel:
    """Every fault of a front or rear cell, or of a NOx sensor before or behind the SCR."""
    place = 2 if name.endswith("behind") else 1
    if name.startswith("NOx"):
        own = [
            row.id for row in faults().values() if row.loop == "nox" and (not row.positions or place in row.positions)
        ]
        return NoxModel(
            KnownValues("nox-can-4w", place), ModelRequest([(), *((item,) for item in own)], traits()), Sampling(160)
        )
    own = [
        row.id
        for row in faults().values()
        if row.loop == "signal" and row.id.partition(":")[2] in ("", "signal", "signal_return")
    ]
    asked = ModelRequest([(), ("@heater-dead",), *((item,) for item in own)], traits())
    return SignalModel(KnownValues("switching-4w", place, bias_v=0.45), asked, Sampling(160))


class Movement(TestCase):
    """How a signal moves, what trims follow, what a NOx sensor reads."""

    def test_the_ends_of_every_figure(self) -> None:
        for row in MOVES:
            with self.subTest(row.fault or "healthy", model=row.model, figure=row.figure, sum=row.sum):
                model = _moving(row.model)
                figure: Any = (model.displays(probe(**row.probe)) or {})[row.figure]
                place = list(model.hypotheses).index((row.fault,) if row.fault else ())
                shown = np.broadcast_to(figure.shown, (len(model.hypotheses), model.draws))[place]
                shown = shown[~np.isnan(shown)]
                self.assertGreater(shown.size, 40)
                near = row.near * (row.high - row.low)
                self.assertAlmostEqual(float(shown.min()), row.low, delta=near)
                self.assertAlmostEqual(float(shown.max()), row.high, delta=near)

    def test_a_loop_closes_unless_nothing_is_heard(self) -> None:
        """Where only one side is heard, four modules in ten give it up: 0.6 * 0.95 + 0.4 * 0.2."""
        closed = {"measure": "scan", "pid": "loop", "key": "running", "value": "closed"}
        for name, fault, chance in (("front", "", 0.95), ("front", "cell-open", 0.2), ("front", "@heater-dead", 0.2), ("front", "cell-slow", 0.95),
                                    ("front", "pin-open:signal", 0.2), ("front", "wire-short-ground:signal", 0.65), ("behind", "cell-open", 0.93)):  # fmt: skip
            model = _moving(name)
            shown: Any = (model.displays(probe(**closed)) or {})["value"]
            mean = np.average(shown.chance["closed"][_row(model, fault)], weights=model.draw_weight)
            self.assertAlmostEqual(mean, chance, delta=0.07, msg=f"{name} {fault}")

    def test_the_loop_goes_by_what_the_module_hears_and_the_meter_shows_what_the_cell_makes_of_it(self) -> None:
        """A front cell's own volts behind a wire fault: at 0 V heard the mixture is driven rich, at battery heard lean, behind an
        open wire it stands at either side.
        """
        own = {
            "measure": "voltage",
            "red": "harness.signal",
            "black": "harness.signal_return",
            "key": "running",
            "connector": "mated",
            "value": "1",
        }
        for fault, low, high in (
            ("", 0.3, 0.7),
            ("wire-short-battery:signal_return", 0.0, 0.45),
            ("module-input-dead", 0.0, 1.0),
        ):
            shown: Any = _moving("front").displays(probe(**own)) or {}
            ends = [
                np.broadcast_to(shown[end].shown, (len(_moving("front").hypotheses), 160))[
                    _row(_moving("front"), fault)
                ]
                for end in ("min", "max")
            ]
            swing = np.median(ends[1] - ends[0])
            middle = np.median((ends[0] + ends[1]) / 2)
            self.assertTrue(low <= middle <= high, f"{fault} {middle}")
            self.assertEqual(swing > 0.5, not fault, f"{fault} {swing}")

    def test_both_trims_together_say_how_far_the_mixture_is_off(self) -> None:
        model = _moving("front")
        long, short = (
            np.broadcast_to((model.displays(probe(**item)) or {})["value"].shown, (len(model.hypotheses), model.draws))  # type: ignore[union-attr]
            for item in (TRIM, SHORT)
        )
        for fault, low, high in (
            ("", -0.11, 0.11),
            ("engine-lean", 0.05, 0.68),
            ("exhaust-leak", 0.0, 0.68),
            ("cell-biased-rich", -0.65, 0.1),
        ):
            total = (long + short)[_row(model, fault)]
            self.assertTrue(
                ((total >= low) & (total <= high)).mean() > 0.8, f"{fault} {np.quantile(total, [0, 0.1, 0.9, 1])}"
            )


def _row(model: SignalModel | NoxModel, fault: str) -> int:
    return list(model.hypotheses).index((fault,) if fault else ())


OWN_VOLTS = {
    "measure": "voltage", "red": "harness.signal", "black": "battery.negative", "key": "running", "connector": "mated", "value": "1",
}  # fmt: skip


class Heat(TestCase):
    """What a cell shows that its heater does not heat, or only the exhaust of an engine at idle."""

    def test_a_half_warm_cell_hardly_moves_the_bias(self) -> None:
        """A rich cell of 0.74 V behind 3 Mohm on a bias of 0.45 V behind 100 kohm and an input of 1.5 Mohm. Currents into the node
        sum to (0.74 / 3 + 0.45 / 0.1) / (1 / 3 + 1 / 0.1 + 1 / 1.5) = 0.43 V. With 0.95 V behind 1 kohm all of it arrives. Behind
        1 Mohm of bias and the same input an open cell leaves 0.45 * 1.5 / 2.5 = 0.27 V, and none shows less.
        """
        model = SignalModel(
            KnownValues("switching-1w", 1, bias_v=0.45), ModelRequest([(), ("cell-open",)], traits()), Sampling(400)
        )
        for state, least, squeezed in (({}, 0.27, (0.15, 0.6)), ({"with": "rich"}, 0.7, (0.0, 0.01))):
            setting = probe(**{**OWN_VOLTS, **state}).setting
            volts: Any = model.input_volts(setting)
            rich = np.broadcast_to(volts["rich"], (2, model.draws))[0, model.loop.hot(setting) > 0]
            self.assertTrue(least - 0.03 < rich.min() and rich.max() < 1.05, f"{state} {rich.min()} {rich.max()}")
            self.assertTrue(squeezed[0] <= (rich < 0.7).mean() <= squeezed[1], f"{state} {(rich < 0.7).mean()}")

    def test_a_lead_on_the_control_wire_heats_a_cell_that_the_module_does_not(self) -> None:
        """A cell behind a dead element stays cold all the same."""
        grounded = {**OWN_VOLTS, "with": ["control-grounded", "rich"]}
        marks = [(), ("@heater-dead:bypassed",), ("@heater-dead",)]
        model = SignalModel(
            KnownValues("switching-4w", 1, bias_v=0.45), ModelRequest([*marks, ("cell-open",)], traits()), Sampling(200)
        )
        for asked, warm in ((grounded, (True, True, False)), ({**OWN_VOLTS, "with": "rich"}, (True, False, False))):
            shown: Any = (model.displays(probe(**asked)) or {})["value"]
            volts = np.broadcast_to(shown.shown, (4, model.draws))[:3]
            cold = (np.abs(volts - 0.45) < 0.05).mean(axis=1) > 0.25  # half of the cells without heat stay cold
            self.assertEqual(tuple(~cold), warm, asked)

    def test_what_touches_the_heater_s_feed_is_pulled_only_while_the_feed_is_live(self) -> None:
        """0.45 V of bias behind 100 kohm and 12.4 V behind at most 20 kohm: (0.45 / 100 + 12.4 / 20) / (1 / 100 + 1 / 20 + 1 / 1500)
        = 10.3 V at least. A feed that is dead leaves the bias, 0.45 * 1.3 / 2.3 = 0.25 V at least; that of a high side that is not driven
        floats with the plug apart.
        """
        apart = {**OWN_VOLTS, "connector": "unplugged"}
        for switch, live, key, low, high in (
            ("low-side", "key-on", "on", 10.0, 15.5),
            ("low-side", "running", "on", 0.2, 0.5),
            ("low-side", "running", "running", 10.0, 15.5),
            ("low-side", "key-on", "off", -0.05, 0.05),
            ("high-side", "always", "on", 0.2, 0.5),
        ):
            known = KnownValues("switching-4w", 1, bias_v=0.45, heater_switch=switch, feed_live=live)  # type: ignore[arg-type]
            model = SignalModel(known, ModelRequest([(), ("signal-short-heater",)], traits()), Sampling(200))
            shown: Any = next(iter((model.displays(probe(**{**apart, "key": key})) or {}).values()))
            volts = np.broadcast_to(shown.shown, (2, model.draws))[1, model.loop.to_feed]
            self.assertTrue(
                ((volts > low) & (volts < high)).mean() > 0.9,
                f"{switch} {live} {key} {np.quantile(volts, [0, 0.5, 1])}",
            )
