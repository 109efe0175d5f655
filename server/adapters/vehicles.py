"""The adapter processes of simulated vehicles: one for each connected job that someone looks at.

An adapter listens on loopback only and proves a secret. It ends by itself when nobody asks it any more; the next question starts one
anew, at a parked vehicle.
"""

import json
import subprocess
import sys
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from multiprocessing.connection import Client, Connection
from pathlib import Path
from secrets import token_hex
from threading import Lock
from typing import Any

#: Adapters at a time; the one that was asked longest ago makes room.
MOST = 12
#: Seconds that an answer may take.
LONGEST_S = 20.0
ROOT = Path(__file__).parents[2]


class AdapterGone(Exception):
    """An adapter ended, or did not answer."""


class Adapter:
    """The server's end of one adapter process."""

    def __init__(self, held: dict[str, Any]) -> None:
        secret = token_hex(32)
        self._process = subprocess.Popen(
            [sys.executable, "-m", "dianoia.instruments.adapter"],
            cwd=ROOT,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
        )
        try:
            self._connection = self._connected(held, secret)
        except (OSError, ValueError, EOFError) as problem:
            self.end()
            raise AdapterGone from problem

    def _connected(self, held: dict[str, Any], secret: str) -> Connection:
        asked, told = self._process.stdin, self._process.stdout
        if asked is None or told is None:
            raise AdapterGone
        asked.write(json.dumps({**held, "secret": secret}) + "\n")
        asked.flush()
        return Client(("127.0.0.1", int(told.readline())), authkey=bytes.fromhex(secret))

    def ask(self, order: dict[str, Any]) -> dict[str, Any]:
        """Its answer. Raises AdapterGone."""
        try:
            self._connection.send_bytes(json.dumps(order).encode())
            if not self._connection.poll(LONGEST_S):
                raise AdapterGone
            answer: dict[str, Any] = json.loads(self._connection.recv_bytes())
        except (OSError, EOFError) as problem:
            raise AdapterGone from problem
        return answer

    def end(self) -> None:
        """Stop the process."""
        with suppress(AttributeError, OSError):
            self._connection.close()
        self._process.terminate()
        self._process.wait(5)
        for pipe in (self._process.stdin, self._process.stdout):
            if pipe is not None:
                pipe.close()


@dataclass
class _Place:
    """A job's adapter; orders of one job wait for each other, those of others do not."""

    lock: Lock = field(default_factory=Lock)
    adapter: Adapter | None = None


class Adapters:
    """The adapters that run, by the number of their job."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._places: dict[int, _Place] = {}

    def ask(self, job: int, held: Callable[[], dict[str, Any]], order: dict[str, Any]) -> dict[str, Any]:
        """What a job's vehicle answers. held: what a new adapter is to hold. Raises AdapterGone where it fails twice."""
        place = self._place(job)
        with place.lock:
            if place.adapter is not None:
                try:
                    return place.adapter.ask(order)
                except AdapterGone:
                    place.adapter.end()
                    place.adapter = None
            place.adapter = Adapter(held())
            return place.adapter.ask(order)

    def _place(self, job: int) -> _Place:
        with self._lock:
            place = self._places.pop(job, None) or _Place()
            self._places[job] = place  # the newest stands last
            oldest = [self._places.pop(next(iter(self._places))) for _ in range(len(self._places) - MOST)]
        for gone in oldest:
            _end(gone)
        return place

    def end(self, job: int) -> None:
        """Stop a job's adapter: its page was closed."""
        with self._lock:
            place = self._places.pop(job, None)
        if place is not None:
            _end(place)

    def end_all(self) -> None:
        """Stop all."""
        with self._lock:
            places, self._places = list(self._places.values()), {}
        for place in places:
            _end(place)


def _end(place: _Place) -> None:
    with place.lock:
        if place.adapter is not None:
            place.adapter.end()
            place.adapter = None


adapters = Adapters()
