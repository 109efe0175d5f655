"""A whole job read from a simulated vehicle's instruments: not one value is typed."""

import re

from playwright.sync_api import Locator, expect

from server.adapters.vehicles import adapters
from server.jobs.start import start_job
from server.ledger.models import Job
from tests.browser.test_repair import Repair
from tests.cases import demo_case
from tests.people import author


class Simulated(Repair):
    """At the demo's connected job."""

    def tearDown(self) -> None:
        super().tearDown()
        adapters.end_all()

    @property
    def bar(self) -> Locator:
        return self.page.get_by_role("region", name="Simulated vehicle")

    def followed(self) -> None:
        """Wait until what follows from the last reading is on screen."""
        expect(self.page.locator(".ledger > li, .ledger-empty").first).to_be_visible()
        expect(self.page.get_by_text("Working out what follows")).to_have_count(0)

    def read(self) -> None:
        """Set the vehicle up as laid out, read the instrument, take what it shows."""
        lines = self.page.locator(".ledger > li").count()
        self.bar.get_by_role("button", name="Set as laid out").click()
        expect(self.bar.get_by_role("status")).not_to_contain_text("starting")
        watch, look = (self.bar.get_by_role("button", name=name) for name in ("Last 10 s", "Read it"))
        expect(look).to_be_visible()
        if self.bar.get_by_text("incomplete").count():  # a monitor takes its time
            self.bar.get_by_role("button", name="+5 min").click()
            expect(self.bar.get_by_text("complete", exact=True)).to_be_visible()
        if watch.count():  # one look at what moves says little
            watch.click()
            expect(self.page.get_by_label("What the meter shows")).not_to_have_value("")
        else:
            look.click()
        word = self.bar.get_by_role("button", name="Take “")
        self.page.wait_for_timeout(100)
        word.click() if word.count() else self.page.keyboard.press("Enter")
        expect(self.page.locator(".ledger > li")).to_have_count(lines + 1)

    def no_code_is_back(self) -> None:
        """Clear the codes, run the engine, see that the module lists none, and note it."""
        self.bar.get_by_text("start", exact=True).click()
        self.bar.get_by_role("button", name="Codes").click()
        self.page.get_by_role("button", name="Clear the codes").click()
        self.page.keyboard.press("Escape")
        self.bar.get_by_role("button", name="+5 min").click()
        expect(self.bar.get_by_role("button", name="Codes 0")).to_be_visible()
        lines = self.page.locator(".ledger > li").count()
        meter = self.page.get_by_role("region", name="The meter")
        meter.get_by_role("button", name=re.compile("not returned")).click()
        expect(self.page.locator(".ledger > li")).to_have_count(lines + 1)

    def test_from_the_code_to_the_papers(self) -> None:
        number = int(start_job(demo_case("12"), by=author("Ana")).job.pk)
        self.open(f"/jobs/{number}")
        for _ in range(12):
            self.followed()
            if self.page.get_by_role("link", name="Mend it: repair sheet").is_visible():
                break
            self.read()
        self.page.get_by_role("link", name="Mend it: repair sheet").click()
        self.note_repair(note="pin spread at the plug")
        self.prove(number)
        self.hand_over(number)
        job = Job.objects.get(pk=number)
        self.assertTrue(job.summary["simulated"])
        self.page.get_by_role("link", name="Papers").click()
        expect(self.page.get_by_alt_text("For the customer, first page")).to_be_visible()

    def take_laid_out(self) -> None:
        expect(self.bar.get_by_role("button", name="Codes")).to_be_visible()
        if self.page.get_by_role("radio", name="Did").is_checked():
            self.no_code_is_back()
        else:
            self.read()
        self.followed()

    def test_a_value_that_is_typed_over_is_ones_own_again(self) -> None:
        number = int(start_job(demo_case("12"), by=author("Ana")).job.pk)
        self.open(f"/jobs/{number}")
        self.bar.get_by_text("start", exact=True).click()
        self.bar.get_by_role("button", name="Read it").click()
        display = self.page.get_by_label("What the meter shows")
        expect(display).to_be_focused()
        display.fill("13.1")
        self.page.keyboard.press("Enter")
        expect(self.page.locator(".ledger > li")).to_have_count(1)
        line = Job.objects.get(pk=number).ledger.get(kind="reading")
        self.assertNotIn('"instrument"', line.body)

    def test_a_job_without_readings_is_connected_by_two_touches(self) -> None:
        self.start_job("P0135")
        self.page.get_by_role("button", name="Try it on a simulated vehicle").click()
        self.page.get_by_role("button", name="Connect it").click()
        expect(self.bar.get_by_role("button", name="Set as laid out")).to_be_visible()
        expect(self.bar).to_contain_text("key off")
