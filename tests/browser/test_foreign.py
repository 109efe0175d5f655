"""Pages of elsewhere, and a session that is over: they get nothing."""

from typing import Any

from playwright.sync_api import Error, Route

from server.jobs.start import start_job
from server.ledger.models import Entry
from tests.browser.base import BrowserCase
from tests.cases import BATTERY, case
from tests.people import author

ELSEWHERE = "http://elsewhere.test"


class Foreign(BrowserCase):
    """While someone works here, with a session in this browser."""

    def setUp(self) -> None:
        super().setUp()
        self.number = int(start_job(case(BATTERY), by=author("Ana")).job.pk)
        self.entries = Entry.objects.count()

    def go_elsewhere(self, body: str) -> None:
        def answer(route: Route) -> None:
            route.fulfill(status=200, content_type="text/html", body=body)

        self.page.route(f"{ELSEWHERE}/**", answer)
        self.page.goto(f"{ELSEWHERE}/")

    def test_a_foreign_page_reads_and_writes_nothing(self) -> None:
        self.go_elsewhere("<p>A page of elsewhere</p>")
        job = f"{self.live_server_url}/api/jobs/{self.number}"
        with self.assertRaises(Error):
            self.page.evaluate("url => fetch(url, {credentials: 'include'}).then(answer => answer.text())", job)
        for kind in ("text/plain", "application/json"):
            sent = """([url, kind]) => fetch(url, {method: 'POST', mode: kind === 'text/plain' ? 'no-cors' : 'cors', credentials: 'include',
                      headers: {'Content-Type': kind}, body: '{"reason": "x"}'}).then(answer => answer.type, () => 'refused')"""
            self.assertIn(self.page.evaluate(sent, [f"{job}/close", kind]), ("opaque", "refused"))
        self.assertEqual(Entry.objects.count(), self.entries)

    def test_a_framed_page_shows_nothing(self) -> None:
        self.go_elsewhere(f"<iframe src='{self.live_server_url}/jobs/{self.number}'></iframe>")
        self.page.wait_for_timeout(500)
        frames = [frame for frame in self.page.frames if frame is not self.page.main_frame]
        self.assertEqual([frame.get_by_role("heading").count() for frame in frames], [0])
        self.errors.clear()  # the browser says that it was refused

    def test_a_cookie_replayed_after_signing_out_writes_nothing(self) -> None:
        self.open(f"/jobs/{self.number}")
        cookies: Any = self.page.context.cookies()
        token = next(item["value"] for item in cookies if item["name"] == "csrftoken")
        headers = {"X-CSRFToken": token, "Content-Type": "application/json", "Origin": self.live_server_url}
        out = self.page.request.post(f"{self.live_server_url}/api/people/sign-out", headers=headers, data="{}")
        self.assertLess(out.status, 300)
        self.page.context.add_cookies(cookies)
        answer = self.page.request.post(
            f"{self.live_server_url}/api/jobs/{self.number}/close", headers=headers, data='{"reason": "x"}'
        )
        self.assertIn(answer.status, (401, 403))
        self.assertEqual(Entry.objects.count(), self.entries)
