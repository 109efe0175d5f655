"""Processes that work jobs out, so that more than one core works, and no request waits for another job's circuit.

A job is kept to its process, where its circuit's engine is kept, too. Each process has two lanes, a thread each: what is quick
(a reading judged) does not wait behind what is slow (what follows from it). With no processes all is done at once by the caller.
"""

import logging
import os
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from itertools import count
from multiprocessing import get_context
from multiprocessing.connection import Connection
from threading import Event, Lock, Thread
from typing import Any, Literal, TypeVar

_log = logging.getLogger(__name__)
T = TypeVar("T")
Lane = Literal["quick", "slow"]
LANES: tuple[Lane, ...] = ("quick", "slow")
#: Seconds after which a piece of work is given up.
LONGEST_S = 120.0
GOLDEN = (5**0.5 - 1) / 2


class WorkerGone(Exception):
    """A process ended while it worked."""


class Worker:
    """The caller's end of one process, which is started anew if it ends. begin: is called first in the process."""

    def __init__(self, begin: Callable[[], None]) -> None:
        self._first = begin
        self._numbers = count()
        self._lock = Lock()
        self._start()

    def _start(self) -> None:
        context = get_context("spawn")
        self._pipe, theirs = context.Pipe()
        self._waiting: dict[int, Future[Any]] = {}
        self._process = context.Process(target=_serve, args=(theirs, self._first), daemon=True, name="dianoia-worker")
        self._process.start()
        theirs.close()
        self._gone = Event()
        Thread(target=self._listen, args=(self._pipe, self._waiting, self._gone), daemon=True).start()

    def ask(self, lane: Lane, work: Callable[..., T], *args: Any) -> T:
        """What ``work`` returns there, or raises. Both have to be picklable. Raises WorkerGone where the process ended twice."""
        try:
            return self._asked(lane, work, *args)
        except WorkerGone:
            return self._asked(lane, work, *args)

    def _asked(self, lane: Lane, work: Callable[..., T], *args: Any) -> T:
        return self.begin(lane, work, *args).result(LONGEST_S)

    def begin(self, lane: Lane, work: Callable[..., T], *args: Any) -> "Future[T]":
        """Have it done without waiting. Raises WorkerGone where the process has just ended."""
        answer: Future[T] = Future()
        with self._lock:
            if self._gone.is_set():
                self._process.join(5)
                _log.error("a worker process ended with %s and is started anew", self._process.exitcode)
                self._start()
            number = next(self._numbers)
            self._waiting[number] = answer
            try:
                self._pipe.send((number, lane, work, args))
            except OSError as problem:
                self._gone.set()
                raise WorkerGone from problem
        return answer

    def _listen(self, pipe: Connection, waiting: dict[int, Future[Any]], gone: Event) -> None:
        try:
            while True:
                number, good, value = pipe.recv()
                answer = waiting.pop(number)
                answer.set_result(value) if good else answer.set_exception(value)
        except (EOFError, OSError):
            with self._lock:  # whoever asks from here on asks the next one
                gone.set()
                left = list(waiting.values())
            for answer in left:
                answer.set_exception(WorkerGone())

    def end(self) -> None:
        """Stop the process."""
        self._process.terminate()
        self._process.join(5)


def _serve(pipe: Connection, begin: Callable[[], None]) -> None:
    """The process's end: takes work until the caller is gone."""
    begin()
    lanes = {lane: ThreadPoolExecutor(1, thread_name_prefix=lane) for lane in LANES}
    sending = Lock()

    def answer(number: int, work: Callable[..., Any], args: tuple[Any, ...]) -> None:
        try:
            told = (number, True, work(*args))
        except Exception as problem:
            told = (number, False, problem)
        with sending:
            try:
                pipe.send(told)
            except (AttributeError, TypeError, ValueError) as problem:  # an answer that cannot be sent is one, too
                pipe.send((number, False, RuntimeError(f"{work.__name__}: {problem}")))

    while True:
        try:
            number, lane, work, args = pipe.recv()
        except (EOFError, OSError):
            os._exit(0)
        lanes[lane].submit(answer, number, work, args)


class Pool:
    """So many processes; none of them where all is done by the caller."""

    def __init__(self) -> None:
        self._workers: list[Worker] = []

    def start(self, processes: int, begin: Callable[[], None]) -> None:
        """Start the processes."""
        self._workers = [Worker(begin) for _ in range(processes)]

    def ask(self, job: int, lane: Lane, work: Callable[..., T], *args: Any) -> T:
        """Have something of a job worked out. job: its number; the same goes to the same process."""
        if not self._workers:
            return work(*args)
        try:
            return self._of(job).ask(lane, work, *args)
        except WorkerGone:
            _log.error("a worker process ended twice over %s: it is done here", work.__name__)
            return work(*args)

    def _of(self, job: int) -> Worker:
        """A job's process. Spread by the golden ratio: of any regular choice of jobs, as every second one, about as many to each."""
        return self._workers[int(len(self._workers) * (job * GOLDEN % 1.0))]

    def tell(self, job: int, lane: Lane, work: Callable[..., object], *args: Any) -> None:
        """Have something of a job done that nobody waits for; what comes of it, and whether, is not told."""
        if not self._workers:
            work(*args)
            return
        with suppress(WorkerGone):
            self._of(job).begin(lane, work, *args)

    def end(self) -> None:
        """Stop all."""
        for worker in self._workers:
            worker.end()
        self._workers = []


pool = Pool()
