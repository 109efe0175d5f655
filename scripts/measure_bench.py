"""Measures the workbench in the browser: judgement latency with 40 readings, and when the first view is usable.

Run against a served application: ``.venv/bin/python scripts/measure_bench.py http://127.0.0.1:8000``. It adds a job.
"""

import statistics
import sys

from bench_people import Session
from playwright.sync_api import Page, sync_playwright

READING = {"measure": "voltage", "red": "harness.heater_supply", "black": "battery.negative", "key": "running",
           "connector": "mated"}  # fmt: skip
ROUNDS = 30
#: Between readings, in ms: far quicker than a hand, but long enough for what is worked out in between.
PAUSE_MS = 1500
WATCH = """() => new Promise(done => {
  const input = document.querySelector('.display input');
  const start = performance.now();
  const lines = document.querySelectorAll('.ledger > li').length;
  const seen = new MutationObserver(() => {
    if (document.querySelectorAll('.ledger > li').length === lines + 1 && document.querySelector('.judged-result')) {
      seen.disconnect();
      requestAnimationFrame(() => done(performance.now() - start));
    }
  });
  seen.observe(document.body, {subtree: true, childList: true, characterData: true});
  input.form.requestSubmit();
})"""


def new_job(session: Session) -> int:
    """A job with 40 readings; returns its number."""
    readings = [{**READING, "value": f"13.{5 + index % 2}"} for index in range(40)]
    case = {
        "format": "dianoia-case/1",
        "vehicle": {"label": "Measured"},
        "codes": [{"code": "P0057"}],
        "readings": readings,
    }
    return int(session.send("/api/jobs/import", case)["id"])


def judgement_ms(page: Page) -> list[float]:
    """Milliseconds from Enter to the judgement on screen, one a round."""
    found = []
    for index in range(ROUNDS):
        page.locator(".dial").get_by_text("V", exact=True).click()
        page.get_by_label("What the meter shows").fill(f"13.{5 + index % 2}")
        found.append(float(page.evaluate(WATCH)))
        page.wait_for_timeout(PAUSE_MS)
    return found


def main(base: str) -> None:
    """Print the figures."""
    session = Session(base, "Ana")
    job = new_job(session)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.context.add_cookies([{"name": "sessionid", "value": session.cookie("sessionid"), "url": base}])
        page.goto(base)
        page.get_by_label("Type the code").wait_for()
        page.wait_for_function("performance.getEntriesByName('first-contentful-paint').length > 0")
        usable = page.evaluate("performance.getEntriesByName('first-contentful-paint')[0].startTime")
        page.goto(f"{base}/jobs/{job}")
        page.locator(".dial").get_by_text("V", exact=True).wait_for()
        found = judgement_ms(page)
        browser.close()
    print(f"first view painted after {usable:.0f} ms")
    print(f"judgement: median {statistics.median(found):.0f} ms, p95 {statistics.quantiles(found, n=20)[-1]:.0f} ms")


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8000")
