"""Measures the simulated vehicle: ten minutes of its time, one look through the server, and a reading from "Read it" to the display.

Run against a served application: ``.venv/bin/python scripts/measure_instruments.py http://127.0.0.1:8000``. It adds a job.
"""

import statistics
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from bench_people import Session
from playwright.sync_api import Page, sync_playwright

from dianoia.instruments.vehicle import SimulatedVehicle

ROUNDS = 40
#: Between readings, in ms.
PAUSE_MS = 700
#: Until what the server prepares ahead of a new job is done, in ms.
SETTLES_MS = 15_000
MEASURED = (("switching-3w", 1), ("switching-4w", 2), ("airfuel-4w", 2), ("nox-can-4w", 1))
CASE = {
    "format": "dianoia-case/1", "vehicle": {"label": "Measured on a simulated vehicle"}, "codes": [{"code": "P0135"}], "simulated": 3,
}  # fmt: skip
READ = """() => new Promise(done => {
  const input = document.querySelector('.display input');
  const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set;
  set.call(input, ''); input.dispatchEvent(new Event('input', {bubbles: true}));
  requestAnimationFrame(() => {
    const start = performance.now();
    const look = () => input.value ? done(performance.now() - start) : requestAnimationFrame(look);
    [...document.querySelectorAll('.vehicle-bar button')].find(item => item.textContent === 'Read it').click();
    look();
  });
})"""


def ten_minutes_ms(family: str, banks: int) -> float:
    """Milliseconds of this process for ten simulated minutes from a cold start, the best of three."""
    found = []
    for _ in range(3):
        known = {} if family.startswith("nox") else {"sensor_banks": banks}
        vehicle = SimulatedVehicle(family, (), 5, **known)  # type: ignore[arg-type]
        vehicle.turn(key="running")
        began = time.process_time()
        vehicle.wait(600.0)
        found.append(1e3 * (time.process_time() - began))
    return min(found)


def looks_ms(session: Session, job: int) -> list[float]:
    """Milliseconds of one look through the server, each with a reading."""
    probe = {"measure": "voltage", "red": "harness.heater_supply", "black": "battery.negative"}
    found = []
    for _ in range(ROUNDS):
        began = time.perf_counter()
        session.send(f"/api/jobs/{job}/vehicle", {"probe": {**probe, "key": "running", "connector": "mated"}})
        found.append(1e3 * (time.perf_counter() - began))
    return found


def read_ms(page: Page) -> list[float]:
    """Milliseconds from the touch to the value in the meter's display."""
    found = []
    for _ in range(ROUNDS):
        found.append(float(page.evaluate(READ)))
        page.wait_for_timeout(PAUSE_MS)
    return found


def said(name: str, found: list[float]) -> str:
    """Median and 95th percentile in words."""
    return f"{name}: median {statistics.median(found):.0f} ms, p95 {statistics.quantiles(found, n=20)[-1]:.0f} ms"


def main(base: str) -> None:
    """Print the figures."""
    for family, banks in MEASURED:
        print(f"ten simulated minutes, {family}, {banks} banks: {ten_minutes_ms(family, banks):.0f} ms")
    session = Session(base, "Ana")
    job = int(session.send("/api/jobs/import", CASE)["id"])
    session.send(f"/api/jobs/{job}/vehicle", {"turn": {"key": "running"}, "wait_s": 30})
    print(said("a look with a reading", looks_ms(session, job)))
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.context.add_cookies([{"name": "sessionid", "value": session.cookie("sessionid"), "url": base}])
        page.goto(f"{base}/jobs/{job}")
        page.get_by_role("button", name="Read it").wait_for()
        page.wait_for_timeout(SETTLES_MS)
        print(said("from the touch to the display", read_ms(page)))
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8000")
