"""The bench as a notebook: own readings, live values, the intake, acting early, the ledger, and a phone."""

import re
from collections.abc import Callable
from dataclasses import replace
from typing import Any
from urllib.parse import urlsplit

from playwright.sync_api import Locator, expect

from dianoia.simulated.instruments import Bench
from dianoia.simulated.wiring import OPEN
from server.jobs.search import columns
from server.jobs.start import start_job
from server.ledger.models import Job
from tests.browser.base import BrowserCase
from tests.cars import bench_of, car_of
from tests.cases import BATTERY, ELEMENT, SUPPLY, case, demo_case
from tests.people import readings


class Notebook(BrowserCase):
    """Of a front switching sensor."""

    def job(self, *readings: dict[str, Any], code: str = "P0133") -> int:
        known = {"family": "switching-4w", "bank": 1, "position": 1}
        return int(start_job(case(*readings, code=code, sensor=known)).pk)

    def stored(self, count: int) -> list[dict[str, Any]]:
        expect(self.page.locator(".ledger > li")).to_have_count(count)
        return readings()

    def test_an_own_reading_takes_two_touches_and_enter(self) -> None:
        self.open(f"/jobs/{self.job(BATTERY, code='P0135')}")
        self.instrument("V")
        self.lay("heater supply, loom side", "battery −")
        self.page.keyboard.type("13.7")
        self.page.keyboard.press("Enter")
        last = self.stored(2)[-1]
        self.assertEqual(
            (last["red"], last["black"], last["value"]), ("harness.heater_supply", "battery.negative", "13.7")
        )

    def test_a_dead_element_is_found_by_own_readings_in_twenty_touches(self) -> None:
        """Digits are not counted, Enter and every touch are: the element, a lamp in its place, the feed under load, a look."""
        self.open(f"/jobs/{start_job(replace(demo_case('02'), readings=())).pk}")
        strip = self.page.get_by_role("group", name="State of the vehicle")
        touches: list[Callable[[], None]] = [
            lambda: self.instrument("Ω"), lambda: self.point("heater supply, sensor side"),
            lambda: self.point("heater control, sensor side"), lambda: self.digits("OL"), self.enter,
            lambda: self.instrument("Lamp"), lambda: self.point("heater supply, loom side"),
            lambda: self.point("heater control, loom side"), lambda: self.on(strip, "in place of heater"),
            lambda: self.on(strip, "cleared"), lambda: strip.get_by_text("21 W").click(),
            lambda: self.page.get_by_role("button", name="bright", exact=True).click(),
            lambda: self.instrument("V"), lambda: self.point("heater supply, loom side"), lambda: self.point("battery −"),
            lambda: self.on(strip, "lamp load"), lambda: self.digits("13.8"), self.enter,
            lambda: self.instrument("Look"), lambda: self.page.get_by_role("button", name="ok", exact=True).click(),
        ]  # fmt: skip
        for touch in touches:
            touch()
        self.stored(4)
        expect(self.page.get_by_role("heading", name="Replace the sensor")).to_be_visible()
        self.assertLessEqual(len(touches) - 2, 20)

    def point(self, name: str) -> None:
        self.page.get_by_role("button", name=name).and_(self.page.locator(".point")).first.click(force=True)

    def on(self, strip: Locator, name: str) -> None:
        button = strip.get_by_role("button", name=name, exact=True)
        if button.get_attribute("aria-pressed") != "true":
            button.click()

    def digits(self, text: str) -> None:
        self.page.keyboard.type(text)

    def enter(self) -> None:
        count = self.page.locator(".ledger > li").count()
        self.page.keyboard.press("Enter")
        expect(self.page.locator(".ledger > li")).to_have_count(count + 1)

    def test_a_whole_job_by_the_keyboard_alone(self) -> None:
        """From the code to the decision sheet, on a car with a dead element: numbers and Enter, 1 to 9 for what is seen, Tab to a
        link.
        """
        car = car_of(5)
        car.sensor.element.ohms_20c = OPEN  # type: ignore[union-attr]
        self.open()
        expect(self.page.get_by_label("Type the code")).to_be_focused()
        self.page.keyboard.type("p0135")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("region", name="Next step")).to_be_visible()
        lines = self.page.locator(".ledger > li")
        for count in range(1, 21):
            self.answer_by_keys(bench_of(car))
            expect(lines).to_have_count(count)
            self.followed()
            if self.page.get_by_role("heading", name="Replace the sensor").is_visible():
                break
        self.tab_to("Decision sheet")
        self.page.keyboard.press("Enter")
        expect(self.page).to_have_url(re.compile("/sheet$"))
        self.tab_to("← Workbench")
        self.page.keyboard.press("Enter")
        expect(lines).to_have_count(count)

    def answer_by_keys(self, bench: Bench) -> None:
        """Note what the car shows to the proposed reading."""
        view = self.page.request.get(f"{self.live_server_url}/api{urlsplit(self.page.url).path}").json()
        probe = {name: value for name, value in view["verdict"]["next"]["reading"].items() if value is not None}
        shown = {"inspect": "ok", "act": "returned-at-once"}.get(probe["measure"]) or bench.read(probe)
        if isinstance(shown, dict):
            for name in ("high", "low", "duty_low", "frequency"):
                self.page.keyboard.type(shown.get(name, ""))
                self.page.keyboard.press("Tab" if name != "frequency" else "Enter")
            return
        seen = self.page.get_by_role("group", name="What was seen")
        if seen.is_visible():
            names = [text[1:] for text in seen.get_by_role("button").all_inner_texts()]
            self.page.keyboard.press(str(names.index(view["choices"]["words"][shown]) + 1))
            return
        expect(self.page.get_by_label("What the meter shows")).to_be_focused()
        self.page.keyboard.type(shown)
        self.page.keyboard.press("Enter")

    def tab_to(self, name: str) -> None:
        link = self.page.get_by_role("link", name=name)
        for _ in range(80):
            if link.evaluate("e => e === document.activeElement"):
                return
            self.page.keyboard.press("Tab")
        self.fail(f"{name} is not reached with Tab")

    def test_a_live_value_is_noted_as_seen_with_the_twin_beside_it(self) -> None:
        self.open(f"/jobs/{self.job()}")
        self.instrument("Scan")
        self.pick("Scan value", "sensor voltage")
        live = self.page.get_by_role("group", name="As it was seen")
        live.get_by_text("slow", exact=True).click()
        self.pick("Another sensor beside it", "B2 S1")
        self.page.get_by_label("What B2S1 shows").fill("0.1-0.85")
        live.get_by_text("switching", exact=True).last.click()
        self.page.get_by_label("What the meter shows").fill("0.3-0.6")
        self.page.get_by_role("button", name="note", exact=True).click()
        self.page.get_by_label("Note", exact=True).fill("after ten minutes")
        self.page.get_by_label("What the meter shows").press("Enter")
        own, twin = self.stored(2)
        self.assertEqual((own["value"], own["moves"], own["note"]), ("0.3-0.6", "slow", "after ten minutes"))
        self.assertNotIn("of", own)
        self.assertEqual((twin["value"], twin["moves"], twin["of"]), ("0.1-0.85", "switching", "B2S1"))
        self.assertNotIn("note", twin)

    def test_the_intake_is_kept_as_it_is_told(self) -> None:
        job = self.job()
        self.open(f"/jobs/{job}")
        self.page.get_by_role("button", name="Intake").click()
        sheet = self.page.get_by_role("dialog")
        sheet.get_by_label("What the driver says").fill("drinks since the exhaust was done")
        self.pick("Symptoms", "poor economy")
        sheet.get_by_text("Codes", exact=True).click()
        self.pick("Recent work", "exhaust work")
        sheet.get_by_text("Codes", exact=True).click()
        sheet.get_by_label("One more code").fill("p0171")
        sheet.get_by_role("button", name="Add").click()
        expect(sheet.get_by_text("P0171")).to_be_visible()
        self.followed()
        header = Job.objects.get(pk=job).header
        self.assertEqual(header["complaint"], "drinks since the exhaust was done")
        self.assertEqual((header["symptoms"], header["history"]), (["poor-economy"], ["exhaust-work"]))
        self.assertEqual([item["code"] for item in Job.objects.get(pk=job).codes], ["P0133", "P0171"])

    def test_who_fits_the_part_early_says_why(self) -> None:
        self.open(f"/jobs/{self.job(ELEMENT, code='P0135')}")
        self.side("Decide")
        self.page.get_by_role("button", name="I am fitting the part").click()
        dialog = self.page.get_by_role("dialog", name="I am fitting the part")
        expect(dialog.get_by_role("button", name="Note it as done")).to_be_disabled()
        dialog.get_by_label("Why now").fill("the bus leaves at six")
        expect(
            dialog.get_by_role("button", name="Note it as done")
        ).to_be_disabled()  # nothing is proposed where nothing is decided
        dialog.get_by_role("checkbox", name="replace sensor").check()
        dialog.get_by_role("button", name="Note it as done").click()
        act = self.stored(2)[-1]
        self.assertEqual(
            (act["action"], act["value"], act["note"]), ("replace-sensor", "done", "the bus leaves at six")
        )
        expect(self.page.get_by_role("list", name="Where the job stands").locator(".now")).to_have_text("prove")

    def test_a_ledger_line_opens_to_all_that_is_known_and_the_ledger_to_full_height(self) -> None:
        self.open(f"/jobs/{self.job(BATTERY, SUPPLY, ELEMENT, code='P0135')}")
        lines = self.page.locator(".ledger > li")
        lines.first.locator(".line-main").click()
        expect(lines.first.locator(".line-whole")).to_contain_text("across the heater element")
        self.page.get_by_role("group", name="Which readings").or_(self.page.get_by_label("Which readings")).get_by_text(
            "bad", exact=True
        ).click()
        expect(lines).to_have_count(1)
        self.page.get_by_role("button", name="Full height").click()
        self.assertGreater(self.page.locator(".bench-ledger").bounding_box()["height"], 600)  # type: ignore[index]
        self.page.get_by_role("button", name="Small again").click()
        expect(self.page.get_by_role("region", name="The meter")).to_be_visible()

    def test_on_a_phone_everything_is_one_tab_away_and_nothing_is_wider(self) -> None:
        self.page.set_viewport_size({"width": 390, "height": 844})
        self.open(f"/jobs/{self.job(BATTERY)}")
        shown = {
            "Measure": ".bench-meter", "Drawing": ".board", "Could be": ".suspects", "Code": ".code-tab .code-name",
            "Ledger": ".ledger > li",
        }  # fmt: skip
        for tab, what in shown.items():
            self.page.locator(".bench-tabs").get_by_text(tab, exact=True).click()
            expect(self.page.locator(what).first).to_be_in_viewport()
            self.assertLessEqual(self.page.evaluate("document.documentElement.scrollWidth"), 390, tab)
        self.page.locator(".bench-tabs").get_by_text("Code", exact=True).click()
        for name in ("Where it sits, plug and pins", "This sensor’s figures"):
            expect(self.page.locator(".code-tab").get_by_role("link", name=name)).to_be_visible()


