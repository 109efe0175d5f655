"""Processes that work jobs out: more than one core, quick work that does not wait, and one that ends is replaced."""

import os
from collections import Counter
from threading import Thread
from time import perf_counter, sleep
from typing import Any
from unittest import TestCase

from dianoia.errors import RefusedInput, refuse
from server.jobs.workers import Pool, Worker


def nothing() -> None:
    pass


def who() -> int:
    return os.getpid()


def slow(seconds: float) -> int:
    sleep(seconds)
    return os.getpid()


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

    def test_a_job_is_kept_to_its_process_and_two_jobs_run_at_once(self) -> None:
        first, second, again = (self.pool.ask(job, "slow", who) for job in (1, 2, 3))
        self.assertEqual((first, first == second, os.getpid() in (first, second)), (again, False, False))
        start = perf_counter()
        both = [Thread(target=self.pool.ask, args=(job, "slow", slow, 0.5)) for job in (1, 2)]
        for thread in both:
            thread.start()
        for thread in both:
            thread.join()
        self.assertLess(perf_counter() - start, 0.95)

    def test_what_is_quick_does_not_wait_behind_what_is_slow(self) -> None:
        waiting = Thread(target=self.pool.ask, args=(1, "slow", slow, 1.0))
        waiting.start()
        sleep(0.1)
        start = perf_counter()
        self.pool.ask(1, "quick", who)
        self.assertLess(perf_counter() - start, 0.5)
        waiting.join()

    def test_what_is_refused_there_is_refused_here_with_its_findings(self) -> None:
        with self.assertRaises(RefusedInput) as refusal:
            self.pool.ask(1, "quick", refused)
        self.assertEqual([item.field for item in refusal.exception.findings], ["value"])

    def test_one_that_ends_is_started_anew_and_the_work_is_done(self) -> None:
        worker = Worker(nothing)
        self.addCleanup(worker.end)
        before = worker.ask("quick", who)
        found: list[Any] = []
        asked = Thread(target=lambda: found.append(worker.ask("slow", slow, 1.0)))
        asked.start()
        sleep(0.2)
        with self.assertLogs("server.jobs.workers", "ERROR"):
            os.kill(before, 9)
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
