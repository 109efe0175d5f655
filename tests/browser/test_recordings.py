"""A recording dropped, corrected, kept, marked and looked at, by mouse and by keys."""

from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from django.test import override_settings
from playwright.sync_api import Locator, expect

from dianoia.case.load import case_from_plain
from server.jobs.start import start_job
from server.jobs.stored import case_of
from server.ledger.models import Job
from server.work.imports import imports
from tests.browser.base import BrowserCase
from tests.cases import demo_case

CASE: dict[str, Any] = {
    "format": "dianoia-case/1", "vehicle": {"label": "Road crew van 31", "engine": {"sensor_banks": 2}}, "codes": [{"code": "P0133"}],
    "sensor": {"family": "switching-4w"},
}  # fmt: skip
ROWS = "".join(
    f"{row / 10},{0.45 + 0.35 * (-1) ** (row // 8) + 0.002 * (row % 3):.3f},{0.3 + row / 2000}\n" for row in range(600)
)
LOG = f"time [s],left front [V],O2S21 [V]\n{ROWS}".encode()


class Recordings(BrowserCase):
    """The page of a job's curves."""

    def setUp(self) -> None:
        super().setUp()
        self.enterContext(override_settings(VAR_DIR=Path(self.enterContext(TemporaryDirectory()))))

    @property
    def curves(self) -> Locator:
        return self.page.get_by_role("region", name="Curves. Arrow keys")

    def button(self, name: str) -> Locator:
        return self.page.get_by_role("button", name=name)

    def test_drop_correct_keep_mark_and_zoom(self) -> None:
        job = start_job(case_from_plain(CASE)).pk
        self.open(f"/jobs/{job}")
        self.page.get_by_role("link", name="Curves").click()
        expect(self.page.get_by_text("No recording yet")).to_be_visible()
        self.page.locator("input[type=file]").set_input_files(
            {"name": "log.csv", "mimeType": "text/csv", "buffer": LOG}
        )
        # one column is known by its heading, the other is not
        self.page.get_by_role("tab", name="Columns: 1 of 2 kept").click()
        self.page.get_by_label("What left front [V] is").click()
        self.page.keyboard.type("sensor volt")
        self.page.keyboard.press("Enter")
        self.page.get_by_label("Sensor of left front [V]").click()
        self.page.keyboard.press("ArrowDown")
        self.page.keyboard.press("Enter")
        self.button("Read it again so").click()
        expect(self.page.get_by_role("tab", name="Columns: 2 of 2 kept")).to_be_visible()
        self.page.get_by_label("What it is").fill("idle, warm")
        self.button("Keep it").click()
        expect(self.page.get_by_role("heading", name="idle, warm")).to_be_visible()
        self.assertFalse(any(imports.folder().iterdir()))
        # the first curve is touched at half of its width, and marked by a key
        plot = self.page.locator(".u-over").first
        box = plot.bounding_box()
        assert box is not None
        plot.click(position={"x": box["width"] / 2, "y": box["height"] / 2})
        expect(self.page.get_by_text("was:")).to_be_visible()
        self.curves.focus()
        self.page.keyboard.press("2")
        expect(self.button("enriched, ")).to_be_visible()
        (noted,) = case_of(Job.objects.get(pk=job)).recordings
        self.assertAlmostEqual(noted.marks[0].at_s, 30, delta=2)
        self.assertEqual(
            [(one.signal, one.of) for one in noted.columns], [("sensor_voltage", "B1S1"), ("sensor_voltage", "B2S1")]
        )
        # keys zoom and move, a figure shows its stretch, 0 shows all
        span = self.page.locator(".plots-span")
        expect(span).to_have_text("0 s to 59.9 s")
        for key in ("+", "+", "ArrowRight"):
            self.curves.press(key)
        expect(span).to_have_text("23.48 s to 45.04 s")
        figure = self.button("longest flat spell")
        figure.last.click()
        expect(figure.last).to_have_attribute("aria-pressed", "true")
        self.curves.press("0")
        expect(span).to_have_text("0 s to 59.9 s")
        self.page.reload()
        expect(self.button("enriched, ")).to_be_visible()

    def test_a_refused_file_says_its_line_and_pasted_rows_are_a_file(self) -> None:
        job = start_job(case_from_plain(CASE)).pk
        self.open(f"/jobs/{job}/curves")
        expect(self.page.get_by_text("Drop a recording here")).to_be_visible()
        paste = """text => document.dispatchEvent(Object.assign(new Event('paste', {bubbles: true}),
            {clipboardData: {files: [], getData: () => text}}))"""
        self.page.evaluate(paste, "time,O2S11\n0,0.1\n9,0.2\n3,0.3\n")
        expect(self.page.get_by_role("alert")).to_contain_text("Expected times that rise")
        self.button("Back").click()
        self.page.evaluate(paste, "time,O2S11\n0,0.1\n1,0.2\n3,0.3\n")
        expect(self.page.get_by_text("Not kept yet")).to_be_visible()
        self.button("Throw it away").click()
        expect(self.page.get_by_text("No recording yet")).to_be_visible()

    def test_a_simulated_instrument_records_a_guided_recording(self) -> None:
        job = start_job(demo_case("12-van-to-try")).pk
        self.open(f"/jobs/{job}/curves")
        self.button("Throttle snap").click()
        expect(self.page.get_by_text("Gear out, brake on")).to_be_visible()
        self.button("Let the simulated instrument record it").click()
        expect(self.page.get_by_text("1 mark comes with it")).to_be_visible()
        self.button("Keep it").click()
        expect(self.button("throttle snapped, 10 s")).to_be_visible()
        self.assertEqual(case_of(Job.objects.get(pk=job)).recordings[0].instrument, "simulated")
