"""What a person's readings can decide at all, by Bayes that knows the second car."""

from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

from dianoia.bench.bound import Bound, chances_of, fits, run
from dianoia.bench.lines import JobLines
from dianoia.errors import RefusedInput
from dianoia.simulated.faults import NONE, TWO, WRONG_PART, of_sensor
from dianoia.simulated.job import work

#: A job of a heater code.
HEATER = (20000, 1)


class WithoutReadings(TestCase):
    """Only the code and how usual each fault is."""

    def test_a_heater_code_leaves_the_heater_s_faults_by_their_prevalence(self) -> None:
        job, yard, bench = work(*HEATER)
        bare = replace(job, first=0)
        heater = [item for item in of_sensor(yard.sound.sensor) if item.code == "heater"]
        whole = sum(item.weight for item in of_sensor(yard.sound.sensor))
        sensor, wiring = (
            sum(item.weight for item in heater if item.component == name) * (1 - NONE - TWO) / whole
            for name in ("sensor", "wiring")
        )
        found = chances_of(bare, yard, bench, 2)
        ratio = found[frozenset(("sensor",))] / found[frozenset(("wiring",))]
        # a magnitude that the module would not notice sets no code, so each may be a half less; a wrong part counts as a sensor's
        self.assertTrue(0.5 < ratio / ((sensor + WRONG_PART) / wiring) < 2.0, ratio)
        self.assertAlmostEqual(sum(found.values()), 1.0)


class WithReadings(TestCase):
    """What is read moves it the right way."""

    def test_an_open_element_names_the_sensor_and_a_healthy_one_does_not(self) -> None:
        job, yard, bench = work(*HEATER)
        probe = {"measure": "resistance", "red": "sensor.heater_supply", "black": "sensor.heater_control", "key": "off",
                 "connector": "unplugged", "sensor_c": 20}  # fmt: skip
        healthy = replace(bench, car=yard.sound, other=None).read(probe)
        found = []
        for value in ("OL", healthy):
            case = {**job.case, "readings": [{**probe, "value": value}]}
            chances = chances_of(replace(job, case=case, first=1), yard, bench, 3)
            found.append(sum(chance for truth, chance in chances.items() if "sensor" in truth))
        self.assertGreater(found[0], 0.9)
        self.assertLess(found[1], 0.5)

    def test_a_display_is_as_far_off_as_its_spread_says(self) -> None:
        """12.0 V against 12.78: 0.06 V and 6 % of 12.78 are 0.827 V, so 0.943 of it; a word that differs counts once."""
        self.assertAlmostEqual(fits("12.0 V", "12.78 V"), -0.5 * (0.78 / 0.8268) ** 2, places=3)
        self.assertEqual(fits("bright", "bright"), 0.0)
        self.assertEqual(fits("OL", "OL"), 0.0)
        self.assertEqual(fits("OL", "12 ohm"), -20.0)
        self.assertAlmostEqual(fits("10k ohm", "14.19k ohm"), -0.5, delta=0.01)  # 0.35 in the logarithm


class Run(TestCase):
    """Over many jobs."""

    def test_a_run_goes_on_from_its_file_and_refuses_another_kind_of_file(self) -> None:
        with TemporaryDirectory() as folder:
            path = Path(folder) / "bound.jsonl"
            lines = JobLines(Bound, path, 5)
            for item in (
                Bound(0, ("sensor",), True, False),
                Bound(1, (), None, False),
                Bound(2, ("wiring",), False, False),
            ):
                lines.add(item)
            found = run(3, 5, path)
            self.assertEqual([found[name]["share"] for name in ("right", "wrong", "complete")], [0.3333, 0.3333, 0.0])
            with self.assertRaisesRegex(RefusedInput, "is of others"):
                run(3, 6, path)
            path.write_text("{}\n", encoding="utf-8")
            with self.assertRaisesRegex(RefusedInput, "this benchmark wrote"):
                run(3, 5, path)
