"""Processes that work jobs out: more than one core, quick work that does not wait, and one that ends is replaced."""

import os
from collections import Counter
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory
from threading import Thread
from time import monotonic, sleep
from typing import Any
from unittest import TestCase

from dianoia.errors import RefusedInput, refuse
from server.work import diagnosis_tasks
from server.work.processes import Pool, Worker
from tests.cases import BATTERY, case


def nothing() -> None:
    pass


def who() -> int:
    return os.getpid()


def stands_until(word: Path, begun: Path) -> int:
    """Says that it has begun and waits for a word, half a minute at most. Returns its process, 0 where no word came."""
    begun.touch()
    end = monotonic() + 30
    while not word.exists() and monotonic() < end:
        sleep(0.01)
    return os.getpid() if word.exists() else 0


def refused() -> None:
    raise refuse("value", "a voltage", "6 ohm")


def ends() -> None:
    os._exit(3)


class Processes(TestCase):
    """Real ones."""

    pool: Pool

    @classmethod
    def setUpClass(cls) -> None:
        cls.pool = Pool()
        cls.pool.start(2, nothing)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.pool.end()

    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.one, self.other = Path(folder.name, "one"), Path(folder.name, "other")

    def standing(self, job: int, word: Path, begun: Path, met: list[int]) -> Thread:
        return Thread(target=lambda: met.append(self.pool.ask(job, "slow", stands_until, word, begun)))

    def test_a_job_is_kept_to_its_process_and_two_jobs_run_at_once(self) -> None:
        first, second, again = (self.pool.ask(job, "slow", who) for job in (1, 2, 3))
        self.assertEqual((first, first == second, os.getpid() in (first, second)), (again, False, False))
        met: list[int] = []
        both = [
            self.standing(1, self.one, self.other, met),
            self.standing(2, self.other, self.one, met),
        ]
        for thread in both:
            thread.start()
        for thread in both:
            thread.join()
        self.assertEqual(sorted(met), sorted([first, second]), "each began before the other had ended")

    def test_what_is_quick_does_not_wait_behind_what_is_slow(self) -> None:
        met: list[int] = []
        waiting = self.standing(1, self.one, self.other, met)
        waiting.start()
        stands_until(self.other, self.other.with_name("here"))
        quick = self.pool.ask(1, "quick", who)
        self.one.touch()
        waiting.join()
        self.assertEqual(met, [quick])

    def test_what_is_refused_there_is_refused_here_with_its_findings(self) -> None:
        with self.assertRaises(RefusedInput) as refusal:
            self.pool.ask(1, "quick", refused)
        self.assertEqual([item.field for item in refusal.exception.findings], ["value"])

    def test_one_that_ends_is_started_anew_and_the_work_is_done(self) -> None:
        worker = Worker(nothing)
        self.addCleanup(worker.end)
        before = worker.ask("quick", who)
        found: list[Any] = []
        asked = Thread(target=lambda: found.append(worker.ask("slow", stands_until, self.one, self.other)))
        asked.start()
        stands_until(self.other, self.other.with_name("here"))
        with self.assertLogs("server.work.processes", "ERROR"):
            os.kill(before, 9)
            self.one.touch()
            asked.join()
        self.assertNotEqual(found, [before])
        self.assertEqual(found, [worker.ask("quick", who)])

    def test_jobs_are_spread_evenly_whichever_are_worked_on(self) -> None:
        pool = Pool()
        for processes in (2, 3, 4):
            pool._workers = [f"process {number}" for number in range(processes)]  # type: ignore[misc]
            for every in (1, 2, 3, 4, 10):
                with self.subTest(processes=processes, every=every):
                    met = Counter(pool._of(job) for job in range(1, 40 * every + 1, every))
                    self.assertGreaterEqual(min(met[item] for item in pool._workers), 40 // processes - 4)

    def test_without_processes_the_caller_does_it(self) -> None:
        self.assertEqual(Pool().ask(1, "slow", who), os.getpid())


class Served(TestCase):
    """The process that a served application has."""

    def test_it_begins_and_judges_a_reading(self) -> None:
        worker = Worker(partial(diagnosis_tasks.begin, 50_000_000))
        self.addCleanup(worker.end)
        _, judged = worker.ask("quick", diagnosis_tasks.judged, case(BATTERY))
        self.assertEqual(judged.result, "pass")
