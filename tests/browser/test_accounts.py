"""Where people sign in: a foreman sees to who may come in."""

from django.test import override_settings
from playwright.sync_api import expect

from server.people.roles import add_person
from tests.browser.base import BrowserCase
from tests.people import someone

PASSWORD = "four-wires-and-a-shell"


@override_settings(BENCH=False, SESSION_COOKIE_SECURE=False, CSRF_COOKIE_SECURE=False)
class Accounts(BrowserCase):
    """Off the bench."""

    def setUp(self) -> None:
        super().setUp()
        self.page.context.clear_cookies()
        add_person("Chiara", "foreman", PASSWORD)
        add_person("Beppo", "technician", PASSWORD)

    def sign_in(self, name: str, password: str) -> None:
        self.page.get_by_label("Name").fill(name)
        self.page.locator("input[type=password]").fill(password)
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("button", name=name)).to_be_visible()

    def sign_out(self, name: str) -> None:
        self.page.get_by_role("button", name=name).click()
        self.page.get_by_role("button", name="Sign out").click()
        expect(self.page.get_by_role("button", name="Sign in")).to_be_visible()

    def test_someone_is_added_comes_in_and_someone_who_leaves_does_not(self) -> None:
        page = self.page
        self.open()
        self.sign_in("Chiara", PASSWORD)
        page.get_by_role("button", name="Chiara").click()
        page.get_by_role("link", name="Who works here").click()
        page.get_by_label("Name").fill("Dora")
        page.get_by_label("First password").fill("short")
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.get_by_role("alert").filter(has_text="hard to guess")).to_be_visible()
        page.get_by_label("First password").fill(PASSWORD)
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.get_by_role("cell", name="Dora", exact=True)).to_be_visible()
        page.get_by_role("row", name="Beppo").get_by_role("button", name="Shut").click()
        page.get_by_role("button", name="Shut the account").click()
        expect(page.get_by_text("Beppo, left")).to_be_visible()
        self.assertFalse(someone("Beppo").is_active)
        self.sign_out("Chiara")
        self.sign_in("Dora", PASSWORD)
        page.get_by_role("button", name="Dora").click()
        page.get_by_text("Change my password").click()
        page.get_by_label("Password until now").fill(PASSWORD)
        page.get_by_label("New password").fill("a-new-and-longer-one")
        page.get_by_role("button", name="Change it").click()
        expect(page.get_by_role("status").filter(has_text="is changed")).to_be_visible()
        self.assertTrue(someone("Dora").check_password("a-new-and-longer-one"))
