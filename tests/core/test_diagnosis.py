"""Belief, proof, decision and the next reading, on the heater loop."""

from dataclasses import replace
from typing import Any
from unittest import TestCase

import numpy as np

from dianoia.bench.vehicle import ModelVehicle
from dianoia.case.job import job_of
from dianoia.diagnosis.catalogue.offered import engines, offered
from dianoia.diagnosis.faults.tables import faults
from dianoia.diagnosis.inference.evidence import take_in
from dianoia.diagnosis.verdict.diagnose import Diagnosis, diagnose
from dianoia.diagnosis.verdict.explain import still_open
from dianoia.diagnosis.verdict.types import Verdict
from tests.cases import BATTERY, ELEMENT, LAMP, LOADED, LOOKED, NOT_GROUNDED, OPEN_ELEMENT, STEADY, SUPPLY, case

CONTROL = {**SUPPLY, "red": "harness.heater_control", "codes_cleared": True}
CONTROL_WIRE = {"measure": "resistance", "red": "harness.heater_control", "black": "module.heater_control",
                "module_connector": "unplugged", "battery": "disconnected", "value": "OL"}  # fmt: skip
GOOD_ELEMENT = {**ELEMENT, "value": "5.6"}
NO_SHORT = {**ELEMENT, "red": "harness.heater_supply", "black": "battery.negative", "value": "3k"}
CLEARED = {"measure": "act", "action": "clear-codes", "value": "not-returned"}
REPLACED = {"measure": "act", "action": "replace-sensor", "value": "done"}
#: What no reading can tell apart: with the element between them, either plug pin leaves the same trace.
CLASSES = [{"pin-open:heater_supply", "pin-open:heater_control"}]


def steady(*readings: dict[str, Any], **fields: Any) -> Verdict:
    return diagnose(case(*readings, sensor=STEADY, **fields))


def warned(verdict: Verdict) -> set[str]:
    return {item.warning for item in verdict.warnings}


def proven(verdict: Verdict) -> set[str]:
    return {item.part for item in verdict.proven}


