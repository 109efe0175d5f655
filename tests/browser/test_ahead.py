"""What lies ahead on the bench, the workshop's settings, bridges and other parts."""

from typing import Any

from playwright.sync_api import expect

from server.jobs.start import start_job
from tests.browser.base import BrowserCase
from tests.cases import BATTERY, SUPPLY, case

DEAD = {**SUPPLY, "red": "module.heater_control", "codes_cleared": True, "value": "13.8 V"}
LOW_SIDE = {"bank": 1, "position": 1, "family": "switching-4w", "heater_switch": "low-side", "heater_drive": "steady"}


class Ahead(BrowserCase):
    """Beyond the next reading."""

    def job(self, *readings: Any, **fields: Any) -> int:
        return int(start_job(case(*readings, **fields)).pk)

    def test_the_remaining_plan_opens_under_the_next_step(self) -> None:
        self.start_job()
        self.side("Other ways")
        plan = self.page.locator("details.ahead")
        expect(plan.get_by_text("min until it is certain")).to_be_visible()
        plan.locator("summary").click()
        self.assertGreaterEqual(plan.locator("li").count(), 2)
        expect(plan.get_by_role("link", name="workshop’s settings")).to_be_visible()

    def test_who_has_enough_is_told_what_acting_now_takes_on(self) -> None:
        self.start_job()
        self.side("Decide")
        enough = self.page.get_by_role("region", name="The decision")
        expect(enough.get_by_text("it is your decision")).to_be_visible()
        self.assertGreaterEqual(enough.locator("li.wanted").count(), 1)

    def test_settings_made_once_say_whether_certainty_pays_and_which_tools_are_asked_for(self) -> None:
        job = self.job(BATTERY)
        self.open("/workshop")
        for name in (
            "Scan tool with live data",
            "Oscilloscope",
            "Current clamp",
            "Test lamp, 5 W and 21 W",
            "Known-good sensor",
        ):
            self.page.get_by_role("checkbox", name=name).click()
        for label, text in (
            ("Labour, an hour", "90"),
            ("A sensor costs", "60,5"),
            ("A wrong call costs", "200"),
            ("Currency", "€"),
        ):
            self.page.get_by_label(label).fill(text)
        self.page.get_by_role("button", name="Save").click()
        expect(self.page.get_by_text("Saved")).to_be_visible()
        self.open(f"/jobs/{job}")
        self.side("Other ways")
        plan = self.page.locator("details.ahead")
        plan.locator("summary").click()
        expect(plan.locator(".stop")).to_contain_text("€")
        steps = plan.locator("li").all_inner_texts()
        self.assertFalse([text for text in steps if text.startswith(("scan", "scope", "clamp", "test lamp"))], steps)

    def test_a_setting_that_is_no_number_is_said_at_the_field(self) -> None:
        self.open("/workshop")
        self.page.get_by_label("Labour, an hour").fill("a lot")
        self.page.get_by_role("button", name="Save").click()
        expect(self.page.get_by_role("alert").filter(has_text="Labour: Expected a number.")).to_be_visible()

    def test_a_bridge_is_drawn_kept_with_the_reading_and_taken_away_by_a_touch(self) -> None:
        cannot = [{"reading": name, "reason": "x"} for name in ("control-at-module", "lamp-at-module")]
        job = self.job(
            BATTERY,
            SUPPLY,
            DEAD,
            {**DEAD, "red": "harness.heater_control"},
            code="P0135",
            sensor=LOW_SIDE,
            cannot=cannot,
        )
        self.open(f"/jobs/{job}")
        expect(self.page.get_by_role("region", name="The meter")).to_be_visible()
        self.page.evaluate(
            """(job) => { const kept = JSON.parse(localStorage.getItem(`draft4-${job}`));
            Object.assign(kept.draft, {measure: 'lamp', red: 'harness.heater_supply', black: 'harness.heater_control', connector: 'unplugged',
            watts: 21, jumper: ['module.heater_control', 'battery.negative']}); localStorage.setItem(`draft4-${job}`, JSON.stringify(kept)) }""",
            job,
        )
        self.page.reload()
        expect(self.page.locator("path.bridge")).to_have_count(1)
        self.page.get_by_role("button", name="bright", exact=True).click()
        expect(self.page.locator(".ledger > li")).to_have_count(5)
        expect(self.page.locator(".ledger")).to_contain_text("bridged to battery −")

    def test_a_reading_of_another_part_is_sent_as_such(self) -> None:
        self.start_job("P0135")
        self.instrument("Ω")
        self.pick("Which part is measured", "a known-good one")
        self.type_reading("6.1")
        expect(self.page.locator(".ledger")).to_contain_text("with a known-good sensor")

    def test_in_line_connectors_stand_on_every_wire(self) -> None:
        self.start_job("P0135")
        expect(self.page.locator(".part.inline").first).to_be_attached()
        self.assertEqual(self.page.locator(".part.inline").count(), 4)


