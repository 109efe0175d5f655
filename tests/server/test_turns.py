"""Whose turn it is: the urgent goes first, and nobody waits for what stands still on another's account."""

from contextlib import ExitStack
from threading import Event, Thread
from time import perf_counter
from unittest import TestCase

from dianoia.scheduling import checkpoint, new_lock
from server.work.turns import Lock, Turn, give_way, taking


class Turns(TestCase):
    """Three threads: one works ahead, one concludes, one has a reading judged."""

    def ahead(self, lock: Lock) -> tuple[Thread, Event, list[float]]:
        """A thread that works ahead with a lock held, and gives way once; when it went on, in seconds."""
        held, went_on = Event(), list[float]()

        def work() -> None:
            with taking(Turn.AHEAD), lock:
                held.set()
                begun = perf_counter()
                give_way(5.0)
                went_on.append(perf_counter() - begun)

        thread = Thread(target=work, daemon=True)
        return thread, held, went_on

    def test_what_can_wait_stands_still_while_a_conclusion_is_worked_out(self) -> None:
        thread, held, went_on = self.ahead(Lock())
        with taking(Turn.CONCLUDING):
            thread.start()
            held.wait(5.0)
            thread.join(0.3)
            self.assertEqual(went_on, [])
        thread.join(5.0)
        self.assertLess(went_on[0], 3.0)

    def test_whoever_holds_what_another_waits_for_does_not_stand_still(self) -> None:
        for waiting, others, goes_on in (
            (Turn.CONCLUDING, [Turn.CONCLUDING], True),
            (Turn.JUDGING, [Turn.CONCLUDING], True),
            (Turn.CONCLUDING, [Turn.CONCLUDING, Turn.JUDGING], False),
        ):
            with self.subTest(waiting=waiting, others=others):
                lock = Lock()
                thread, held, went_on = self.ahead(lock)
                with ExitStack() as at_work:
                    for turn in others:
                        at_work.enter_context(taking(turn))
                    thread.start()
                    held.wait(5.0)
                    waits = Thread(target=self.take, args=(lock, waiting), daemon=True)
                    waits.start()
                    waits.join(0.5)
                    self.assertEqual(bool(went_on), goes_on)
                thread.join(5.0)
                waits.join(5.0)

    def test_the_core_is_run_by_these_turns(self) -> None:
        self.assertIsInstance(new_lock(), Lock)
        went_on = list[bool]()

        def work() -> None:
            with taking(Turn.AHEAD):
                checkpoint()
                went_on.append(True)

        thread = Thread(target=work, daemon=True)
        with taking(Turn.CONCLUDING):
            thread.start()
            thread.join(0.3)
            self.assertEqual(went_on, [])
        thread.join(5.0)
        self.assertEqual(went_on, [True])

    @staticmethod
    def take(lock: Lock, turn: Turn) -> None:
        """Take it and let it go."""
        with taking(turn), lock:
            pass
