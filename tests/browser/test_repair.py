"""Whole jobs, from the code to the vehicle handed over."""

from typing import Any

from playwright.sync_api import expect

from server.jobs.read import add_reading
from server.jobs.start import start_job
from server.ledger.models import Job
from tests.browser.base import BrowserCase
from tests.browser.guide_steps import show_as_sound
from tests.cases import BATTERY, OPEN_ELEMENT, STEADY, case, demo_case
from tests.people import author


class Repair(BrowserCase):
    """Found, mended, proven, handed over."""

    def begun(self, *readings: dict[str, Any], **fields: Any) -> int:
        return int(start_job(case(*readings, **{"sensor": STEADY, **fields}), by=author("Ana")).job.pk)

    def note_repair(self, part: str = "", note: str = "", what: str = "") -> None:
        self.page.get_by_role("button", name="Note the repair").or_(
            self.page.get_by_role("button", name="I am fitting the part")
        ).first.click()
        dialog = self.page.get_by_role("dialog")
        if what:
            dialog.get_by_role("checkbox", name=what).check()
        dialog.get_by_label("Part number fitted").fill(part)
        if note:
            dialog.get_by_label("Why now").or_(dialog.get_by_label("Note", exact=True)).first.fill(note)
        dialog.get_by_role("button", name="Note it as done").click()
        expect(self.page.get_by_role("list", name="Proof of the repair")).to_be_visible()

    def prove(self, number: int) -> None:
        """Take every part of the proof at the bench, as proposed there."""
        for _ in range(12):
            self.open(f"/jobs/{number}/mend")
            expect(self.page.locator(".repair-proof [role=status]")).to_be_visible()
            expect(self.page.locator(".repair-proof .working")).to_have_count(0)
            self.page.wait_for_load_state("networkidle")  # an older view kept on the device is shown first
            wanted = self.page.get_by_role("button", name="Take: ")
            proven = self.page.get_by_role("status").get_by_text("Repaired and proven: all")
            expect(wanted.first.or_(proven)).to_be_visible()
            if proven.count():
                return
            wanted.first.click()
            self.take_laid_out()
        self.fail("the proof does not end: " + self.page.locator(".repair-proof, .ledger").first.inner_text())

    def take_laid_out(self) -> None:
        """Take what is laid out at the bench."""
        show_as_sound(self.page)

    def hand_over(self, number: int) -> None:
        self.page.get_by_role("button", name="Hand the vehicle over").click()
        expect(self.page.get_by_text("Handed over, proven")).to_be_visible()
        self.assertEqual(Job.objects.get(pk=number).summary["stage"], "closed")


class WholeJobs(Repair):
    """The five jobs."""

    def test_a_dead_heater(self) -> None:
        number = self.begun(*OPEN_ELEMENT)
        self.open(f"/jobs/{number}")
        self.page.get_by_role("link", name="Mend it: repair sheet").click()
        step = self.page.get_by_role("checkbox", name="Part number and make against the vehicle")
        step.check()
        self.note_repair(part="TS-2290-14")
        expect(self.page.get_by_text("TS-2290-14")).to_be_visible()
        self.prove(number)
        expect(self.page.get_by_role("status")).to_contain_text("Repaired and proven")
        expect(step).to_be_checked()
        self.hand_over(number)
        self.page.get_by_role("link", name="Papers").click()
        expect(self.page.get_by_alt_text("For the customer, first page")).to_be_visible()

    def test_a_broken_wire(self) -> None:
        number = int(start_job(demo_case("04"), by=author("Ana")).job.pk)
        self.open(f"/jobs/{number}/mend")
        self.note_repair(note="broken at the bracket")
        self.prove(number)
        self.hand_over(number)

    def test_a_blown_fuse_and_its_short(self) -> None:
        number = self.begun(
            BATTERY, {"measure": "inspect", "target": "fuse", "value": "blown"},
            {"measure": "resistance", "red": "harness.heater_supply", "black": "battery.negative", "key": "off", "connector": "unplugged", "others": "unplugged", "value": "0.3 ohm"},
            {"measure": "inspect", "target": "harness", "value": "chafed"},
        )  # fmt: skip
        self.open(f"/jobs/{number}/mend")
        self.note_repair(what="wiring", note="chafed through at the bracket")
        add_reading(
            Job.objects.get(pk=number),
            case({"measure": "act", "action": "replace-fuse", "value": "done"}).readings[0],
            by=author("Ana"),
        )
        self.prove(number)
        expect(self.page.locator(".did")).to_have_count(2)
        self.hand_over(number)

    def test_an_exhaust_leak(self) -> None:
        number = self.begun(
            BATTERY, {"measure": "inspect", "target": "exhaust", "at": "before-front", "value": "leak"}, code="P0171",
            sensor={"family": "switching-4w", "bank": 1, "position": 1},
        )  # fmt: skip
        self.open(f"/jobs/{number}/mend")
        self.note_repair(what="exhaust", note="flange gasket blown")
        self.prove(number)
        self.hand_over(number)

    def test_a_job_that_came_back_is_open_again_with_all_its_evidence(self) -> None:
        number = int(start_job(demo_case("10"), by=author("Ana")).job.pk)
        self.open(f"/jobs/{number}/mend")
        expect(self.page.get_by_text("Handed over, proven")).to_be_visible()
        self.page.get_by_role("button", name="The code came back").click()
        expect(self.page.get_by_role("status")).to_contain_text("The code came back")
        expect(self.page.get_by_text("Came back once after a repair.")).to_be_visible()
        self.page.get_by_role("button", name="Close it unproven").click()
        dialog = self.page.get_by_role("dialog")
        dialog.get_by_label("Why it is closed unproven").fill("sent to the maker's workshop")
        dialog.get_by_role("button", name="Close it", exact=True).click()
        expect(self.page.get_by_text("Closed, not proven")).to_be_visible()
        self.assertEqual(Job.objects.get(pk=number).summary["stage"], "closed")
