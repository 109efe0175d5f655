"""The bench as it is used all day: drawing, meter, suspects, ledger, sheet, keys, sizes, and nothing that axe objects to."""

from itertools import product
from pathlib import Path
from time import perf_counter
from typing import Any

from django.conf import settings
from playwright.sync_api import Route, expect

from server.jobs.start import start_job
from tests.browser.base import BrowserCase
from tests.cases import SUPPLY, case, demo_case

AXE = Path(settings.BASE_DIR, "web", "node_modules", "axe-core", "axe.min.js")
#: Texts in view that are drawn smaller than so many pixels, with their size.
SMALLER = """least => {
  const found = [], texts = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT)
  while (texts.nextNode()) {
    const text = texts.currentNode, holder = text.parentElement, style = getComputedStyle(holder), range = document.createRange()
    range.selectNodeContents(text)
    const { width, height } = range.getBoundingClientRect()
    if (!text.textContent.trim() || !width || !height || style.visibility === 'hidden') continue
    const turned = holder.ownerSVGElement ? holder.getScreenCTM() : null
    const drawn = turned ? Math.sqrt(Math.abs(turned.a * turned.d - turned.b * turned.c)) : 1
    const size = parseFloat(style.fontSize) * drawn
    if (size < least - 0.1) found.push(`${text.textContent.trim()}: ${size.toFixed(1)}`)
  }
  return found
}"""
#: No label is smaller, in pixels.
LABEL = 13
#: From the start page to a decision on the demo's open-heater job.
MOST_TOUCHES = 25


