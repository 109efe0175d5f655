"""Kills the server while readings are written, again and again, and looks whether an acknowledged one is missing or doubled.

    python scripts/measure_kills.py --kills 200

Runs a store and a server of its own in a temporary folder. Each writer sends a reading (with ``--importing`` a case of fifty) under one
key until it is acknowledged, and drops one in five answers on purpose, as if it had been lost.
"""

import argparse
import os
import signal
import sqlite3
import subprocess
import sys
import tempfile
from contextlib import closing
from http.client import HTTPException
from pathlib import Path
from random import Random
from socket import socket
from threading import Event, Thread
from time import sleep
from typing import Any
from urllib.error import HTTPError, URLError
from urllib.request import urlopen

from bench_people import Session

ROOT = Path(__file__).resolve().parents[1]
#: Readings of an imported case.
IMPORTED = 50
READING = {
    "measure": "voltage",
    "red": "harness.heater_supply",
    "black": "battery.negative",
    "key": "running",
    "connector": "mated",
}


class Writer(Thread):
    """Writes numbered readings to a job of its own. acknowledged: the notes of those that the server has answered."""

    def __init__(self, url: str, number: int, over: Event, importing: bool) -> None:
        super().__init__(daemon=True)
        self.url, self.number, self.over, self.importing = url, number, over, importing
        self.acknowledged: set[str] = set()
        self.random = Random(number)
        self.session = Session(url, f"Writer {number}")
        self.job = self.session.send("/api/jobs", {"codes": "P0135", "vehicle": {"label": f"Van {number}"}})["id"]

    def run(self) -> None:
        """Write until it is over, 400 at the most."""
        for count in range(400):
            note, dropped = f"{self.number}/{count}", self.random.random() < 0.2
            while not self.over.is_set():
                try:
                    path, body = self.what(note)
                    self.session.send(path, body, **{"Idempotency-Key": f"writer-{note}"})
                except (HTTPError, URLError, OSError, HTTPException):
                    sleep(0.05)
                    continue
                if dropped:  # the answer was lost: it is sent again
                    dropped = False
                    continue
                self.acknowledged.add(note)
                break

    def what(self, note: str) -> tuple[str, dict[str, Any]]:
        """Where the next write goes, and what it is."""
        reading = {**READING, "value": "13.8 V"}
        if not self.importing:
            return f"/api/jobs/{self.job}/readings", {**reading, "note": note}
        readings = [{**reading, "note": note if line == IMPORTED - 1 else ""} for line in range(IMPORTED)]
        case = {
            "format": "dianoia-case/1",
            "vehicle": {"label": note},
            "codes": [{"code": "P0135"}],
            "readings": readings,
        }
        return "/api/jobs/import", case


def serve(folder: str, port: int) -> subprocess.Popen[bytes]:
    """A server, answering."""
    told = {
        **os.environ,
        "DIANOIA_VAR": folder,
        "DIANOIA_BENCH": "1",
        "DIANOIA_WORKERS": "0",
        "DIANOIA_LOG": "CRITICAL",
    }
    command = [sys.executable, str(ROOT / "manage.py"), "serve", "--listen", f"127.0.0.1:{port}"]
    return subprocess.Popen(command, env=told, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


def answers(url: str) -> None:
    """Wait until the server answers."""
    for _ in range(600):
        try:
            urlopen(f"{url}/healthz", timeout=2).close()
            return
        except OSError:
            sleep(0.1)


def main() -> None:
    """Kill, then count."""
    options = argparse.ArgumentParser()
    options.add_argument("--kills", type=int, default=200)
    options.add_argument("--importing", action="store_true")
    options.add_argument("--port", type=int, default=8765)
    told = options.parse_args()
    folder = tempfile.mkdtemp(prefix="dianoia-kills-")
    environment = {**os.environ, "DIANOIA_VAR": folder, "DIANOIA_BENCH": "1"}
    manage = [sys.executable, str(ROOT / "manage.py")]
    subprocess.run([*manage, "upgrade"], env=environment, check=True)
    url, over, random = f"http://127.0.0.1:{told.port}", Event(), Random(1)
    with socket() as taken:
        if taken.connect_ex(("127.0.0.1", told.port)) == 0:
            sys.exit(f"Port {told.port} is taken: another server would be measured.")
    server = serve(folder, told.port)
    answers(url)
    writers = [Writer(url, number, over, told.importing) for number in range(4)]
    for writer in writers:
        writer.start()
    for kill in range(told.kills):
        answers(url)
        sleep(random.uniform(0.1, 1.5))
        server.send_signal(signal.SIGKILL)
        server.wait()
        server = serve(folder, told.port)
        if kill % 20 == 19:
            print(f"{kill + 1} kills, {sum(len(writer.acknowledged) for writer in writers)} acknowledged", flush=True)
    sleep(5)
    over.set()
    for writer in writers:
        writer.join(10)
    server.terminate()
    server.wait()
    with closing(sqlite3.connect(Path(folder) / "dianoia.sqlite3")) as store:
        rows = [
            row[0]
            for row in store.execute(
                "SELECT json_extract(body, '$.reading.note') FROM jobs_entry WHERE kind = 'reading' "
                "AND json_extract(body, '$.reading.note') <> ''"
            )
        ]
        halves = store.execute(
            "SELECT count(*) FROM (SELECT job_id FROM jobs_entry WHERE kind = 'reading' GROUP BY job_id HAVING count(*) <> ?)",
            (IMPORTED,),
        ).fetchone()[0]
        whole = store.execute("PRAGMA integrity_check").fetchone()[0]
    acknowledged = set().union(*(writer.acknowledged for writer in writers))
    print(f"{told.kills} kills; acknowledged {len(acknowledged)}, missing {len(acknowledged - set(rows))}, doubled {len(rows) - len(set(rows))}; "
          f"integrity {whole}" + (f", imported in part {halves}" if told.importing else ""))  # fmt: skip
    subprocess.run([*manage, "verify_ledger"], env=environment, check=False)


if __name__ == "__main__":
    main()
