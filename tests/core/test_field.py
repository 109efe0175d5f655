"""The field benchmark: what it counts, on outcomes worked by hand; and that a run goes on where it was."""

import json
from copy import deepcopy
from dataclasses import replace
from math import inf
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase
from unittest.mock import patch

from dianoia.bench.bound import _figures, fits
from dianoia.bench.field import calibration, ends, figures, judged, run
from dianoia.bench.field_work import FieldOutcome, FieldStep, is_right, planned, tells
from dianoia.errors import RefusedInput
from dianoia.simulated.job import work
from tests.tags import slow


def outcome(truth: tuple[str, ...], *decisions: tuple[str, ...] | None, **changed: object) -> FieldOutcome:
    """A job whose steps gave these decisions, the first before any reading."""
    steps = tuple(FieldStep(0.7, False, decision) for decision in (None, *decisions))
    return FieldOutcome(0, "switching-4w", "live-first", ("x",), truth, ("sensor",), steps, **changed)  # type: ignore[arg-type]


class Counting(TestCase):
    """Small cases, reckoned on paper."""

    def test_a_decision_is_right_where_all_that_it_names_is_at_fault(self) -> None:
        for decision, truth, right in (
            (("sensor",), ("sensor",), True), (("sensor",), ("sensor", "supply"), True), (("sensor", "wiring"), ("sensor",), False),
            (("wiring",), ("sensor",), False), ((), (), True), ((), ("sensor",), False), (None, ("sensor",), None),
        ):  # fmt: skip
            self.assertEqual(is_right(decision, truth), right, (decision, truth))

    def test_a_feed_is_right_where_the_true_fault_lies_in_its_stretch(self) -> None:
        for fault, one_of, right in (
            ("relay dead", ("fuse-blown", "relay-open"), True), ("relay dead", ("fuse-blown",), False), ("element open", ("fuse-blown",), False),
        ):  # fmt: skip
            self.assertEqual(is_right(("feed",), ("supply",), (fault,), one_of), right, fault)

    def test_what_becomes_of_it_after_own_readings_is_counted(self) -> None:
        one = replace(outcome(("wiring",), None, None), continued=FieldStep(0.99, True, ("wiring",)))
        other = replace(outcome((), None, ("sensor",)), continued=FieldStep(0.97, False, ("sensor",)), refitted=False)
        found = ends([one, other])
        self.assertEqual(
            (found["right_after_own_readings"]["share"], found["wrong_after_own_readings"]["share"]), (0.5, 0.5)
        )
        self.assertEqual(
            (found["condemned_at_the_end"]["sensors"], found["condemned_at_the_end"]["still_after_before_fitting"]),
            (1, 0),
        )

    def test_ends_and_the_way_there_are_counted_apart(self) -> None:
        found = dict(ends([
            outcome(("sensor",), None, ("sensor",)),  # right, and never wrong
            outcome(("wiring",), ("sensor",), ("wiring",)),  # right in the end, a good sensor condemned on the way
            outcome(("wiring",), None, None),  # undecided
            outcome((), ("sensor",), ("sensor",)),  # wrong
        ]))  # fmt: skip
        shares = {
            name: value["share"]
            for name, value in found.items()
            if isinstance(value, dict) and value.get("share") is not None
        }
        self.assertEqual(shares, {
            "right_at_the_end": 0.5, "wrong_at_the_end": 0.25, "undecided_at_the_end": 0.25, "feed_at_the_end": 0.0, "certain_but_not_shown": 0.0, "first_decision_right": 0.25,
            "first_decision_wrong": 0.5, "a_good_sensor_condemned": round(2 / 3, 4),
            "right_after_own_readings": 0.0, "wrong_after_own_readings": 0.0,
        })  # fmt: skip

    def test_calibration_compares_what_was_said_with_what_is_true(self) -> None:
        steps = tuple(FieldStep(0.8, number % 5 != 0, None) for number in range(100))
        even = FieldOutcome(0, "f", "s", (), (), ("none",), (FieldStep(0.1, False, None), *steps))
        self.assertAlmostEqual(calibration([even])["expected_error"], 0.0)  # ten bins of ten, eight true in each
        sure = FieldOutcome(
            0, "f", "s", (), (), ("none",), (FieldStep(0.1, False, None), *(FieldStep(0.99, False, None),) * 4)
        )
        self.assertEqual(calibration([sure])["above"]["true"]["share"], 0.0)
        self.assertLess(calibration([sure])["log_score"], -4.0)

    def test_judgements_are_shared_out_by_what_the_sound_car_shows(self) -> None:
        counted = judged(
            [outcome((), None, judged={"healthy, judged fail": 1, "healthy, judged pass": 3, "failed, judged pass": 2})]
        )
        self.assertEqual(
            (counted["healthy_judged_failed"]["share"], counted["failed_judged_healthy"]["share"]), (0.25, 1.0)
        )

    def test_what_the_engine_falls_over_is_counted_and_named(self) -> None:
        found = figures([outcome(("sensor",), ("sensor",)), outcome((), problem="ValueError: x")])
        self.assertEqual((found["fell_over"], found["all"]["jobs"]), ({"ValueError": 1}, 1))