class Decisions(TestCase):
    """From readings to the part at fault, and never sooner than its proof is complete."""

    def test_each_story_ends_where_a_technician_would_end_it(self) -> None:
        for why, readings, decision, found in (
            ("element open, loop proven under load", OPEN_ELEMENT, "replace-sensor", "heater-open"),
            ("control wire open to the module", [BATTERY, SUPPLY, CONTROL | {"value": "13.8"}, GOOD_ELEMENT, CONTROL_WIRE],
             "repair-wiring", "wire-open:heater_control"),
            ("no voltage behind the fuse, and nothing left that blew it", [
                BATTERY, {**SUPPLY, "value": "0 V"}, {**SUPPLY, "red": "fuse.in", "value": "13.9"},
                {**SUPPLY, "red": "fuse.out", "value": "0.0"}, NO_SHORT, GOOD_ELEMENT, {**NOT_GROUNDED, "value": "240k"},
                {**LAMP, "red": "battery.positive", "in_place_of": None}, NO_SHORT, LOOKED], "restore-supply", "fuse-blown"),
        ):  # fmt: skip
            with self.subTest(why):
                verdict = steady(*readings)
                self.assertEqual((verdict.decision, found in verdict.found), (decision, True))
                self.assertTrue(verdict.because and verdict.would_change_it)

    def test_no_sensor_is_condemned_without_supply_and_control_proven(self) -> None:
        verdict = steady(BATTERY, SUPPLY, ELEMENT)
        self.assertEqual((verdict.decision, verdict.components), ("keep-testing", ()))
        self.assertLessEqual({"supply", "control"}, set(verdict.unproven))
        self.assertIn("unloaded-supply", warned(verdict))
        assert verdict.next is not None
        self.assertEqual(verdict.next.reading.measure, "lamp")
        lamp: Any = verdict.next.reading
        ends = {lamp.red, lamp.black}
        self.assertEqual(ends, {"harness.heater_supply", "harness.heater_control"})

    def test_the_leading_component_does_not_stand_against_itself(self) -> None:
        for readings, others in (([ELEMENT], False), ([BATTERY, SUPPLY, {**CONTROL, "value": "13.8"}], True)):
            diagnosis = Diagnosis(job_of(case(*readings, sensor=STEADY)))
            verdict = diagnosis.verdict()
            against = " ".join(still_open(verdict, diagnosis.standing))
            self.assertNotIn(verdict.suspects[0].says, against)
            self.assertEqual("Still possible: " in against, others)

    def test_a_lamp_across_both_terminals_proves_supply_and_control_at_once(self) -> None:
        verdict = steady(BATTERY, ELEMENT, LAMP)
        self.assertLessEqual({"supply", "control"}, proven(verdict))

    def test_a_struck_reading_counts_for_nothing_and_keeps_its_place(self) -> None:
        without = steady(ELEMENT, LAMP)
        struck = steady({**GOOD_ELEMENT, "struck": "wrong pin"}, ELEMENT, LAMP)
        self.assertEqual(without.suspects, struck.suspects)
        self.assertEqual([item.reading for item in struck.judged], [0, 1, 2])
        self.assertIn(2, {place for item in struck.proven for place in item.by})

    def test_the_order_of_readings_does_not_matter(self) -> None:
        first, second = steady(BATTERY, SUPPLY, ELEMENT, LAMP), steady(LAMP, ELEMENT, BATTERY, SUPPLY)
        chances = [{item.fault: item.probability for item in verdict.suspects} for verdict in (first, second)]
        for name, chance in chances[0].items():
            self.assertAlmostEqual(chance, chances[1][name], places=3)

    def test_no_fault_now_needs_every_part_proven_and_the_code_away(self) -> None:
        current: dict[str, Any] = {"measure": "current", "at": "harness.heater_supply", "key": "running", "connector": "mated",
                   "codes_cleared": True, "value": "0.8 A"}  # fmt: skip
        not_shorted = {**NOT_GROUNDED, "value": "200k"}
        sound: list[dict[str, Any]] = [
            not_shorted,
            BATTERY,
            SUPPLY,
            CONTROL | {"value": "0.15"},
            current,
            GOOD_ELEMENT,
            LAMP,
            LOADED,
        ]
        self.assertEqual(steady(*sound).decision, "keep-testing")
        self.assertEqual(steady(*sound, CLEARED).decision, "no-fault-now")

    def test_after_the_sensor_was_replaced_belief_moves_on(self) -> None:
        before = OPEN_ELEMENT
        verdict = steady(*before, REPLACED)
        sensor = sum(item.probability for item in verdict.suspects if item.component == "sensor")
        self.assertLess(sensor, 0.1)
        self.assertIn("supply", proven(verdict))
        self.assertNotIn("heater", proven(verdict))
        self.assertIn("heater", proven(steady(*before, REPLACED, GOOD_ELEMENT)))

    def test_a_lamp_at_a_point_that_only_one_wiring_has_keeps_belief_whole(self) -> None:
        at_module = {**LAMP, "red": "battery.positive", "black": "module.heater_control", "in_place_of": None}
        verdict = diagnose(case(at_module))
        self.assertTrue(0 <= verdict.confidence <= 1)
        self.assertTrue(all(0 <= item.probability <= 1 for item in verdict.suspects))

    def test_what_cannot_be_taken_is_not_proposed_again(self) -> None:
        first = steady().next
        assert first is not None
        second = steady(cannot=[{"reading": first.id, "reason": "cannot reach it"}]).next
        assert second is not None
        self.assertNotEqual(first.id, second.id)

    def test_styles_change_the_order_not_the_proof(self) -> None:
        first = {}
        for style in ("live-first", "ohms-first", "scan-first", "basic-kit"):
            opened = diagnose(case(sensor=STEADY, style=style))
            assert opened.next is not None
            first[style] = opened.next.reading.measure
            self.assertEqual(diagnose(case(BATTERY, ELEMENT, sensor=STEADY, style=style)).decision, "keep-testing")
        self.assertEqual((first["ohms-first"], first["scan-first"]), ("resistance", "scan"))
        self.assertNotIn(first["basic-kit"], ("scan", "scope"))


