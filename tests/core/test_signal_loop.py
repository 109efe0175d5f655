"""What the signal loop and the NOx sensor show under their faults, family by family."""

from typing import Any
from unittest import TestCase

import numpy as np

from dianoia.case.job import job_of
from dianoia.circuit.draws import Sampling
from dianoia.circuit.known import known_of
from dianoia.circuit.network import Array
from dianoia.circuit.signal import COLD_HEATER
from dianoia.diagnosis.faults.hypotheses import traits
from dianoia.readings.circuit_model import ModelRequest
from dianoia.readings.display import Categorical
from dianoia.readings.model import Hypothesis
from dianoia.readings.nox_model import NoxModel
from dianoia.readings.outcomes import Display
from dianoia.readings.signal_model import SignalModel
from tests.cases import case
from tests.cases import probe as measured

SCAN = {"measure": "scan", "key": "running", "value": "0.4"}
VOLTS = {**SCAN, "pid": "sensor_voltage"}
CURRENT = {**SCAN, "pid": "cell_current", "value": "0.1 mA"}
PLUG = {
    "measure": "voltage",
    "red": "harness.signal",
    "black": "harness.signal_return",
    "key": "on",
    "connector": "unplugged",
    "value": "0.4",
}
TRACE = {"measure": "trace", "signal": "sensor_voltage", "key": "running", "value": {"min": "0.1"}}
STATUS = {**SCAN, "pid": "nox_status", "at_s": 900, "value": "valid"}
FAULTS: list[Hypothesis] = [
    (), ("cell-open",), ("cell-shorted",), ("cell-slow",), ("wire-open:signal",), ("wire-short-ground:signal",),
    ("wire-short-battery:signal",), ("bias-missing",), ("module-input-dead",), ("swapped-connectors",), ("exhaust-leak",),
    ("engine-rich",), ("catalyst-worn",), (COLD_HEATER,), ("shell-ground-high",),
]  # fmt: skip
WIDE: list[Hypothesis] = [
    (),
    ("cell-open",),
    ("cell-slow",),
    ("wire-open:nernst",),
    ("wire-open:pump",),
    ("module-input-dead",),
]
NOX: list[Hypothesis] = [
    (), ("unit-dead",), ("probe-heater",), ("probe-cell",), ("wire-high:supply",), ("wire-open:ground",), ("can-lines-shorted",),
    ("terminator-lost",), ("fuse-blown",), ("fuse-blown", "unit-dead"), ("ammonia-slip",), ("scr-worn",), ("probe-drift",),
]  # fmt: skip


def signal(listed: list[Hypothesis], family: str = "switching-4w", position: int = 1, **sensor: Any) -> SignalModel:
    job = job_of(case(code="P0130", sensor={"family": family, "bank": 1, "position": position, **sensor}))
    return SignalModel(known_of(job), ModelRequest(listed, traits()), Sampling(64))


def nox(position: int = 2) -> NoxModel:
    job = job_of(case(code="U029E", sensor={"family": "nox-can-4w", "bank": 1, "position": position}))
    return NoxModel(known_of(job), ModelRequest(NOX, traits()), Sampling(64))


def display(model: Any, probe: dict[str, Any], figure: str = "value") -> Display:
    displays = model.displays(measured(**probe))
    assert displays is not None
    found: Display = displays[figure]
    return found


def row(model: Any, probe: dict[str, Any], fault: Hypothesis = (), figure: str = "value") -> Array:
    """A figure's value in every draw under a fault."""
    shown = display(model, probe, figure)
    assert not isinstance(shown, Categorical)
    return np.broadcast_to(shown.shown, (len(model.hypotheses), model.draws))[list(model.hypotheses).index(fault)]


def word(model: Any, probe: dict[str, Any], fault: Hypothesis = ()) -> str | None:
    """The likeliest word; None where nothing can be read."""
    shown = display(model, probe)
    assert isinstance(shown, Categorical)
    place = list(model.hypotheses).index(fault)
    shape = (len(model.hypotheses), model.draws)
    mean = {
        name: float(np.nanmean(np.nan_to_num(np.broadcast_to(item, shape)[place])))
        for name, item in shown.chance.items()
    }
    best = max(mean, key=lambda name: mean[name])
    return best if mean[best] > 0 else None


