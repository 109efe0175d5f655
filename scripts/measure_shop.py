"""A full shop against a running bench server: people who each take a reading every ten seconds, and what they wait for.

    python scripts/measure_shop.py http://127.0.0.1:8000 --people 20 --minutes 10 --pid 1234

Each person works on two jobs in turn, of all sensor families; what the meter shows comes from the second car. After half of the
time a case of 500 readings is imported. Prints the waiting times for a judgement and for what follows from it, the errors, and
the memory of the server's processes over time.
"""

import argparse
import sys
from dataclasses import dataclass, field
from pathlib import Path
from random import Random
from threading import Lock, Thread
from time import perf_counter, sleep
from typing import Any
from urllib.error import HTTPError, URLError

sys.path.insert(0, str(Path(__file__).parents[1]))

from bench_people import Session

from dianoia.simulated.job import work

EVERY_S = 10.0
#: What is seen where something is looked at or done.
SEEN = {"inspect": "ok", "clear-codes": "returned-at-once", "swap-sensors": "code-stayed", "wiggle": "no-change"}


@dataclass
class Measured:
    """Seconds waited, what went wrong, and megabytes used."""

    judged: list[float] = field(default_factory=list)
    concluded: list[float] = field(default_factory=list)
    errors: list[str] = field(default_factory=list)
    memory: list[float] = field(default_factory=list)
    lock: Lock = field(default_factory=Lock)

    def add(self, seconds: list[float], value: float) -> None:
        """Note a wait."""
        with self.lock:
            seconds.append(value)


class Person(Thread):
    """Takes a reading every ten seconds, each as proposed, on two jobs in turn."""

    def __init__(self, number: int, url: str, until: float, found: Measured) -> None:
        super().__init__(daemon=True)
        self.number, self.until, self.found = number, until, found
        self.page = Session(url, f"Person {number}")
        self.random = Random(number)
        self.jobs = [self.begin(2 * number + k) for k in range(2)]

    def begin(self, seed: int) -> tuple[Any, dict[str, Any]]:
        """A new job on a car of its own."""
        job, _, bench = work(77, seed)
        plain = {**job.case, "readings": []}
        return bench, self.page.send("/api/jobs/import", plain)

    def run(self) -> None:
        """Work until the time is over."""
        sleep(self.random.uniform(0, EVERY_S))
        turn = 0
        while perf_counter() < self.until:
            start = perf_counter()
            try:
                self.jobs[turn % 2] = self.reading(*self.jobs[turn % 2], turn)
            except (HTTPError, URLError, OSError) as problem:
                said = problem.read().decode()[:200] if isinstance(problem, HTTPError) else ""
                self.found.errors.append(f"{problem} {said}")
            turn += 1
            sleep(max(0.0, EVERY_S - (perf_counter() - start)))

    def reading(self, bench: Any, view: dict[str, Any], turn: int) -> tuple[Any, dict[str, Any]]:
        """Take the proposed one; with none left, or after twenty, another job is begun."""
        proposed = view["verdict"]["next"]
        if proposed is None or len(view["ledger"]) >= 20:
            return self.begin(1000 + 100 * self.number + turn)
        probe = {name: value for name, value in proposed["reading"].items() if value is not None}
        shown = SEEN.get(probe.get("action") or probe["measure"]) or bench.read(probe)
        if not shown:  # the second car has no such reading
            return self.begin(1000 + 100 * self.number + turn)
        start = perf_counter()
        self.page.send(f"/api/jobs/{view['id']}/readings", {**probe, "value": shown})
        judged = perf_counter()
        view = self.page.get(f"/api/jobs/{view['id']}")
        self.found.add(self.found.judged, judged - start)
        self.found.add(self.found.concluded, perf_counter() - judged)
        return bench, view


def megabytes(pid: int) -> float:
    """Resident memory of a process and its children, what they share counted once."""
    pids, total = [pid], 0.0
    for one in pids:
        children = Path(f"/proc/{one}/task/{one}/children")
        pids += [int(text) for text in children.read_text().split()] if children.exists() else []
        for line in Path(f"/proc/{one}/smaps_rollup").read_text().splitlines():
            total += int(line.split()[1]) / 1024 if line.startswith("Pss:") else 0.0
    return total


def percentile(values: list[float], share: float) -> float:
    """The value below which a share lies; nan for none."""
    return sorted(values)[min(len(values) - 1, int(share * len(values)))] if values else float("nan")


def import_much(url: str, found: Measured) -> None:
    """A case of 500 readings."""
    case = {"format": "dianoia-case/1", "vehicle": {"label": "Long one"}, "codes": [{"code": "P0135"}]}
    reading = {
        "measure": "voltage",
        "red": "harness.heater_supply",
        "black": "battery.negative",
        "key": "running",
        "connector": "mated",
    }
    readings = [
        {
            **reading,
            "value": f"{13 + (place % 9) / 10} V",
            "taken": f"2026-01-05T{8 + place // 60:02d}:{place % 60:02d}:00Z",
        }
        for place in range(500)
    ]
    try:
        Session(url, "Importer").send("/api/jobs/import", {**case, "readings": readings})
    except (HTTPError, URLError, OSError) as problem:
        found.errors.append(f"import: {problem}")


def main() -> None:
    """Run it and print the figures."""
    options = argparse.ArgumentParser()
    options.add_argument("url")
    options.add_argument("--people", type=int, default=20)
    options.add_argument("--minutes", type=float, default=10.0)
    options.add_argument("--pid", type=int)
    told = options.parse_args()
    found = Measured()
    begun = perf_counter()
    until = begun + 3600
    people = [Person(number, told.url, until, found) for number in range(told.people)]
    print(f"{2 * told.people} jobs opened in {perf_counter() - begun:.0f} s", flush=True)
    until = perf_counter() + 60 * told.minutes
    for person in people:
        person.until = until
        person.start()
    half = perf_counter() + 30 * told.minutes
    importing: Thread | None = None
    while perf_counter() < until:
        sleep(5)
        if told.pid:
            found.memory.append(megabytes(told.pid))
        if importing is None and perf_counter() > half:
            importing = Thread(target=import_much, args=(told.url, found), daemon=True)
            importing.start()
    for person in people:
        person.join(60)
    for name, values in (("judgement", found.judged), ("conclusion", found.concluded)):
        print(f"{name}: {len(values)}, median {1000 * percentile(values, 0.5):.0f} ms, p95 {1000 * percentile(values, 0.95):.0f} ms, "
              f"worst {1000 * max(values, default=0):.0f} ms")  # fmt: skip
    print(f"errors: {len(found.errors)} {found.errors[:3]}")
    if found.memory:
        print(
            "memory, MB:",
            *(f"{found.memory[int(share * (len(found.memory) - 1))]:.0f}" for share in (0, 0.25, 0.5, 0.75, 1)),
        )


if __name__ == "__main__":
    main()