class Workbench(BrowserCase):
    """On the demo depot's jobs."""

    def demo(self, start: str) -> int:
        return int(start_job(demo_case(start)).pk)

    def objections(self) -> list[str]:
        """What axe finds wrong with the page as it stands."""
        self.page.evaluate(AXE.read_text(encoding="utf-8"))  # the page itself takes no script from elsewhere
        found = self.page.evaluate("axe.run({resultTypes: ['violations']})")
        return [f"{item['id']}: {item['nodes'][0]['html'][:120]}" for item in found["violations"]]

    def test_every_main_view_is_clean_in_light_and_dark(self) -> None:
        job, decided = self.demo("06"), self.demo("04")
        views: dict[str, Any] = {
            "/": "heading", f"/jobs/{job}": "group", f"/jobs/{decided}": "group", f"/jobs/{job}/place": "img", f"/jobs/{job}/figures": "textbox",
            f"/jobs/{decided}/sheet": "table", "/codes": "search", "/sums": "status", "/workshop": "button", "/guide": "navigation", f"/jobs/{decided}/mend": "checkbox", f"/jobs/{decided}/papers": "img", "/people": "heading",
        }  # fmt: skip
        for light, (path, shows) in product(("paper", "night"), views.items()):
            self.page.add_init_script(f"localStorage.setItem('light', JSON.stringify('{light}'))")
            self.open(path)
            for width, height in ((1280, 800), (1024, 768), (390, 844)):
                with self.subTest(path, light=light, width=width):
                    self.page.set_viewport_size({"width": width, "height": height})
                    expect(self.page.get_by_role(shows).first).to_be_visible()
                    self.assertEqual(self.objections(), [])
                    self.assertEqual(self.page.evaluate(SMALLER, LABEL), [])
                    self.assertLessEqual(self.page.evaluate("document.documentElement.scrollWidth"), width)

    def test_the_side_and_the_dialogs_are_clean_too(self) -> None:
        self.open(f"/jobs/{self.demo('06')}")
        for tab in ("Other ways", "Decide", "Code"):
            self.side(tab)
            self.assertEqual(self.objections(), [], tab)
        self.page.locator(".component-head").first.click()
        expect(self.page.locator(".why-told")).to_contain_text("before any reading")
        self.open(f"/jobs/{self.demo('02')}")
        self.page.get_by_role("button", name="why?").first.click()
        expect(self.page.get_by_text("Worked out: what sound circuits")).to_be_visible()
        self.assertEqual(self.objections(), [], "why")
        self.page.locator(".line-main").first.click()
        self.assertEqual(self.objections(), [], "an open line")
        self.page.get_by_role("button", name="Intake").click()
        expect(self.page.get_by_label("What the driver says")).to_be_visible()
        self.assertEqual(self.objections(), [], "the intake")

    def test_from_the_start_page_to_a_decision_in_few_touches(self) -> None:
        self.demo("02")
        self.open()
        touches = 1
        self.page.get_by_role("link", name="P0135").click()
        expect(self.page.locator(".ledger > li")).to_have_count(1)
        while self.page.get_by_role("heading", name="Replace the sensor").count() == 0 and touches <= MOST_TOUCHES:
            before = self.page.locator(".ledger > li").count()
            bright = self.page.get_by_role("button", name="bright", exact=True)
            look = self.page.get_by_role("button", name="ok", exact=True)
            expect(bright.or_(look).or_(self.page.get_by_label("What the meter shows")).first).to_be_visible()
            if bright.is_visible() or look.is_visible():
                bright.or_(look).click()
                touches += 1
            else:
                ohms = self.page.get_by_role("radio", name="Ω").is_checked()
                self.type_reading("200k" if ohms else "13.8")
                touches += 1  # Enter; the digits are not counted
            expect(self.page.locator(".ledger > li")).to_have_count(before + 1)
            self.followed()
        expect(self.page.get_by_role("heading", name="Replace the sensor")).to_be_visible()
        self.assertLessEqual(touches, MOST_TOUCHES)

    def test_a_judgement_appears_at_once_with_40_readings_in_the_job(self) -> None:
        number = start_job(case(*[SUPPLY] * 40)).pk
        self.open(f"/jobs/{number}")
        self.instrument("V")
        self.lay("heater supply, loom side", "battery −")
        start = perf_counter()
        self.type_reading("13.9")
        expect(self.page.locator(".judged-result")).to_be_visible()
        self.assertLess(perf_counter() - start, 10.0)  # a hang, not a slow machine; the measure is taken apart
        expect(self.page.locator(".ledger > li")).to_have_count(41)

    def test_the_judgement_does_not_wait_for_what_follows(self) -> None:
        job = self.demo("06")
        self.open(f"/jobs/{job}")
        expect(self.page.get_by_role("region", name="The meter")).to_be_visible()
        held: list[Route] = []
        self.page.route(f"**/api/jobs/{job}", lambda route: held.append(route))
        lines = self.page.locator(".ledger > li")
        before = lines.count()
        self.lay("heater control, loom side", "battery −")
        self.type_reading("4.2")
        expect(self.page.locator(".judged-result")).to_be_visible()
        expect(lines).to_have_count(before + 1)
        expect(self.page.locator(".working")).to_be_visible()
        self.page.get_by_label("What the meter shows").fill("12.")  # the next one begun meanwhile is kept
        held.pop(0).abort()
        expect(self.page.get_by_role("alert")).to_contain_text("The reading is in the ledger")
        self.page.unroute(f"**/api/jobs/{job}")
        self.page.get_by_role("button", name="Try again").click()
        expect(self.page.get_by_role("region", name="Next step")).to_contain_text("Should read")
        expect(self.page.get_by_label("What the meter shows")).to_have_value("12.")
        expect(lines).to_have_count(before + 1)

    def test_the_drawing_tells_states_by_line_and_redraws_with_the_plug(self) -> None:
        self.open(f"/jobs/{self.demo('04')}")
        expect(self.page.locator(".part.condemned .cross")).to_have_count(1)
        expect(self.page.locator(".part.element.proven .tick")).to_have_count(1)
        expect(self.page.locator(".part.unproven").first).to_be_attached()
        expect(self.page.locator(".part.untouched").first).to_be_attached()
        self.touch("apart")
        expect(self.page.locator(".board.apart")).to_contain_text("plug apart")
        self.instrument("Lamp")
        expect(self.page.locator(".leads .lamp")).to_have_count(1)

    def test_every_family_is_drawn_with_its_own_terminals(self) -> None:
        for start, words in (("07", "signal return"), ("08", "CAN high")):
            self.open(f"/jobs/{self.demo(start)}")
            expect(self.page.get_by_role("group", name="Circuit drawing")).to_contain_text(words)

    def test_a_proposal_can_be_put_aside_and_the_style_switched(self) -> None:
        self.open(f"/jobs/{self.demo('06')}")
        step = self.page.get_by_role("region", name="Next step")
        ways = self.page.get_by_role("region", name="Other ways")
        name = step.locator("h2 span, .step-state")  # two proposals may differ in their state only
        expect(name.first).to_be_visible()
        first = name.all_inner_texts()
        step.get_by_role("button", name="I can’t take this one").click()
        step.get_by_role("button", name="no tool for it").click()
        expect(name).not_to_have_text(first)
        self.page.reload()
        expect(name).not_to_have_text(first)
        self.page.get_by_role("tab", name="Other ways").click()
        ways.get_by_text("Put aside: 1").click()
        ways.get_by_role("button", name="Bring it back").click()
        expect(ways.get_by_text("Put aside")).to_have_count(0)
        self.side("Next")
        expect(name).to_have_text(first)
        self.side("Other ways")
        ways.get_by_text("Ohms first").click()
        expect(ways.locator(".ant-segmented-item-selected")).to_have_text("Ohms first")
        self.side("Next")
        step.get_by_role("button", name="I measured something else").click()
        expect(step.get_by_role("button", name="Take the proposed one")).to_be_visible()

    def test_cautions_are_understood_once_a_job(self) -> None:
        self.open(f"/jobs/{self.demo('06')}")
        self.page.get_by_role("button", name="Understood").click()
        expect(self.page.locator(".caution-seen")).to_be_visible()
        self.page.reload()
        expect(self.page.locator(".caution-seen")).to_be_visible()

    def test_what_if_and_the_sheet_carry_the_evidence(self) -> None:
        job = self.demo("03")
        self.open(f"/jobs/{job}")
        self.page.locator(".line-main").nth(2).click()
        self.page.get_by_role("button", name="Without it?").click()
        expect(self.page.locator(".what-if")).to_contain_text("Keep testing")
        self.page.get_by_role("link", name="Decision sheet").first.click()
        expect(self.page.get_by_role("heading", name="Replace the sensor")).to_be_visible()
        for section in ("Evidence for it", "Evidence against, or unclear", "What would change it", "How sure"):
            expect(self.page.get_by_role("heading", name=section)).to_be_visible()
        expect(self.page.get_by_role("row")).to_have_count(8)

    def test_a_trap_is_said_at_its_reading(self) -> None:
        self.open(f"/jobs/{self.demo('06')}")
        self.lay("heater control, loom side", "battery −")
        self.type_reading("4.2")
        expect(self.page.locator(".trap").first).to_contain_text("average of a pulsed wire")

    def test_a_cleared_heater_shows_the_time_left_to_measure(self) -> None:
        self.open(f"/jobs/{self.demo('06')}")
        cleared = self.page.get_by_role("button", name="cleared", exact=True)
        if cleared.get_attribute("aria-pressed") != "true":
            cleared.click()
        self.page.get_by_role("button", name="started: 45 s").click()
        expect(self.page.get_by_role("timer")).to_contain_text("s to measure")
        self.page.reload()
        expect(self.page.get_by_role("timer")).to_contain_text("s to measure")

    def test_keys_help_and_a_code_typed_anywhere(self) -> None:
        self.open("/sums")
        expect(self.page.get_by_role("heading", name="Quick sums")).to_be_visible()
        self.page.keyboard.press("?")
        expect(self.page.get_by_role("dialog", name="Keys")).to_be_visible()
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("p")
        expect(self.page.get_by_label("Type the code")).to_have_value("P")

    def test_quick_sums(self) -> None:
        self.open("/sums")
        card = self.page.get_by_role("region", name="Pulsed wire")
        expect(card).to_contain_text("4.14 V")
        card.get_by_label("Or what the meter shows").fill("6.9")
        expect(card).to_contain_text("50 % of the time")
        card.get_by_label("Battery").fill("volts")
        expect(card.get_by_role("alert")).to_contain_text("a voltage such as")

    def test_small_screens_keep_entry_and_next_step_in_view(self) -> None:
        job = self.demo("06")
        for width, height in ((1024, 768), (390, 844)):
            with self.subTest(width=width):
                self.page.set_viewport_size({"width": width, "height": height})
                self.open(f"/jobs/{job}")
                expect(self.page.get_by_role("region", name="Next step")).to_be_in_viewport()
                expect(self.page.get_by_label("What the meter shows")).to_be_visible()
                self.assertLessEqual(self.page.evaluate("document.documentElement.scrollWidth"), width)

    def test_buttons_can_be_hit_with_a_glove(self) -> None:
        self.open(f"/jobs/{self.demo('06')}")
        self.page.locator(".line-main").first.click()
        expect(self.page.get_by_role("button", name="Strike").first).to_be_visible()
        small = self.page.evaluate(
            "[...document.querySelectorAll('button, a.quiet, select')].filter(e => e.offsetParent)"
            ".filter(e => !e.closest('.ledger-head') && !e.matches('.line-main, .why-line'))"
            ".filter(e => e.getBoundingClientRect().height < (e.matches('.ask') ? 35.5 : 43.5)).map(e => e.outerHTML.slice(0, 90))"
        )
        self.assertEqual(small, [])
