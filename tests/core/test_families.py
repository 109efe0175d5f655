"""The signal side of every family and the NOx sensor: each fault shows, and stories end where a technician ends them."""

from dataclasses import replace
from typing import Any
from unittest import TestCase

from dianoia.bench.vehicle import ModelVehicle
from dianoia.case.job import job_of
from dianoia.case.measures.scan import listed
from dianoia.diagnosis.catalogue.offered import engines, offered
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.inference.loops import parts_checked
from dianoia.diagnosis.verdict.diagnose import Diagnosis, diagnose
from dianoia.diagnosis.verdict.judging import Judgements
from dianoia.diagnosis.verdict.types import Verdict
from dianoia.errors import BrokenTable
from dianoia.families.tables import cells, families
from tests.cases import case
from tests.tags import slow

SCAN = {"measure": "scan", "pid": "sensor_voltage", "key": "running"}
NOX = {"measure": "scan", "key": "running", "at_s": 600}
#: (code, family, position, hidden fault, component): one of each kind of trouble.
HIDDEN = [
    ("P0134", "switching-4w", 1, "cell-open", "sensor"),
    ("P0133", "switching-4w", 1, "cell-slow", "sensor"),
    ("P0131", "switching-4w", 1, "exhaust-leak", "exhaust"),
    ("P2196", "switching-4w", 1, "engine-rich", "mixture"),
    ("P0134", "switching-4w", 1, "wire-open:signal_return", "wiring"),
    ("P0131", "switching-3w", 1, "wire-short-ground:signal", "wiring"),
    ("P0130", "switching-2w", 1, "bias-missing", "module"),
    ("P0130", "switching-1w", 1, "wire-open:signal", "wiring"),
    ("P2232", "switching-4w", 2, "signal-short-heater", "wiring"),
    ("P0130", "titania-4w", 1, "wire-open:signal", "wiring"),
    ("P2237", "airfuel-4w", 1, "wire-open:cell_positive", "wiring"),
    ("P2251", "airfuel-4w", 1, "wire-short-battery:cell_negative", "wiring"),
    ("P2243", "wideband-5w", 1, "wire-open:nernst", "wiring"),
    ("P2237", "wideband-6w", 1, "wire-open:pump", "wiring"),
    ("P220B", "nox-can-4w", 2, "wire-high:supply", "wiring"),
    ("U029E", "nox-can-4w", 2, "fuse-blown", "supply"),
    ("U029E", "nox-can-5w", 2, "can-lines-shorted", "wiring"),
    ("P22A3", "nox-can-4w", 2, "probe-heater", "sensor"),
]


def warned(verdict: Verdict) -> set[str]:
    return {item.warning for item in verdict.warnings}


@slow
class Families(TestCase):
    """What can be proposed, given for a hidden fault: every second reading, or all of them."""

    def test_the_component_at_fault_is_the_likeliest(self) -> None:
        for code, family, position, hidden, component in HIDDEN:
            with self.subTest(family=family, hidden=hidden):
                base = case(code=code, sensor={"family": family, "bank": 1, "position": position})
                job = job_of(base)
                vehicle = ModelVehicle(job, (hidden,), seed=8)
                engine = engines.engine(job)
                taken = [found for item in offered(job, engine)[::2] if (found := vehicle.take(item.probe))]
                noted = job_of(replace(base, readings=tuple(taken)))
                seen = Diagnosis(noted, plan=False).weighed
                chances = seen.components()
                self.assertEqual(max(chances, key=chances.__getitem__), component)
                likeliest = max(seen.fault_chances, key=seen.fault_chances.__getitem__)
                self.assertEqual(faults()[likeliest].component, component)

    def test_a_sound_vehicle_is_judged_sound_by_nearly_every_reading(self) -> None:
        for code, family in (("P0130", "switching-1w"), ("P0135", "switching-4w"), ("P0130", "titania-4w"),
                             ("P2237", "airfuel-4w"), ("P2243", "wideband-6w"), ("P229E", "nox-can-4w")):  # fmt: skip
            base = case(code=code, sensor={"family": family, "bank": 1, "position": 1})
            job = job_of(base)
            engine = engines.engine(job)
            results: dict[str, list[str]] = {}
            for seed in range(4):
                vehicle = ModelVehicle(job, (), seed)
                for item in offered(job, engine, frozenset(engine.loops)):
                    if item.probe.by_hand or (taken := vehicle.take(item.probe)) is None:
                        continue
                    noted = job_of(replace(base, readings=(taken,)))
                    results.setdefault(item.id, []).append(Judgements(noted, engine).judged(0, None).result)
            every = [result for found in results.values() for result in found]
            with self.subTest(family):
                self.assertLess(every.count("fail") / len(every), 0.09)
                self.assertGreater(every.count("pass") / len(every), 0.7)
                self.assertEqual([name for name, found in results.items() if found.count("fail") > 2], [])

    def test_a_family_with_a_suspect_that_has_no_part_is_refused(self) -> None:
        row = families()["airfuel-4w"]
        five: tuple[Any, ...] = (*row.terminals, "trim")
        self.assertEqual(
            parts_checked(replace(row, terminals=five, parts=("trim",))), ("bias", "signal", "return", "trim", "cell")
        )
        for why, wrong, says in (
            ("a wire that no part is made of", replace(row, terminals=five), "trim, the part of wire-open:trim"),
            ("a part that there is not", replace(row, parts=("tirm",)), "parts of the circuit"),
        ):
            with (
                self.subTest(why),
                self.assertRaisesRegex(BrokenTable, f"families.json: airfuel-4w.parts: expected {says}"),
            ):
                parts_checked(wrong)
        with self.assertRaisesRegex(BrokenTable, "cells.zirconia.scans"):
            listed(replace(cells()["zirconia"], scans=("sensor_volts",)))

    def test_every_family_has_a_first_reading_at_its_own_points(self) -> None:
        for _, family, position, _, _ in HIDDEN:
            base = case(
                code="P229E" if family.startswith("nox") else "P0130", sensor={"family": family, "position": position}
            )
            verdict = diagnose(base)
            self.assertIsNotNone(verdict.next, family)
            self.assertAlmostEqual(sum(verdict.by_component.values()), 1.0, delta=0.35, msg=family)


