"""A headless Chromium and a fresh page for each browser test."""

import os
from typing import ClassVar

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from playwright.sync_api import Browser, ConsoleMessage, Page, Playwright, expect, sync_playwright

from tests.people import Emptied, come_in

CHROMIUM = "/usr/bin/chromium"
#: Milliseconds until what does not show counts as missing: a machine may be slow, and no test here holds a time by it.
PATIENCE = 30_000


class BrowserCase(Emptied, StaticLiveServerTestCase):
    """Opens pages of the live server; any script error, or anything its policy forbids, fails the test."""

    playwright: ClassVar[Playwright]
    browser: ClassVar[Browser]

    @classmethod
    def setUpClass(cls) -> None:
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"  # Playwright runs a loop in this thread
        super().setUpClass()
        expect.set_options(timeout=PATIENCE)
        cls.playwright = sync_playwright().start()
        arguments = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--no-first-run"]
        cls.browser = cls.playwright.chromium.launch(executable_path=CHROMIUM, args=arguments)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.close()
        cls.playwright.stop()
        super().tearDownClass()

    def setUp(self) -> None:
        self.page: Page = self.browser.new_page(viewport={"width": 1280, "height": 800}, service_workers="block")
        self.page.set_default_timeout(PATIENCE)
        self.name_picked()
        self.errors: list[str] = []
        self.page.on("pageerror", lambda error: self.errors.append(str(error)))
        self.page.on("console", self._policy)

    def name_picked(self, name: str = "Ana") -> None:
        """As if someone had said at this page who they are."""
        come_in(self.client, name)
        cookie = {"name": "sessionid", "value": self.client.cookies["sessionid"].value, "url": self.live_server_url}
        self.page.context.add_cookies([cookie])  # type: ignore[list-item]

    def tearDown(self) -> None:
        self.page.context.close()
        self.assertEqual(self.errors, [])

    def _policy(self, message: ConsoleMessage) -> None:
        if message.type == "error" and "Content Security Policy" in message.text:
            self.errors.append(message.text[-200:])

    def open(self, path: str = "/") -> None:
        self.page.goto(f"{self.live_server_url}{path}")

    def start_job(self, codes: str = "P0057") -> None:
        self.open()
        self.type_code(codes)
        expect(self.page.get_by_role("region", name="The meter")).to_be_visible()

    def type_code(self, text: str) -> None:
        """Type into the field that has the focus when the start page opens."""
        expect(self.page.get_by_label("Type the code")).to_be_focused()
        self.page.keyboard.type(text)
        self.page.keyboard.press("Enter")

    def side(self, name: str) -> None:
        """Open a tab beside the drawing."""
        self.page.get_by_role("tab", name=name).click()

    def pick(self, label: str, option: str) -> None:
        """Choose from a list by what is written there."""
        self.page.get_by_label(label, exact=True).first.click(force=True)
        self.page.locator(".ant-select-item-option", has_text=option).filter(visible=True).first.click()

    def instrument(self, name: str) -> None:
        self.page.locator(".dial").get_by_text(name, exact=True).click()

    def touch(self, name: str) -> None:
        """One of several that exclude each other."""
        self.page.locator(".ant-segmented-item").get_by_text(name, exact=True).first.click()

    def lay(self, red: str, black: str) -> None:
        for name in (red, black):
            self.page.get_by_role("button", name=name).and_(self.page.locator(".point")).first.click(force=True)

    def followed(self) -> None:
        """Wait until what follows from the newest reading is on the page."""
        expect(self.page.locator("[aria-busy=true]")).to_have_count(0)

    def type_reading(self, text: str) -> None:
        self.page.get_by_label("What the meter shows").fill(text)
        self.page.keyboard.press("Enter")
