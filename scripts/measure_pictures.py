"""Sends harmful pictures to a server of its own and looks at its answers, their time and its memory.

    python scripts/measure_pictures.py --damaged 2000

Twenty hostile pictures (pages of PostScript, few bytes that say they are thirty million pixels) must leave the server's memory
within 100 MB of before. None of the damaged ones may be answered 5xx or take over 5 s.
"""

import argparse
import os
import subprocess
import sys
import tempfile
from collections import Counter
from http.client import HTTPConnection
from pathlib import Path
from time import perf_counter, sleep

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from bench_people import Session
from measure_kills import ROOT, answers, serve

from tests import pictures


def memory_mb(pid: int) -> float:
    """What the process holds, in MB."""
    status = Path(f"/proc/{pid}/status").read_text(encoding="utf-8")
    return next(int(line.split()[1]) for line in status.splitlines() if line.startswith("VmRSS")) / 1000


def send(session: Session, port: int, path: str, data: bytes) -> tuple[int, float]:
    """The status of the answer, and its seconds."""
    headers = {
        "Content-Type": "image/png",
        "X-CSRFToken": session.cookie("csrftoken"),
        "Cookie": "; ".join(f"{cookie.name}={cookie.value}" for cookie in session.cookies.cookiejar),
    }
    began = perf_counter()
    asked = HTTPConnection("127.0.0.1", port, timeout=60)
    asked.request("PUT", path, data, headers)
    answer = asked.getresponse()
    answer.read()
    return answer.status, perf_counter() - began


def main() -> None:
    """Send them, then count."""
    options = argparse.ArgumentParser()
    options.add_argument("--damaged", type=int, default=2000)
    options.add_argument("--port", type=int, default=8766)
    told = options.parse_args()
    folder = tempfile.mkdtemp(prefix="dianoia-pictures-")
    environment = {**os.environ, "DIANOIA_VAR": folder, "DIANOIA_BENCH": "1"}
    subprocess.run([sys.executable, str(ROOT / "manage.py"), "upgrade"], env=environment, check=True)
    server = serve(folder, told.port)
    try:
        answers(f"http://127.0.0.1:{told.port}")
        session = Session(f"http://127.0.0.1:{told.port}", "Ana")
        send(session, told.port, "/api/workshop/mark", pictures.picture())
        before = memory_mb(server.pid)
        hostile = [
            pictures.POSTSCRIPT,
            pictures.huge_png(),
            pictures.huge_png(6000, 5000),
            pictures.picture("WEBP", (5400, 5400)),
        ]
        said = Counter(send(session, told.port, "/api/workshop/mark", data)[0] for data in hostile * 5)
        sleep(1)
        children = subprocess.run(
            ["pgrep", "-c", "-P", str(server.pid)], capture_output=True, text=True, check=False
        ).stdout
        print(
            f"20 hostile: {dict(said)}; memory {before:.0f} -> {memory_mb(server.pid):.0f} MB; other programs {children.strip()}"
        )
        taken = [send(session, told.port, "/api/workshop/mark", data) for data in pictures.damaged(told.damaged)]
        longest = max(seconds for _, seconds in taken)
        print(f"{told.damaged} damaged: {dict(Counter(status for status, _ in taken))}, longest {longest:.2f} s; "
              f"memory {memory_mb(server.pid):.0f} MB")  # fmt: skip
    finally:
        server.terminate()
        server.wait()


if __name__ == "__main__":
    main()
