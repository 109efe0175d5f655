"""What a store of many jobs costs: pages of the list, the start page in a browser, pages left open, and checking the ledger.

    python scripts/measure_growth.py --jobs 100000 --folder /tmp/grown

Fills a store of its own in the folder with copies of the demo jobs, each with its ledger and under a vehicle and time of its own. A
folder that is filled already is measured as it is. Serves it, and prints the waiting times and the processor time used.
"""

import argparse
import os
import statistics
import subprocess
import sys
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from functools import partial
from http.client import HTTPConnection
from pathlib import Path
from time import perf_counter, process_time, sleep

ROOT = Path(__file__).resolve().parents[1]
ADDRESS = "127.0.0.1:8031"
#: Pages of the list that people ask for.
LISTS = {
    "first page": "/api/jobs?size=8", "decided": "/api/jobs?which=decided&size=8", "search": "/api/jobs?words=ambulance+77&size=8",
    "by vehicle, page 3": "/api/jobs?order=vehicle&page=3&size=8", "page 500": "/api/jobs?page=500&size=8",
}  # fmt: skip
ROUNDS, OPEN_PAGES, WATCHED_S, POLLED_EVERY_S = 40, 20, 20.0, 1.5
CHUNK = 500


def fill(jobs: int) -> None:
    """Copies of the demo jobs until there are so many."""
    from django.core.management import call_command
    from django.db import transaction

    from server.jobs.search import columns
    from server.ledger.chain import link, record
    from server.ledger.models import Entry, Job

    if not Job.objects.exists():
        call_command("load_demo")
    sources = [(job, list(job.ledger.all())) for job in Job.objects.exclude(summary={})]
    newest = Entry.objects.order_by("-number").first()
    assert newest is not None
    number, before, at = newest.number, newest.hash, newest.at
    start = datetime.now(UTC)
    for first in range(Job.objects.count(), jobs, CHUNK):
        with transaction.atomic():
            chosen = [sources[count % len(sources)] for count in range(first, min(first + CHUNK, jobs))]
            summaries = [
                {**job.summary, "vehicle": f"{job.summary['vehicle']} {first + count}"}
                for count, (job, _) in enumerate(chosen)
            ]
            made = Job.objects.bulk_create(
                Job(header=job.header, codes=job.codes, entries=job.entries, lines=job.lines, **columns(summary))
                for (job, _), summary in zip(chosen, summaries, strict=True)
            )
            entries = []
            for job, (_, rows) in zip(made, chosen, strict=True):
                for row in rows:
                    number += 1
                    before = link(before, record(number, job.pk, row.place, row.kind, row.by, at, row.body))
                    entries.append(Entry(number=number, job=job, place=row.place, line=row.line, kind=row.kind, body=row.body,
                                         person_id=row.person_id, by=row.by, at=at, hash=before))  # fmt: skip
            Entry.objects.bulk_create(entries)
            for count, job in enumerate(made):
                Job.objects.filter(pk=job.pk).update(updated=start - timedelta(minutes=first + count))
        print(f"\rjobs: {first + len(made)} of {jobs} ", end="", file=sys.stderr, flush=True)
    print(file=sys.stderr)


def timed(ask: Callable[[], object], rounds: int = ROUNDS) -> str:
    """Median and 95th percentile of the waiting times, in milliseconds."""
    found = []
    for _ in range(rounds):
        start = perf_counter()
        ask()
        found.append((perf_counter() - start) * 1e3)
    return f"median {statistics.median(found):.1f} ms, p95 {sorted(found)[int(0.95 * rounds)]:.1f} ms"


class Browser:
    """A browser's connection, which stays open."""

    def __init__(self) -> None:
        self.connection, self.cookie, self.tag = HTTPConnection(ADDRESS), "", ""

    def asked(self, path: str, **headers: str) -> int:
        """Status of the answer; 0 where there is none."""
        try:
            self.connection.request(
                "GET", path, headers={**headers, **({"Cookie": self.cookie} if self.cookie else {})}
            )
            answer = self.connection.getresponse()
            answer.read()
            if told := answer.getheader("Set-Cookie"):
                self.cookie = told.split(";")[0]
            self.tag = answer.getheader("ETag", "")
            return answer.status
        except OSError:
            self.connection.close()
            return 0


def start_page() -> str:
    """From the address to the first line of the list on screen: in a browser that has kept nothing, and in one that was here before."""
    from playwright.sync_api import sync_playwright

    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])

        page = browser.new_page()

        def opened() -> None:
            page.goto(f"http://{ADDRESS}/")
            page.locator(".job-row").first.wait_for()

        first = timed(opened, 1)
        page.wait_for_timeout(5000)
        return f"first visit {first}; later {timed(opened, 20)}"


def processor_s(pid: int) -> float:
    """Seconds of processor time that a process and its children have used."""
    total = 0.0
    for path in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = path.read_text().rsplit(")", 1)[1].split()
        except OSError:
            continue
        if int(path.parent.name) == pid or int(fields[1]) == pid:
            total += (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")
    return total


def open_pages(pid: int) -> str:
    """Share of one core that pages cost which are only open."""
    pages = [Browser() for _ in range(OPEN_PAGES)]
    for page in pages:
        page.asked("/")
    before, start = processor_s(pid), perf_counter()
    while perf_counter() - start < WATCHED_S:
        for number, page in enumerate(pages, start=1):
            page.asked(f"/api/jobs/{number}/stand", **{"If-None-Match": page.tag})
            sleep(POLLED_EVERY_S / OPEN_PAGES)
    return f"{100 * (processor_s(pid) - before) / (perf_counter() - start):.1f} % of a core"


def verified() -> str:
    """How long the whole ledger takes to check."""
    from server.ledger.verification import problems

    start, used = perf_counter(), process_time()
    found = sum(1 for _ in problems())
    return f"{perf_counter() - start:.1f} s ({process_time() - used:.1f} s of the processor), {found} problems"


def main() -> None:
    """Fill, serve, measure."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--jobs", type=int, default=100_000)
    options.add_argument("--folder", type=Path, required=True)
    chosen = options.parse_args()
    os.environ.update(
        DIANOIA_VAR=str(chosen.folder), DIANOIA_BENCH="1", DJANGO_SETTINGS_MODULE="server.settings", DIANOIA_LOG="ERROR"
    )
    sys.path.insert(0, str(ROOT))
    import django

    django.setup()
    from django.core.management import call_command

    from server.ledger.models import Entry, Job

    call_command("upgrade")
    fill(chosen.jobs)
    print(f"{Job.objects.count()} jobs, {Entry.objects.count()} entries")
    print(f"ledger checked: {verified()}")
    server = subprocess.Popen([sys.executable, ROOT / "manage.py", "serve", "--listen", ADDRESS])
    try:
        page = Browser()
        while page.asked("/healthz") not in (200, 503):
            sleep(0.3)
        for name, path in LISTS.items():
            print(f"{name}: {timed(partial(page.asked, path))}")
        print(f"stand: {timed(partial(page.asked, '/api/jobs/5/stand'))}")
        print(f"start page: {start_page()}")
        print(f"{OPEN_PAGES} open pages: {open_pages(server.pid)}")
    finally:
        server.terminate()
        server.wait(timeout=20)


if __name__ == "__main__":
    main()
