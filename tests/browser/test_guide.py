"""The guide is true of the running application: its first job is done as it says, and what it names stands on the screen."""

import re
from pathlib import Path
from tempfile import TemporaryDirectory

from django.conf import settings
from django.test import override_settings
from playwright.sync_api import expect

from server.commands.management.commands.load_demo import samples_of
from server.jobs.start import start_job
from server.jobs.zipped import put_samples
from tests.browser.base import BrowserCase
from tests.browser.guide_steps import steps
from tests.cases import demo_case

GUIDE = Path(settings.BASE_DIR, "docs", "guide.md")
BOLD = re.compile(r"\*\*(.+?)\*\*")
#: Texts of a page that are seen or read out, and those of its fields.
SAID = """() => [document.body.innerText, ...[...document.querySelectorAll('[aria-label], [placeholder], [title]')].map(
  node => [node.ariaLabel, node.placeholder, node.title].join(' '))].join('\\n')"""
#: Section of the guide -> page that it is about (a demo job stands for ``%``), and what is touched there first.
PAGES: dict[str, tuple[str, tuple[str, ...]]] = {
    "Start page": ("/", ()), "Decision": ("/jobs/03%", ()), "Place": ("/jobs/06%/place", ()), "Figures": ("/jobs/06%/figures", ()),
    "Repair": ("/jobs/04%/mend", ()), "Papers": ("/jobs/04%/papers", ()), "Curves": ("/jobs/15%/curves", ()), "Code book": ("/codes", ()), "Workshop": ("/workshop", ()),
    "Bench": ("/jobs/06%", ()), "Volts": ("/jobs/07%", ()), "Ohms": ("/jobs/06%", ("Ω",)), "Lamp": ("/jobs/06%", ("Lamp",)),
    "Amps": ("/jobs/06%", ("A",)), "Scope": ("/jobs/06%", ("Scope",)), "Scan tool": ("/jobs/06%", ("Scan",)),
    "Recording": ("/jobs/06%", ("Record",)), "Look": ("/jobs/06%", ("Look",)), "Done": ("/jobs/06%", ("Did",)),
}  # fmt: skip


def sections() -> dict[str, str]:
    """Heading -> the text below it."""
    parts = re.split(r"^#{2,3} (.+)$", GUIDE.read_text(encoding="utf-8"), flags=re.MULTILINE)
    return dict(zip(parts[1::2], parts[2::2], strict=True))


class Guide(BrowserCase):
    """docs/guide.md."""

    def said(self) -> str:
        return str(self.page.evaluate(SAID)).casefold()

    def named(self, text: str, seen: str, where: str) -> None:
        missing = [name for name in BOLD.findall(text) if name.casefold() not in seen]
        self.assertEqual(missing, [], f"{where}: {seen}")

    def test_the_first_job_goes_as_it_says(self) -> None:
        items = re.split(r"^\d+\. ", sections()["Your first job"], flags=re.MULTILINE)[1:]
        self.open()
        seen: list[str] = []
        numbered = enumerate(zip(items, steps(lambda _: seen.append(self.said())), strict=True), start=1)
        for number, (item, step) in numbered:
            del seen[:-1]  # what is touched in a step may be gone after it
            step.do(self.page)
            self.assertIn(f"guide/{step.picture}.png", item)
            seen.append(self.said())
            self.named(item, "".join(seen), f"step {number}")

    def test_each_section_names_what_its_page_shows(self) -> None:
        found = sections()
        self.assertLessEqual({title for title, text in found.items() if BOLD.search(text)}, {*PAGES, "Your first job"})
        self.enterContext(override_settings(VAR_DIR=Path(self.enterContext(TemporaryDirectory()))))
        put_samples(samples_of(demo_case("15")))
        jobs = {start: start_job(demo_case(start)).pk for start in ("03", "04", "06", "07", "15")}
        for title, (page, touches) in PAGES.items():
            with self.subTest(title):
                self.open(re.sub(r"(\d\d)%", lambda match: str(jobs[match[1]]), page))
                expect(self.page.get_by_role("heading").first).to_be_visible()
                for name in touches:
                    self.instrument(name)
                self.page.wait_for_load_state("networkidle")
                self.named(found[title], self.said() + " take the proposed one", title)

    def test_it_opens_at_the_place_of_the_page_and_shows_its_pictures(self) -> None:
        job = start_job(demo_case("06")).pk
        for path, title in (
            ("/", "Start page"),
            (f"/jobs/{job}", "Bench"),
            (f"/jobs/{job}/mend", "Repair"),
            ("/sums", "Quick sums"),
        ):
            self.open(path)
            self.page.get_by_role("link", name="Guide to this page").click()
            expect(self.page.locator(".guide-text").get_by_role("heading", name=title, exact=True)).to_be_in_viewport()
        self.page.get_by_role("link", name="Your first job").click()
        picture = self.page.locator(".guide-text img").first
        picture.scroll_into_view_if_needed()
        self.page.wait_for_function(
            "picture => picture.complete && picture.naturalWidth > 1000", arg=picture.element_handle()
        )
        self.page.get_by_role("button", name="Back").click()
        expect(self.page.get_by_role("heading", name="Quick sums")).to_be_visible()
