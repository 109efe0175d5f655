"""The benchmark: its figures, and that it goes on where it was stopped."""

from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase
from unittest.mock import patch

from hypothesis import given
from hypothesis import strategies as st

from dianoia.bench.figures import figures
from dianoia.bench.isolate import portions
from dianoia.bench.jobs import simulated
from dianoia.bench.kept import BenchRun, KeptOutcomes
from dianoia.bench.work import BenchTechnician, WorkedJob
from dianoia.errors import RefusedInput
from tests.tags import slow

RUN = BenchRun(40, 3, None)


def worked(index: int, named: frozenset[str] | None) -> WorkedJob:
    return WorkedJob("heater", "airfuel-4w", ("heater-open",), frozenset(("sensor",)), named, 0.97, 31.5, 9,
                   ((0.4, False), (0.97, True)))  # fmt: skip


@slow
class KeptJobs(TestCase):
    """What is in the file comes out as it went in, or is refused."""

    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "jobs.jsonl"

    def test_outcomes_are_those_of_their_own_run_only(self) -> None:
        decided, open_one = worked(0, frozenset(("sensor", "wiring"))), worked(1, None)
        (job,) = simulated(RUN.jobs, RUN.seed, range(12, 13))
        real = BenchTechnician(job, "ohms-first").finish()
        kept = KeptOutcomes(self.path)
        kept.add(RUN, {0: decided, 1: open_one})
        kept.add(BenchRun(40, 3, "ohms-first"), {12: real})
        again = KeptOutcomes(self.path)
        self.assertEqual(again.of(RUN), {0: decided, 1: open_one})
        self.assertEqual(again.of(BenchRun(40, 3, "ohms-first")), {12: real})
        self.assertEqual(again.of(BenchRun(40, 4, None)), {})

    def test_a_file_that_would_spoil_the_figures_is_refused(self) -> None:
        with patch("dianoia.bench.kept.engine", return_value="an older one"):
            KeptOutcomes(self.path).add(RUN, {0: worked(0, None)})
        older = self.path.read_bytes()
        for text, says in ((older, "version of the engine"), (older[:-9], "cut off"), (b"{}\n", "line 1")):
            self.path.write_bytes(text)
            with self.assertRaisesRegex(RefusedInput, says):
                KeptOutcomes(self.path)

    def test_a_file_that_cannot_be_written_is_refused_before_any_work(self) -> None:
        for path in (self.path.parent, self.path.parent / "nowhere" / "jobs.jsonl"):
            with self.assertRaisesRegex(RefusedInput, "read and written"):
                KeptOutcomes(path)

    @given(jobs=st.integers(1, 700), done=st.sets(st.integers(0, 700)))
    def test_every_open_job_is_in_one_portion_and_the_groups_take_turns(self, jobs: int, done: set[int]) -> None:
        found = portions(jobs, done)
        indices = [index for portion in found for index in portion]
        self.assertEqual(len(indices), len(set(indices)))
        self.assertLessEqual(set(range(jobs)) - done, set(indices))
        if jobs >= 400 and not done:
            first = {portion.start * 20 // jobs for portion in found[:20]}
            self.assertGreater(len(first), 10)


class Figures(TestCase):
    """What the worked jobs add up to."""

    def test_what_was_named_is_mended_and_the_job_goes_on_until_the_vehicle_is_right(self) -> None:
        jobs = [next(iter(simulated(60, 11, range(number, number + 1)))) for number in (0, 2)]
        for job in (item for item in jobs if item.hidden):
            outcome = BenchTechnician(job).finish()
            self.assertTrue(outcome.right and outcome.mended, f"{outcome}")
            self.assertGreaterEqual(outcome.visits, 1)

    def test_right_is_exactly_right_and_a_good_sensor_is_never_condemned_unseen(self) -> None:
        both, none = frozenset(("sensor", "wiring")), frozenset[str]()
        outcomes = [
            worked(0, frozenset(("sensor",))),  # right
            worked(1, both),  # one too many, but the sensor is bad
            worked(2, None),  # undecided
            replace(worked(3, both), truth=frozenset(("wiring",))),  # a good sensor condemned beside the fault
            replace(worked(4, none), truth=none, faults=()),  # nothing wrong, and said so
            replace(worked(5, None), truth=frozenset(("supply",))),
        ]
        found = figures(outcomes)
        counted = {name: round(found[name]["share"] * 6, 2) for name in ("right", "undecided", "wrong")}
        self.assertEqual(counted, {"right": 2, "undecided": 2, "wrong": 2})
        self.assertAlmostEqual(found["sensor_condemned_falsely"]["share"], 1 / 6, places=3)
        self.assertEqual(found["right_of_decided"]["share"], 0.5)
        self.assertEqual((found["mean_minutes"], found["mean_readings"]), (31.5, 9.0))
        self.assertEqual(sum(item["answers"] for item in found["calibration"]["bins"]), 12)