@slow
class Telling(TestCase):
    """Whether readings suffice."""

    def test_typed_text_is_compared_as_figures(self) -> None:
        self.assertEqual(_figures("4.2k"), ((4200.0,), "ohm"))
        self.assertEqual(_figures("OL"), ((inf,), "ohm"))
        self.assertEqual(_figures("0.1..0.8 V"), ((0.1, 0.8), "V"))
        self.assertIsNone(_figures("bright"))
        for noted, shown, near in (("13.8 V", "13.7 V", True), ("13.8 V", "0.1 V", False), ("OL", "5.0 ohm", False), ("bright", "bright", True),
                                   ("0.1..0.8 V", "0.44 V", False), ("5.1 ohm", "5.3 ohm", True)):  # fmt: skip
            self.assertEqual(fits(noted, shown) > -2.0, near, (noted, shown))

    def test_a_whole_proof_tells_and_one_reading_does_not(self) -> None:
        number, (job, yard, bench) = next(
            (number, found) for number in range(60)
            if (found := work(7, number))[0].faults == ("element open",) and found[0].first >= 5 and not found[0].wrongly
        )  # fmt: skip
        self.assertTrue(tells(job, yard, bench), number)
        short = deepcopy(job)
        short.first = 1
        short.case["readings"] = [
            {
                "measure": "voltage",
                "red": "battery.positive",
                "black": "battery.negative",
                "key": "running",
                "value": "14.0 V",
            }
        ]
        self.assertFalse(tells(short, yard, bench))

    def test_the_engines_own_way_ends_at_a_car_that_is_right(self) -> None:
        job, yard, bench = next(
            found for number in range(60) if (found := work(7, number))[0].faults == ("element open",)
        )
        ended = planned(job, yard, bench)
        self.assertEqual((ended.right, ended.car_right, ended.visits, ended.parts_in_vain), (True, True, 1, 0))
        self.assertTrue(2 <= ended.readings < 30 and ended.minutes > 0)
        self.assertEqual(yard.truth, {"sensor"}, "the car itself is left as it was")


class Resuming(TestCase):
    """A run in a file."""

    def test_it_goes_on_where_it_was_and_takes_no_other_engines_jobs(self) -> None:
        with (
            TemporaryDirectory() as folder,
            patch("dianoia.bench.lines.ProcessPoolExecutor") as pool,
            patch("sys.stderr"),
        ):
            path = Path(folder) / "jobs.jsonl"
            asked = pool.return_value.__enter__.return_value.map
            asked.side_effect = lambda _, orders, chunksize: [outcome(("sensor",), ("sensor",)).__class__(
                number, "switching-4w", "live-first", ("x",), ("sensor",), ("sensor",), (FieldStep(0.5, True, None),)) for _, number in orders]  # fmt: skip
            self.assertEqual(run(3, 5, path)["jobs"], 3)
            self.assertEqual(run(5, 5, path)["jobs"], 5)
            self.assertEqual([number for _, number in asked.call_args.args[1]], [3, 4])
            with self.assertRaises(RefusedInput):
                run(5, 6, path)
            lines = path.read_text().splitlines()
            path.write_text("\n".join([json.dumps({**json.loads(lines[0]), "engine": "another"}), *lines[1:]]))
            with self.assertRaises(RefusedInput):
                run(5, 5, path)
            path.write_text("torn {")
            with self.assertRaises(RefusedInput):
                run(5, 5, path)
