"""The main path in a real browser: a typed code, three readings, a decision, and nothing lost on a reload."""

import json

from playwright.sync_api import expect

from server.jobs.change import change_job
from server.ledger.models import Job
from tests.browser.base import BrowserCase
from tests.cases import ELEMENT, STEADY, SUPPLY, plain_case


class MainPath(BrowserCase):
    """From the start page to a decision."""

    def test_code_three_readings_decision_reload(self) -> None:
        self.start_job()
        expect(self.page.get_by_text("Bank 2 · sensor 2")).to_be_visible()
        change_job(Job.objects.latest("pk"), {"sensor": STEADY})
        self.page.reload()
        self.instrument("Ω")
        self.lay("heater supply, sensor side", "heater control, sensor side")
        self.type_reading("OL")
        ledger = self.page.get_by_role("region", name="Ledger")
        expect(ledger.locator("li")).to_have_count(1)
        expect(self.page.get_by_text("the heater element is open").first).to_be_visible()
        for _ in range(6):
            self.followed()
            if self.page.get_by_role("heading", name="Replace the sensor").is_visible():
                break
            self.answer_as_sound()
        expect(self.page.get_by_role("heading", name="Replace the sensor")).to_be_visible()
        count = ledger.locator("li").count()
        self.page.reload()
        expect(self.page.get_by_role("heading", name="Replace the sensor")).to_be_visible()
        expect(ledger.locator("li")).to_have_count(count)

    def answer_as_sound(self) -> None:
        """Take the proposed reading as a sound loop would show it, with the dead element in place."""
        before = self.page.locator(".ledger > li").count()
        own = self.page.get_by_role("button", name="Take the proposed one")
        if own.is_visible():
            own.click()
        if self.page.get_by_role("button", name="bright", exact=True).is_visible():
            self.page.get_by_role("button", name="bright", exact=True).click()
        elif self.page.get_by_role("button", name="ok", exact=True).is_visible():
            self.page.get_by_role("button", name="ok", exact=True).click()
        else:
            ohms = self.page.get_by_role("radio", name="Ω").is_checked()
            self.type_reading("1M" if ohms else "13.8")
        expect(self.page.locator(".ledger > li")).to_have_count(before + 1)

    def test_bad_input_shows_a_message_and_saves_nothing(self) -> None:
        self.open()
        self.type_code("hello")
        expect(self.page.get_by_role("alert")).to_contain_text("P0057")
        self.start_job()
        self.instrument("V")
        self.type_reading("6 ohm")
        expect(self.page.get_by_role("alert")).to_contain_text("a voltage such as")
        self.assertEqual(self.page.locator(".ledger > li").count(), 0)
        expect(self.page.get_by_label("What the meter shows")).to_have_value("6 ohm")

    def test_a_case_file_is_opened_or_says_which_reading_is_wrong(self) -> None:
        sound = plain_case(SUPPLY, ELEMENT, title="From the other garage")
        wrong = plain_case(SUPPLY, {**ELEMENT, "value": "6 V"})
        self.open()
        chooser = self.page.get_by_label("Open a case file")
        for text, says in (("no file of ours", "torn.json is no case file"), (json.dumps(wrong), "Reading 2, value:")):
            chooser.set_input_files({"name": "torn.json", "mimeType": "application/json", "buffer": text.encode()})
            expect(self.page.get_by_role("alert")).to_contain_text(says)
        self.assertEqual(Job.objects.count(), 0)
        chooser.set_input_files(
            {"name": "job.json", "mimeType": "application/json", "buffer": json.dumps(sound).encode()}
        )
        expect(self.page.locator(".ledger > li")).to_have_count(2)
        expect(self.page.get_by_role("heading", name="P0057 Bus 4")).to_be_visible()

    def test_a_draft_survives_a_reload_and_a_strike_keeps_its_line(self) -> None:
        self.start_job()
        self.instrument("Ω")
        self.lay("heater supply, sensor side", "heater control, sensor side")
        self.page.get_by_label("What the meter shows").fill("5.")
        self.page.reload()
        expect(self.page.get_by_label("What the meter shows")).to_have_value("5.")
        self.type_reading("5.9")
        line = self.page.locator(".ledger > li").first
        line.locator(".line-main").click()
        line.get_by_role("button", name="Strike").click()
        self.page.keyboard.type("wrong pin")
        self.page.keyboard.press("Enter")
        expect(line).to_contain_text("Struck: wrong pin")
        expect(self.page.locator(".ledger > li")).to_have_count(1)

    def test_the_loop_needs_no_mouse_and_no_scrolling(self) -> None:
        self.start_job()
        self.page.keyboard.press("Tab")
        field = self.page.get_by_label("What the meter shows")
        field.focus()
        self.page.keyboard.type("13.9")
        self.page.keyboard.press("Enter")
        expect(self.page.locator(".judged-head")).to_be_visible()
        height = self.page.evaluate("document.documentElement.scrollHeight")
        self.assertLessEqual(height, 800)
