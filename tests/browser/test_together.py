"""Several people and screens: who is asked, whose readings appear, and what two changes of the same come to."""

import json
from time import perf_counter

from playwright.sync_api import Page, expect

from server.jobs.change import change_job
from server.jobs.read import add_reading
from server.jobs.start import start_job
from server.ledger.models import Entry, Job
from tests.browser.base import BrowserCase
from tests.cases import BATTERY, ELEMENT, case
from tests.people import author, readings, someone


class Together(BrowserCase):
    """At one bench."""

    def job(self) -> int:
        return int(start_job(case(BATTERY, code="P0135", sensor={"family": "switching-4w"})).pk)

    def other_screen(self) -> Page:
        return self.browser.new_context(viewport={"width": 1280, "height": 800}).new_page()

    def test_who_works_here_is_asked_once_and_what_was_typed_is_kept(self) -> None:
        someone("Beppo")
        job = self.job()
        page = self.other_screen()
        page.goto(f"{self.live_server_url}/jobs/{job}")
        page.get_by_label("What the meter shows").fill("13.7")
        page.keyboard.press("Enter")
        page.get_by_role("dialog").get_by_role("button", name="Beppo").click()
        expect(page.get_by_label("What the meter shows")).to_have_value("13.7")
        page.get_by_label("What the meter shows").press("Enter")
        expect(page.locator(".ledger > li")).to_have_count(2)
        self.assertEqual(Entry.objects.latest("number").by, "Beppo")
        page.context.close()

    def test_a_colleagues_reading_appears_within_two_seconds_and_its_line_says_whose_it_is(self) -> None:
        number = self.job()
        self.open(f"/jobs/{number}")
        expect(self.page.locator(".ledger > li")).to_have_count(1)
        self.followed()
        took = []
        for lines in (2, 3, 4):
            start = perf_counter()
            add_reading(Job.objects.get(pk=number), case(ELEMENT).readings[0], by=author("Beppo"))
            expect(self.page.locator(".ledger > li")).to_have_count(lines)
            took.append(perf_counter() - start)
        self.assertLess(min(took), 2.5)
        self.page.locator(".line-main").first.click()
        expect(self.page.locator(".line-whole")).to_contain_text("by Beppo")

    def test_two_changes_of_the_same_are_both_shown_before_one_is_stored(self) -> None:
        number = self.job()
        self.open(f"/jobs/{number}/figures")
        expect(self.page.get_by_label("Heater switched at")).to_be_visible()
        change_job(Job.objects.get(pk=number), {"sensor": {"heater_switch": "high-side"}}, author("Beppo"))
        self.pick("Heater switched at", "ground side")
        dialog = self.page.get_by_role("dialog", name="Changed on two screens")
        expect(dialog).to_contain_text("high-side")
        expect(dialog).to_contain_text("low-side")
        self.assertEqual(Job.objects.get(pk=number).header["sensor"]["heater_switch"], "high-side")
        dialog.get_by_role("button", name="Use mine").click()
        expect(dialog).to_have_count(0)
        self.assertEqual(Job.objects.get(pk=number).header["sensor"]["heater_switch"], "low-side")
        bodies = [json.loads(row.body) for row in Entry.objects.filter(kind="change")]
        self.assertEqual([body["changes"]["sensor"]["heater_switch"] for body in bodies], ["high-side", "low-side"])

    def test_the_customer_is_kept_apart_from_the_case(self) -> None:
        number = self.job()
        self.open(f"/jobs/{number}")
        self.page.get_by_role("button", name="Intake").click()
        self.page.get_by_label("Plate", exact=True).fill("VS 12")
        self.page.get_by_label("Customer", exact=True).fill("Postal service")
        self.page.get_by_label("VIN", exact=True).click()
        expect(self.page.get_by_label("Customer", exact=True)).to_have_value("Postal service")
        self.page.wait_for_function(
            "async () => (await (await fetch(`/api${location.pathname}/customer`)).json()).name === 'Postal service'"
        )
        self.assertEqual(Job.objects.get(pk=number).customer.plate, "VS 12")
        self.assertNotIn("VS 12", json.dumps(Job.objects.get(pk=number).header))
        self.assertEqual(len(readings()), 1)