class Judging(TestCase):
    """A reading against the spec given, else the computed range."""

    def judged(self, reading: dict[str, Any], **fields: Any) -> Any:
        return diagnose(case(reading, **fields)).judged[0]

    def test_results(self) -> None:
        spec = {name: SUPPLY[name] for name in SUPPLY if name != "value"} | {
            "range": ["12.0 V", None],
            "source": "sheet 4",
        }
        for why, reading, fields, wanted in (
            ("inside the sensor's own range", GOOD_ELEMENT, {"sensor": STEADY}, ("spec", "pass")),
            ("over limit", ELEMENT, {"sensor": STEADY}, ("spec", "fail")),
            ("out by less than the meter's error", {**ELEMENT, "value": "7.6"}, {"sensor": STEADY}, ("spec", "unclear")),
            ("a hot element reads high and is still sound", {**ELEMENT, "sensor_c": 400, "value": "14"},
             {"sensor": STEADY}, ("spec", "pass")),
            ("no spec: the computed range", SUPPLY, {}, ("computed", "pass")),
            ("no spec: dead supply", {**SUPPLY, "value": "0.1"}, {}, ("computed", "fail")),
            ("a spec of the job wins", {**SUPPLY, "value": "12.2 V"}, {"specs": [spec]}, ("spec", "pass")),
            ("a lamp that stays dark", {**LAMP, "value": "off"}, {"sensor": STEADY}, ("computed", "fail")),
        ):  # fmt: skip
            with self.subTest(why):
                judged = self.judged(reading, **fields)
                self.assertEqual((judged.against, judged.result), wanted)

    def test_sentences_name_value_range_and_suspected_part(self) -> None:
        says = self.judged(ELEMENT, sensor=STEADY).says
        for word in ("OL", "heater element", "4 to 7.5 ohm", "open"):
            self.assertIn(word, says)

    def test_traps_are_named_at_their_reading(self) -> None:
        pwm = {**STEADY, "heater_drive": "pwm"}
        for why, readings, sensor, warning in (
            ("average on PWM", [{**CONTROL, "value": "4.1"}], pwm, "pwm-average"),
            ("hot element", [{**ELEMENT, "sensor_c": "hot", "value": "18"}], STEADY, "hot-resistance"),
            ("no temperature", [{name: GOOD_ELEMENT[name] for name in GOOD_ELEMENT if name != "sensor_c"}], STEADY,
             "hot-resistance"),
            ("ohms with the key on", [{**ELEMENT, "red": "harness.heater_supply", "black": "battery.negative", "key": "on"}],
             STEADY, "meter-on-live-circuit"),
            ("weak battery", [{**BATTERY, "value": "11.1"}], STEADY, "low-battery"),
            ("module gave up", [BATTERY, {**SUPPLY, "red": "harness.heater_control"}, GOOD_ELEMENT], STEADY,
             "heater-latched-off"),
            ("element both whole and open", [GOOD_ELEMENT, ELEMENT], STEADY, "readings-contradict"),
            ("dead supply and dead element", [BATTERY, {**SUPPLY, "value": "0"}, ELEMENT], STEADY, "two-faults"),
            ("no figures of its own", [SUPPLY], None, "generic-spec"),
            ("ohms across the cell", [{**ELEMENT, "red": "sensor.signal", "black": "sensor.signal_return"}], STEADY,
             "ohms-on-cell"),
        ):  # fmt: skip
            with self.subTest(why):
                fields = {"sensor": sensor} if sensor else {}
                self.assertIn(warning, warned(diagnose(case(*readings, **fields))))


class Simulated(TestCase):
    """Vehicles with a hidden fault, drawn apart from the engine's own draws."""

    base = case(sensor={**STEADY, "heater_ohms_20c": [4.0, 7.5]}, vehicle={"label": "x", "feed_live": "running"})

    def test_with_every_reading_each_single_fault_or_its_class_is_named(self) -> None:
        job, engine = job_of(self.base), engines.engine(job_of(self.base))
        for (name,) in [listed for listed in engine.space.faults if len(listed) == 1]:
            vehicle = ModelVehicle(job, (name,), seed=3)
            taken = [found for item in offered(job, engine) if (found := vehicle.take(item.probe))]
            seen = Diagnosis(job_of(replace(self.base, readings=tuple(taken))), plan=False).weighed
            alike = next((group for group in CLASSES if name in group), {name})
            with self.subTest(name):
                self.assertIn(max(seen.fault_chances, key=seen.fault_chances.__getitem__), alike)
                by_component = seen.components()
                self.assertEqual(max(by_component, key=by_component.__getitem__), faults()[name].component)

    def test_belief_in_health_does_not_fall_on_average_over_healthy_readings(self) -> None:
        job = job_of(self.base)
        engine = engines.engine(job)
        listed = [item for item in offered(job, engine) if not item.probe.by_hand]
        before = float(np.log(engine.space.prior[0]))
        gains: dict[str, list[float]] = {}
        for seed in range(12):
            vehicle = ModelVehicle(job, (), seed)
            for item in listed:
                taken = vehicle.take(item.probe)
                if taken is not None:
                    belief = engine.belief(engine.models)
                    take_in(belief, job_of(replace(self.base, readings=(taken,))).readings)
                    gains.setdefault(item.id, []).append(float(np.log(belief.posterior()[0])) - before)
        self.assertGreater(np.mean([np.mean(values) for values in gains.values()]), 0.1)
        for name, values in gains.items():
            self.assertGreater(np.mean(values), -0.12, name)
