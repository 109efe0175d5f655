"""Measures recordings: ``trace`` against a bare read of the same file, a million samples from the drop to the picture, and panning.

Run against a served application: ``.venv/bin/python scripts/measure_recordings.py http://127.0.0.1:8000``. It adds a job.
"""

import statistics
import subprocess
import sys
import time
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from bench_people import Session
from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).resolve().parents[1]
ROUNDS, ROWS, FRAMES = 11, 1_000_000, 120
CASE = {"format": "dianoia-case/1", "vehicle": {"label": "Measured recordings"}, "codes": [{"code": "P0133"}]}
HEADINGS = (
    "time [s],B1S1 sensor voltage [V],B2S1 sensor voltage [V],B1S1 short trim [%],B1S1 long trim [%],"
    "B1S1 heater current [A],battery voltage [V]"
)
#: Frames that come while a held key moves the view, with the times between them in ms.
PAN = """frames => new Promise(done => {
  const plots = document.querySelector('.plots'), times = [];
  const step = at => {
    times.push(at);
    if (times.length > frames) return done(times.slice(1).map((time, place) => time - times[place]));
    const key = times.length % 40 < 20 ? 'ArrowRight' : 'ArrowLeft';
    plots.dispatchEvent(new KeyboardEvent('keydown', {key, bubbles: true}));
    requestAnimationFrame(step);
  };
  requestAnimationFrame(step);
})"""


def written(path: Path, rows: int) -> None:
    """A log of six signals."""
    rng, at_s = np.random.default_rng(1), np.arange(rows) * 0.0006
    switching = 0.45 + 0.4 * np.tanh(4 * np.sin(2 * np.pi * 0.9 * at_s)) + rng.normal(0, 0.005, rows)
    columns = (
        at_s, switching, 0.6 + 0.05 * np.sin(0.6 * at_s), 3 * np.sin(5.6 * at_s), np.full(rows, 2.1),
        0.7 + 3 * np.exp(-at_s / 8), 13.9 + 0.05 * np.sin(at_s),
    )  # fmt: skip
    np.savetxt(
        path,
        np.column_stack(columns),
        "%.4f,%.3f,%.3f,%.1f,%.1f,%.2f,%.2f",
        header=HEADINGS,
        comments="",
        delimiter=",",
    )


def captured(path: Path, samples: int) -> None:
    """A scope's capture of one channel."""
    at_s = np.arange(samples) / 20_000.0
    volts = np.where((at_s * 16) % 1.0 < 0.4, 0.4, 13.8) + np.random.default_rng(2).normal(0, 0.05, samples)
    np.savetxt(path, np.column_stack((at_s, volts)), "%.5f,%.3f", header="time [s],CH1 [V]", comments="", delimiter=",")


def seconds_of(*command: str) -> float:
    """Seconds of a whole process."""
    began = time.perf_counter()
    subprocess.run([sys.executable, *command], cwd=ROOT, check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - began


def traced(path: Path) -> None:
    """``trace`` and a bare read in turn."""
    bare, ours = [], []
    for _ in range(ROUNDS):
        bare.append(seconds_of("-c", f"import polars; polars.read_csv({str(path)!r})"))
        ours.append(seconds_of("-m", "dianoia", "trace", "--json", str(path)))
    one, other = statistics.median(bare), statistics.median(ours)
    print(f"trace of {ROWS:,} rows of six signals: {other:.2f} s, a bare read {one:.2f} s, {other / one:.2f} times")


def drawn_s(page: Page, path: Path) -> float:
    """Seconds from the drop to a drawn curve."""
    began = time.perf_counter()
    page.locator("input[type=file]").set_input_files(path)
    page.locator(".plot-canvas canvas").first.wait_for()
    return time.perf_counter() - began


def main(base: str) -> None:
    """Print all figures."""
    session = Session(base, "Ana")
    job = session.send("/api/jobs/import", CASE)["id"]
    with TemporaryDirectory() as folder, sync_playwright() as playwright:
        log, capture = Path(folder, "log.csv"), Path(folder, "capture.csv")
        written(log, ROWS)
        captured(capture, ROWS)
        traced(log)
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.context.add_cookies([{"name": "sessionid", "value": session.cookie("sessionid"), "url": base}])
        found = []
        for _ in range(5):
            page.goto(f"{base}/jobs/{job}/curves")
            page.get_by_text("Drop a recording here").wait_for()
            found.append(drawn_s(page, capture))
            page.wait_for_timeout(1500)
            for _ in range(3):
                page.get_by_role("button", name="Closer").click()
            page.wait_for_timeout(800)
            apart = page.evaluate(PAN, FRAMES)
            page.get_by_role("button", name="Throw it away").click()
        print(
            f"{ROWS:,} samples from the drop to the curve: {statistics.median(found):.2f} s, worst {max(found):.2f} s"
        )
        print(f"panned: {1000 / statistics.mean(apart):.0f} frames a second, longest frame {max(apart):.0f} ms")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
