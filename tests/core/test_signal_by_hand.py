"""What faults of a cell's wires show, in every family that has them, against sums worked out by hand.

As in ``test_physics_by_hand``: the values the sums start from stand in the rows, none comes from the engine.
"""

from functools import cache
from typing import Any, NamedTuple
from unittest import TestCase

import numpy as np

from dianoia.case.job import job_of
from dianoia.circuit.draws import Sampling
from dianoia.circuit.known import known_of
from dianoia.circuit.signal import terminals_of
from dianoia.diagnosis.faults.hypotheses import traits
from dianoia.diagnosis.faults.tables import faults
from dianoia.families.tables import families
from dianoia.readings.circuit_model import Asked
from dianoia.readings.signal_model import SignalModel
from tests.cases import case, probe

OL = float("inf")
#: Share of all draws that must lie within the sum: tails beyond every tolerance are the rest.
WITHIN = 0.85
#: Faults that no meter sees in one reading: they change how the signal moves, or which engine it is told of.
MOVEMENT = {"cell-slow", "cell-biased-lean", "cell-biased-rich", "cell-contaminated", "module-input-dead", "swapped-connectors",
            "exhaust-leak", "engine-lean", "engine-rich", "catalyst-worn"}  # fmt: skip


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
    Wire("wire-high", WIRE, {"zirconia": 1.9e5, "": 290.0}, {"zirconia": 3.1e6, "": 3.1e4},
         "a switching cell's wire needs 0.2 to 3 Mohm to matter; a current cell's or a titania's 300 ohm to 30 kohm"),
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
    *(Row(family, "", VOLTS_RICH, 0.67, 0.97, "0.95 V at most; 7 % of the time lean: 0.93 * 0.74 + 0.07 * 0.03 = 0.69")
      for family in ("switching-1w", "switching-2w", "switching-3w", "switching-4w")),
    *(Row(family, "", VOLTS_LEAN, 0.0, 0.27, "0.03 V at least; 7 % of the time rich: 0.93 * 0.2 + 0.07 * 0.95 = 0.25")
      for family in ("switching-1w", "switching-2w", "switching-3w", "switching-4w")),
    *(Row(family, "cell-open", VOLTS_RICH, 0.25, 0.48, "the bias alone: 0.45 * 1.5 / (1.5 + 1) = 0.27 at least, 0.47 at most")
      for family in ("switching-1w", "switching-2w", "switching-3w", "switching-4w")),
    *(Row(family, "cell-shorted", VOLTS_RICH, -0.01, 0.3, "300 ohm across 300 ohm halves 0.6 V; mostly far less") for family in
      ("switching-1w", "switching-2w", "switching-3w", "switching-4w")),
    *(Row(family, "bias-missing", PLUG_APART, -0.02, 0.02, "nothing pulls the open wire up") for family in
      ("switching-1w", "switching-2w", "switching-3w", "switching-4w")),
    *(Row(family, "", PLUG_APART, 0.23, 0.48, "0.45 * 1.3 / (1.3 + 1) = 0.25: the input beside the meter against the source")
      for family in ("switching-1w", "switching-2w", "switching-3w", "switching-4w")),
    Row("switching-1w", "shell-ground-high", SHELL, 1.9e4, OL, "20 kohm and more of rust"),
    Row("switching-3w", "shell-ground-high", SHELL, 1.9e4, OL, "20 kohm and more of rust"),
    Row("switching-1w", "", SHELL, 0.0, 1.2, "0.02 to 0.5 ohm of thread, leads up to 0.5"),
    Row("switching-4w", "signal-short-heater", VOLTS_LEAN, 0.2, 13.5, "0.1 + 13 * 0.3 / 20.3 = 0.29 V at least; a healthy cell 0.25"),
    Row("switching-3w", "signal-short-heater", VOLTS_LEAN, 0.2, 13.5, "the same"),
    Row("titania-4w", "signal-short-heater", VOLTS_RICH, 0.1, 13.5, "13 V over 20 kohm into 0.3 kohm = 0.19 V at least"),
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
    terminals = families()[family].terminals
    own = [row for row in faults().values() if row.loop == "signal" and row.id.partition(":")[2] in ("", *terminals)]
    return SignalModel(known_of(job), Asked([(), *((row.id,) for row in own)], traits()), Sampling(160))


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
            positive, negative = terminals_of(families()[row.family])
            at = _placed(row.probe, positive, negative) if "{}" in str(row.probe) else row.probe
            self.shows(row.family, row.fault, at, row.low, row.high, row.sum)
