"""With no server: a job stays open and takes readings, a closed tab loses none, and each is sent once, under its own name."""

from playwright.sync_api import BrowserContext, Page, expect

from server.jobs.start import start_job
from server.ledger.models import Entry
from tests.browser.base import BrowserCase
from tests.cases import BATTERY, case
from tests.people import readings, someone

VALUES = ["13.1", "13.2", "13.3", "13.4", "13.5"]


class Offline(BrowserCase):
    """A device whose network goes and comes."""

    def device(self) -> tuple[BrowserContext, str]:
        context = self.browser.new_context(viewport={"width": 1280, "height": 800})
        job = start_job(case(BATTERY, code="P0135", sensor={"family": "switching-4w"})).pk
        return context, f"{self.live_server_url}/jobs/{job}"

    def pick_name(self, page: Page, now: str, name: str) -> None:
        page.get_by_role("button", name=now, exact=True).click()
        page.get_by_role("dialog").get_by_role("button", name=name).click()
        expect(page.get_by_role("dialog")).to_have_count(0)

    def test_readings_outlive_server_tab_and_shift_and_come_in_order_under_the_right_name(self) -> None:
        someone("Ana"), someone("Beppo")
        context, address = self.device()
        page = context.new_page()
        page.goto(address)
        self.pick_name(page, "Who are you?", "Ana")
        page.evaluate("navigator.serviceWorker.ready.then(() => true)")
        page.reload()  # from here on the worker brings the page
        expect(page.locator(".ledger > li")).to_have_count(1)
        page.wait_for_function("navigator.serviceWorker.controller !== null")
        page.wait_for_timeout(2500)  # the view is kept once a second
        context.set_offline(True)
        for count, value in enumerate(VALUES, start=1):
            page.get_by_label("What the meter shows").fill(value)
            page.get_by_label("What the meter shows").press("Enter")
            expect(page.locator(".waiting-lines li")).to_have_count(count)
        page.close()

        page = context.new_page()
        page.goto(address)
        expect(page.locator(".waiting-lines li")).to_have_count(5)
        expect(page.locator(".ledger > li")).to_have_count(1)
        self.assertEqual(len(readings()), 1)

        context.clear_cookies(name="sessionid")  # another shift: nobody is signed in
        context.set_offline(False)
        page.reload()
        self.pick_name(page, "Who are you?", "Beppo")
        expect(page.get_by_text("5 readings are kept on this device. Ana must say who they are")).to_be_visible()
        expect(page.locator(".waiting-lines li")).to_have_count(0)  # what Ana read is hers until then
        page.wait_for_timeout(4000)  # longer than from one try to the next
        self.assertEqual(len(readings()), 1)

        self.pick_name(page, "Beppo", "Ana")
        expect(page.locator(".ledger > li")).to_have_count(6)
        expect(page.locator(".waiting-lines li")).to_have_count(0)
        self.assertEqual([item["value"] for item in readings()], ["14 V", *VALUES])
        self.assertEqual([row.by for row in Entry.objects.filter(kind="reading", line__gte=1)], ["Ana"] * 5)
        context.close()

    def test_one_that_is_refused_after_all_says_so(self) -> None:
        someone("Ana")
        context, address = self.device()
        page = context.new_page()
        page.goto(address)
        self.pick_name(page, "Who are you?", "Ana")
        context.set_offline(True)
        page.get_by_label("What the meter shows").fill("6 ohm")
        page.get_by_label("What the meter shows").press("Enter")
        expect(page.locator(".waiting-lines li")).to_have_count(1)
        context.set_offline(False)
        expect(page.get_by_role("alert").filter(has_text="was not taken")).to_contain_text("6 ohm")
        expect(page.locator(".waiting-lines li")).to_have_count(0)
        self.assertEqual(len(readings()), 1)
        context.close()
