"""Refreshes docs/screenshots and docs/guide from a served application with fresh demo data (make demo-reset).

Run: ``.venv/bin/python scripts/screenshots.py http://127.0.0.1:8000``.
"""

import os
import sys
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from bench_people import Session
from playwright.sync_api import expect, sync_playwright

from tests.browser.guide_steps import steps

DOCS = Path(__file__).resolve().parents[1] / "docs"
SHOTS, GUIDE = DOCS / "screenshots", DOCS / "guide"
#: Picture -> (vehicle it shows, path after the job, width, height, light).
PICTURES = {
    "workbench": ("Road crew van 3", "", 1280, 800, "paper"),
    "workbench-night": ("School bus 9", "", 1280, 800, "night"),
    "workbench-nox": ("Snow plough 6", "", 1280, 800, "paper"),
    "workbench-simulated": ("Road crew van 11", "", 1280, 800, "paper"),
    "workbench-phone": ("Road crew van 3", "", 390, 844, "paper"),
    "decided": ("Ambulance 5", "", 1280, 800, "paper"),
    "sheet": ("Road crew van 7", "/sheet", 1280, 800, "paper"),
    "mend": ("Ambulance 3", "/mend", 1280, 800, "paper"),
    "papers": ("Road crew van 2", "/papers", 1280, 800, "paper"),
    "figures": ("Road crew van 3", "/figures", 1280, 800, "paper"),
    "curves": ("School bus 12", "/curves", 1280, 800, "paper"),
    "place": ("School bus 9", "/place", 1280, 800, "paper"),
}
PAGES = {"start": "/", "codes": "/codes", "sums": "/sums", "workshop": "/workshop", "people": "/people"}
#: Where the demo foreman's password stands.
PASSWORD = Path(os.environ.get("DIANOIA_VAR", "var"), "demo-foreman.txt")
#: What only a foreman sees.
FOREMANS = ("people",)


def main(base: str) -> None:
    """Take every picture."""
    expect.set_options(timeout=60_000)
    session, foreman = Session(base, "Ana"), Session(base, "Chiara")
    jobs = {job["vehicle"].split(" · ")[0]: job["id"] for job in session.get("/api/jobs?size=100")["jobs"]}
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        wanted: dict[str, Any] = {
            name: (f"/jobs/{jobs[vehicle]}{path}", *rest) for name, (vehicle, path, *rest) in PICTURES.items()
        }
        wanted |= {name: (path, 1280, 800, "paper") for name, path in PAGES.items()}
        for name, (path, width, height, light) in wanted.items():
            if name == "workbench-simulated":
                session.send(f"/api{path}/vehicle", {"turn": {"key": "running"}, "clear_codes": False, "wait_s": 20})
            page = browser.new_page(viewport={"width": width, "height": height})
            cookie = (foreman if name in FOREMANS else session).cookie("sessionid")
            page.context.add_cookies([{"name": "sessionid", "value": cookie, "url": base}])
            page.add_init_script(f"localStorage.setItem('light', JSON.stringify('{light}'))")
            page.goto(base + path)
            page.get_by_role("heading").first.wait_for()
            page.wait_for_timeout(1500)
            if name in FOREMANS and PASSWORD.is_file():
                page.get_by_role("textbox").fill(PASSWORD.read_text(encoding="utf-8"))
                page.get_by_role("button", name="Open the accounts").click()
                page.get_by_role("table").wait_for()
            page.screenshot(path=SHOTS / f"{name}.png")
            page.close()
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.context.add_cookies([{"name": "sessionid", "value": session.cookie("sessionid"), "url": base}])
        page.goto(base)
        for step in steps():
            step.do(page)
            page.wait_for_timeout(1000)
            page.screenshot(path=GUIDE / f"{step.picture}.png")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8000")