class Switching(TestCase):
    """A cell's voltage behind its source resistance, and the module's bias."""

    def test_levels_in_every_state(self) -> None:
        model = signal(FAULTS, bias_v=0.45)
        rich, lean = {**VOLTS, "with": "rich"}, {**VOLTS, "with": "lean"}
        grounded = {**VOLTS, "key": "on", "connector": "unplugged", "with": "signal-grounded"}
        for why, probe, fault, low, high in (
            ("sound, enriched", rich, (), 0.7, 1.0),
            ("sound, leaned out", lean, (), 0.0, 0.3),
            ("an open cell leaves the bias", VOLTS, ("cell-open",), 0.35, 0.5),
            ("a shorted cell nothing", VOLTS, ("cell-shorted",), -0.02, 0.15),
            ("an open wire leaves the bias", rich, ("wire-open:signal",), 0.35, 0.5),
            ("a short to ground nothing", rich, ("wire-short-ground:signal",), -0.02, 0.15),
            ("a short to battery, held down by half of the inputs", VOLTS, ("wire-short-battery:signal",), 1.5, 15.0),
            ("grounded at the plug, wire and input sound", grounded, (), -0.02, 0.15),
            ("grounded, the wire open: the bias stays", grounded, ("wire-open:signal",), 0.35, 0.5),
            ("bias at the open plug", PLUG, (), 0.35, 0.5),
            ("no bias at the open plug", PLUG, ("bias-missing",), -0.02, 0.05),
        ):  # fmt: skip
            with self.subTest(why):
                shown = float(np.median(row(model, probe, fault)))
                self.assertTrue(low <= shown <= high, shown)

    def test_the_trims_make_up_for_most_mixture_faults_and_past_their_end_the_signal_stays_at_one_side(self) -> None:
        model = signal(FAULTS, bias_v=0.45)
        for fault, figure, beyond in (
            ("exhaust-leak", "max", lambda volts: volts < 0.5),
            ("engine-rich", "min", lambda volts: volts > 0.4),
        ):
            stays = float(beyond(row(model, VOLTS, (fault,), figure)).mean())
            self.assertTrue(0.25 < stays < 0.45, f"{fault} {stays}")
        self.assertFalse((row(model, VOLTS, (), "max") < 0.5).all())

    def test_crossed_connectors_show_another_sensor_whatever_is_done_at_this_plug(self) -> None:
        model = signal(FAULTS, bias_v=0.45)
        grounded = {**VOLTS, "key": "on", "connector": "unplugged", "with": "signal-grounded"}
        self.assertGreater(float(np.median(row(model, grounded, ("swapped-connectors",)))), 0.2)

    def test_a_cell_behind_a_dead_heater_stays_cold_in_part_of_the_vehicles(self) -> None:
        model = signal(FAULTS, bias_v=0.45, position=2)
        flat = np.abs(row(model, {**VOLTS, "with": "rich"}, (COLD_HEATER,)) - 0.45) < 0.1
        self.assertTrue(0.5 < float(flat.mean()) < 1.0)

    def test_a_worked_engine_heats_the_cell_that_stayed_cold_at_idle(self) -> None:
        model = signal(FAULTS, bias_v=0.45)
        cold = model.loop.stays_cold
        self.assertTrue(cold.any() and not cold.all())
        self.assertLess(float(np.abs(row(model, VOLTS)[cold] - 0.45).max()), 0.2)
        for asked, low, high in (("rich", 0.7, 1.0), ("lean", 0.0, 0.3), ("fuel-cut", 0.0, 0.3)):
            with self.subTest(asked):
                self.assertTrue(low <= float(np.median(row(model, {**VOLTS, "with": asked})[cold])) <= high)

    def test_a_contact_is_measured_through_the_mated_plug(self) -> None:
        listed: list[Hypothesis] = [(), ("pin-open:signal",), ("wire-open:signal",), ("cell-open", "pin-open:signal")]
        through = {"measure": "resistance", "red": "harness.signal", "black": "sensor.signal", "key": "off",
                   "connector": "mated", "battery": "disconnected", "value": "0.2"}  # fmt: skip
        model = signal(listed, bias_v=0.45)
        for fault in listed:
            with self.subTest(fault=fault):
                shown = float(np.median(row(model, through, fault)))
                self.assertEqual(shown < 1.0, "pin-open:signal" not in fault)
                self.assertTrue(shown < 1.0 or shown > 1e5)

    def test_a_rusted_shell_is_the_return_of_one_wire(self) -> None:
        model = signal(FAULTS, "switching-1w", bias_v=0.45)
        sound, rusted = (
            float(np.median(row(model, {**VOLTS, "with": "rich"}, fault))) for fault in ((), ("shell-ground-high",))
        )
        self.assertGreater(sound, rusted + 0.1)

    def test_recordings_tell_a_slow_cell_and_a_worn_catalyst(self) -> None:
        front, behind = signal(FAULTS), signal(FAULTS, position=2)
        self.assertGreater(float(np.median(row(front, TRACE, ("cell-slow",), "rise_s"))), 0.15)
        self.assertLess(float(np.median(row(front, TRACE, (), "rise_s"))), 0.1)
        for model, fault, low, high in ((front, (), 30, 130), (behind, (), 0, 8), (behind, ("catalyst-worn",), 20, 90)):
            with self.subTest(fault=fault, position=model.position):
                self.assertTrue(low <= float(np.median(row(model, TRACE, fault, "switches_per_min"))) <= high)

    def test_a_missing_bias_is_only_possible_where_a_module_has_one(self) -> None:
        model = signal(FAULTS)
        before = model.draws_before[FAULTS.index(("bias-missing",))]
        self.assertEqual(float(before[model.loop.bias_v < 0.02].sum()), 0.0)
        self.assertGreater(float(before[model.loop.bias_v > 0.2].sum()), 0.9)
        self.assertEqual(len(set((model.kinds // 2).tolist())), 4)


class Wideband(TestCase):
    """Current cells: two cells held by the module, and the limiting-current one."""

    def test_the_pump_current_follows_the_mixture_and_stops_with_the_circuit(self) -> None:
        model = signal(WIDE, "wideband-5w")
        rich, lean = ({**CURRENT, "with": how} for how in ("rich", "lean"))
        self.assertLess(float(np.median(row(model, rich))), -1e-4)
        self.assertGreater(float(np.median(row(model, lean))), 1e-4)
        for fault in (("wire-open:nernst",), ("wire-open:pump",), ("module-input-dead",), ("cell-open",)):
            with self.subTest(fault):
                self.assertLess(float(np.median(np.abs(row(model, lean, fault)))), 2e-5)

    def test_a_slow_cell_follows_late_in_a_recording_of_its_current(self) -> None:
        trace = {**TRACE, "signal": "cell_current", "with": "snap", "value": {"min": "-0.5 mA"}}
        for family in ("wideband-6w", "airfuel-4w"):
            listed: list[Hypothesis] = [(), ("cell-slow",)]
            model = signal(listed, family)
            sound, slow = (float(np.nanmedian(row(model, trace, fault, "delay_s"))) for fault in listed)
            self.assertGreater(slow, 2 * sound, family)

    def test_a_flat_recording_has_no_delay(self) -> None:
        model = signal(WIDE, "wideband-5w")
        trace = {**TRACE, "signal": "cell_current", "with": "snap", "value": {"min": "0 mA"}}
        self.assertTrue(np.isnan(row(model, trace, ("wire-open:pump",), "delay_s")).all())


class Nox(TestCase):
    """Messages, status and values of a unit that must live, heat and be heard."""

    def test_status_and_messages(self) -> None:
        model = nox()
        heard = {**SCAN, "pid": "can_messages", "value": "present"}
        bridged = {**STATUS, "connector": "mated", "jumper": ["harness.ground", "battery.negative"]}
        fed = {**heard, "at_s": 900, "connector": "mated", "jumper": ["harness.supply", "battery.positive"]}
        for why, probe, fault, said in (
            ("sound", STATUS, (), "valid"),
            ("before the dew point", {**STATUS, "at_s": 10}, (), "not-at-temperature"),
            ("its heater failed", STATUS, ("probe-heater",), "not-at-temperature"),
            ("its cell failed", STATUS, ("probe-cell",), "not-stable"),
            ("a silent unit has no status", STATUS, ("unit-dead",), None),
            ("no ground, no status", STATUS, ("wire-open:ground",), None),
            ("but with its ground bridged", bridged, ("wire-open:ground",), "valid"),
            ("a short on the bus hides it", heard, ("can-lines-shorted",), "absent"),
            ("no fuse", heard, ("fuse-blown",), "absent"),
            ("sound and heard", heard, (), "present"),
            ("no fuse, but its supply bridged", fed, ("fuse-blown",), "present"),
            ("dead behind the blown fuse", fed, ("fuse-blown", "unit-dead"), "absent"),
        ):
            with self.subTest(why):
                self.assertEqual(word(model, probe, fault), said)

    def test_bus_and_supply_at_the_plug(self) -> None:
        model = nox()
        bus = {
            "measure": "resistance",
            "red": "harness.can_high",
            "black": "harness.can_low",
            "battery": "disconnected",
            "value": "60",
        }
        loaded = {"measure": "voltage", "red": "harness.supply", "black": "harness.ground", "key": "running", "connector": "mated",
                  "at_s": 900, "value": "13"}  # fmt: skip
        for why, probe, fault, low, high in (
            ("two terminators", bus, (), 58, 64), ("one lost", bus, ("terminator-lost",), 115, 126),
            ("lines touching", bus, ("can-lines-shorted",), 0, 5), ("supply under its heater", loaded, (), 12.3, 14.7),
            ("corroded, it sags", loaded, ("wire-high:supply",), 1.0, 12.0),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertTrue(low <= float(np.median(row(model, probe, fault))) <= high)

    def test_dosing_tells_a_worn_catalyst_from_slipping_ammonia(self) -> None:
        model = nox()
        value = {**SCAN, "pid": "nox", "at_s": 900, "value": "20"}
        sound, worn, gross_error = (
            float(np.nanmedian(row(model, value, fault))) for fault in ((), ("scr-worn",), ("ammonia-slip",))
        )
        self.assertTrue(sound < 80 < min(worn, gross_error))
        undosed = {**value, "with": "dosing-off"}
        self.assertGreater(float(np.nanmedian(row(model, undosed))), 4 * sound)
        self.assertLess(float(np.nanmedian(np.abs(row(model, {**value, "with": "fresh-air"})))), 10)