#: From a key in the search field to the list painted anew, in milliseconds.
SEARCHED = """() => new Promise(done => {
  const field = document.querySelector('input[aria-label="Find a job"]')
  const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set
  const start = performance.now()
  set.call(field, 'van 1')
  field.dispatchEvent(new Event('input', { bubbles: true }))
  requestAnimationFrame(() => setTimeout(() => done(performance.now() - start)))
})"""


class Start(BrowserCase):
    """Many jobs, and a job without a code."""

    def test_a_job_is_found_as_one_types_and_put_away(self) -> None:
        for number in range(1, 31):
            start_job(case(code="P0135", vehicle={"label": f"Van {number}"}))
        self.open()
        rows = self.page.locator(".job-row")
        self.page.get_by_label("Find a job").fill("van 27")
        expect(rows).to_have_count(1)
        rows.get_by_role("button", name="Put away").click()
        expect(rows).to_have_count(0)
        self.page.get_by_text("Put away 1").click()
        expect(rows).to_have_count(1)
        rows.locator("td").nth(2).click()
        expect(self.page.get_by_role("heading", name="Van 27")).to_be_visible()

    def test_two_thousand_jobs_are_listed_and_searched_at_once(self) -> None:
        first = start_job(case(code="P0135", vehicle={"label": "Van 0"}))
        row = Job.objects.get(pk=first.pk)
        Job.objects.bulk_create(
            Job(header=row.header, **columns({**row.summary, "vehicle": f"Van {number}"})) for number in range(1, 2000)
        )
        self.open()
        expect(self.page.locator(".job-row").first).to_be_visible()
        field = self.page.get_by_label("Find a job")
        field.fill("van 1998")
        expect(self.page.locator(".job-row")).to_have_count(1)
        took = self.page.evaluate(SEARCHED)
        self.assertLess(took, 100, "milliseconds from a key to the list as it then is")

    def test_a_sensor_chosen_by_hand_needs_no_code(self) -> None:
        self.open()
        self.pick("The sensor by hand", "Bank 2 · sensor 1")
        self.page.get_by_role("button", name="Start the job").click()
        expect(self.page.get_by_role("region", name="The meter")).to_be_visible()
        expect(self.page.get_by_text("Bank 2 · sensor 1, before the catalyst").first).to_be_visible()
        self.assertEqual(Job.objects.get().codes, [])