class SignalStories(TestCase):
    """What the trade knows about signals."""

    def test_grounding_the_signal_at_the_plug_proves_wire_and_input_where_there_is_a_bias(self) -> None:
        grounded = {**SCAN, "key": "on", "connector": "unplugged", "with": "signal-grounded", "value": "0.01 V"}
        open_value = {**SCAN, "key": "on", "connector": "unplugged", "value": "0.45 V"}
        sensor = {"family": "switching-4w", "bias_v": 0.45}
        verdict = diagnose(case({**SCAN, "value": "0.45 V"}, open_value, grounded, code="P0134", sensor=sensor))
        parts = {item.part for item in verdict.proven}
        self.assertLessEqual({"bias", "signal"}, parts)
        no_bias = diagnose(case(grounded, code="P0134", sensor={**sensor, "bias_v": 0.0}))
        self.assertNotIn("signal", {item.part for item in no_bias.proven})

    def test_a_flat_signal_may_be_a_dead_heater_and_the_element_says_so(self) -> None:
        element = {"measure": "resistance", "red": "sensor.heater_supply", "black": "sensor.heater_control",
                   "sensor_c": 20, "value": "OL"}  # fmt: skip
        verdict = diagnose(case({**SCAN, "value": "0.45 V"}, element, code="P0134", sensor={"family": "switching-4w"}))
        self.assertEqual(verdict.suspects[0].fault, "heater-open")
        self.assertIn("code-evidence-mismatch", warned(verdict))

    def test_zero_volts_bias_and_above_one_volt_mean_different_things(self) -> None:
        sensor = {"family": "switching-4w", "bias_v": 0.45}
        leading = {}
        for value in ("0.0 V", "0.45 V", "5.1 V"):
            verdict = diagnose(case({**SCAN, "value": value}, code="P0130", sensor=sensor))
            leading[value] = {item.fault for item in verdict.suspects[:8]}
        self.assertIn("wire-short-ground:signal", leading["0.0 V"])
        self.assertIn("cell-open", leading["0.45 V"])
        self.assertIn("signal-short-heater", leading["5.1 V"])

    def test_the_first_code_implies_the_family_and_readings_choose_between_two(self) -> None:
        pump: dict[str, Any] = {"measure": "resistance", "red": "sensor.trim", "black": "sensor.pump", "value": "110"}
        self.assertEqual(job_of(case(code="P2237")).family.id, "airfuel-4w")
        self.assertEqual(job_of(case(pump, code="P2237")).family.id, "wideband-6w")


class NoxStories(TestCase):
    """Waiting, ammonia and the bus."""

    def test_traps(self) -> None:
        for why, reading, warning in (
            ("no value yet", {**NOX, "at_s": 30, "pid": "nox", "value": "n/a"}, "dew-point-wait"),
            ("high after the SCR", {**NOX, "pid": "nox", "value": "310"}, "ammonia-cross-sensitivity"),
        ):
            with self.subTest(why):
                self.assertIn(warning, warned(diagnose(case(reading, code="P225F"))))

    def test_bus_resistance_tells_terminators_and_shorts(self) -> None:
        ohms = {
            "measure": "resistance",
            "red": "harness.can_high",
            "black": "harness.can_low",
            "battery": "disconnected",
        }
        leading = {}
        for value in ("61 ohm", "120 ohm", "1 ohm", "OL"):
            verdict = diagnose(case({**ohms, "value": value}, code="U029E"))
            leading[value] = next(
                item.fault for item in verdict.suspects if "can" in item.fault or "term" in item.fault
            )
        self.assertEqual(leading["120 ohm"], "terminator-lost")
        self.assertEqual(leading["1 ohm"], "can-lines-shorted")
        self.assertTrue(leading["OL"].startswith("wire-open:can"))

    def test_the_sensor_is_not_condemned_before_supply_ground_and_bus_are_proven(self) -> None:
        silent = {**NOX, "pid": "can_messages", "value": "absent"}
        verdict = diagnose(case(silent, {**NOX, "pid": "nox_status", "value": "not-at-temperature"}, code="P22A3"))
        self.assertEqual(verdict.decision, "keep-testing")
        self.assertLessEqual({"supply", "ground"}, set(verdict.unproven))