class Figures(BrowserCase):
    """The vehicle's own figures, given once, count everywhere."""

    def test_a_heaters_own_range_and_wiring_change_what_is_expected(self) -> None:
        self.start_job("P0135")
        self.instrument("Ω")
        self.lay("heater supply, sensor side", "heater control, sensor side")
        self.type_reading("11")
        expect(self.page.locator(".judged-result")).not_to_have_text("bad")
        self.side("Code")
        self.page.get_by_role("link", name="This sensor’s figures").first.click()
        self.pick("Heater driven", "pulsed (PWM)")
        expect(self.page.get_by_text("Kept")).to_be_visible()
        for end, text in (("from", "4,5"), ("to", "6")):
            self.page.get_by_label(f"Heater, cold (20 °C), {end}").fill(text)
        self.page.get_by_label("Where the figures come from").fill("depot sheet 12")
        self.page.get_by_role("button", name="Keep these figures").click()
        expect(self.page.get_by_text("Kept")).to_be_visible()
        self.page.get_by_role("link", name="Workbench").click()
        self.page.locator(".ledger .line-main").first.click()
        expect(self.page.locator(".ledger")).to_contain_text("Specified 4.5 to 6 ohm")
        expect(self.page.locator(".judged-result")).to_have_text("bad")

    def test_a_range_of_its_own_stands_before_the_computed_one_until_it_is_removed(self) -> None:
        self.start_job("P0135")
        self.instrument("V")
        self.lay("battery +", "battery −")
        self.type_reading("13.1")
        expect(self.page.locator(".ledger > li")).to_have_count(1)
        self.side("Code")
        self.page.get_by_role("link", name="This sensor’s figures").first.click()
        self.page.get_by_label("Range, from").fill("13.6 V")
        self.page.get_by_label("Where it comes from").fill("charging sheet")
        self.page.get_by_role("button", name="Add the range").click()
        expect(self.page.locator(".spec-line")).to_contain_text("charging sheet")
        self.page.get_by_role("link", name="Workbench").click()
        expect(self.page.locator(".ledger")).to_contain_text("13.6 V")
        self.side("Code")
        self.page.get_by_role("link", name="This sensor’s figures").first.click()
        self.page.get_by_role("button", name="Remove").click()
        expect(self.page.locator(".spec-line")).to_have_count(0)

    def test_ends_the_wrong_way_round_are_said(self) -> None:
        self.start_job("P0135")
        self.side("Code")
        self.page.get_by_role("link", name="This sensor’s figures").first.click()
        for end, text in (("from", "9"), ("to", "6")):
            self.page.get_by_label(f"Heater, cold (20 °C), {end}").fill(text)
        self.page.get_by_role("button", name="Keep these figures").click()
        expect(self.page.get_by_role("alert")).to_contain_text("the low end first")
