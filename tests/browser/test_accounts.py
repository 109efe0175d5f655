"""Where people sign in: a foreman sees to who may come in."""

from django.test import override_settings
from playwright.sync_api import expect

from server.jobs.start import start_job
from server.people.roles import add_person
from tests.browser.base import BrowserCase
from tests.cases import BATTERY, case
from tests.people import someone

PASSWORD = "four-wires-and-a-shell"


#: Whether this device keeps a job's view, as asked for.
VIEWS_KEPT = """wanted => new Promise(done => {
    const asked = indexedDB.open('dianoia-views')
    asked.onsuccess = () => {
        const found = asked.result.transaction('views').objectStore('views').getAll()
        found.onsuccess = () => done(JSON.stringify(found.result).includes('"job"') === wanted)
    }
})"""


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

    def test_who_signs_out_leaves_no_view_and_no_draft_on_the_device(self) -> None:
        job = start_job(case()).pk
        self.open()
        self.sign_in("Beppo", PASSWORD)
        self.open(f"/jobs/{job}")
        expect(self.page.get_by_role("region", name="The meter")).to_be_visible()
        self.page.wait_for_function("() => Object.keys(localStorage).some(key => key.startsWith('draft'))")
        self.page.wait_for_function(VIEWS_KEPT, arg=True)
        self.sign_out("Beppo")
        self.page.wait_for_function(VIEWS_KEPT, arg=False)
        self.assertEqual(self.page.evaluate("Object.keys(localStorage).filter(key => key.startsWith('draft'))"), [])

    @override_settings(IDLE_MINUTES=0.1)
    def test_who_types_stays_signed_in_and_a_page_left_alone_asks_anew(self) -> None:
        job = start_job(case()).pk
        self.open()
        self.sign_in("Beppo", PASSWORD)
        self.open(f"/jobs/{job}")
        for _ in range(16):  # eight seconds, longer than the six of a session
            self.page.keyboard.press("Shift")
            self.page.wait_for_timeout(500)
        expect(self.page.get_by_role("button", name="Beppo")).to_be_visible()
        expect(self.page.get_by_role("button", name="Sign in")).to_be_visible(timeout=20_000)

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

    def test_who_only_reads_sees_that_and_finds_nothing_to_change(self) -> None:
        add_person("Livia", "reader", PASSWORD)
        number, page = int(start_job(case(BATTERY)).pk), self.page
        for name, writes in (("Livia", False), ("Beppo", True)):
            self.open(f"/jobs/{number}")
            self.sign_in(name, PASSWORD)
            with self.subTest(name):
                expect(page.get_by_text("reads only")).to_have_count(int(not writes))
                page.locator(".line-main").first.click()
                for control in (
                    page.get_by_label("What the meter shows"),
                    page.get_by_role("button", name="Strike"),
                ):
                    expect(control).to_be_enabled(enabled=writes)
                expect(page.get_by_role("button", name="Without it?")).to_be_enabled()
                page.get_by_role("link", name="All jobs").click()
                expect(page.get_by_role("button", name="Start the job")).to_be_enabled(enabled=writes)
                expect(page.get_by_role("button", name="Put away", exact=True)).to_have_count(int(writes))
            self.sign_out(name)
