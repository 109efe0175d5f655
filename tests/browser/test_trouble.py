"""When something goes wrong: the job stays on screen, the page says what happened, nothing is lost or noted twice."""

import json
from http.server import BaseHTTPRequestHandler, HTTPServer
from threading import Thread
from typing import Any, ClassVar

from playwright.sync_api import Route, expect

from server.jobs.start import start_job
from server.ledger import guards
from server.ledger.chain import canonical
from server.ledger.models import Entry, Job
from tests.browser.base import BrowserCase
from tests.cases import ELEMENT, SUPPLY, case
from tests.people import readings


class Trouble(BrowserCase):
    """Lost answers, lost pages, lost connections, odd values."""

    def job(self, *readings: dict[str, Any]) -> int:
        return int(start_job(case(*readings)).pk)

    def bench(self, job: int) -> None:
        self.open(f"/jobs/{job}")
        expect(self.page.get_by_role("region", name="The meter")).to_be_visible()

    def test_a_type_chosen_and_kept_at_once_is_stored_with_the_figures(self) -> None:
        job = self.job()
        self.open(f"/jobs/{job}/figures")
        self.page.get_by_label("Heater, cold (20 °C), from").fill("1.9")
        self.page.get_by_label("Heater, cold (20 °C), to").fill("2.6")
        self.pick("Sensor", "Air-fuel")
        self.page.get_by_role("button", name="Keep these figures").click()
        expect(self.page.get_by_text("Kept: every reading is judged anew")).to_be_visible()
        sensor = Job.objects.get(pk=job).header["sensor"]
        self.assertEqual((sensor["family"], sensor["heater_ohms_20c"]), ("airfuel-4w", [1.9, 2.6]))
        self.page.get_by_label("Heater, cold (20 °C), to").fill("2.8")
        expect(self.page.get_by_text("Kept: every reading is judged anew")).to_have_count(0)

    def test_what_is_typed_outlives_another_fields_answer(self) -> None:
        self.open(f"/jobs/{self.job()}/figures")
        source = self.page.get_by_label("Where the figures come from")
        source.fill("manual, page 9")
        self.pick("Heater driven", "steadily")
        expect(self.page.get_by_text("Kept: every reading is judged anew")).to_be_visible()
        expect(source).to_have_value("manual, page 9")

    def test_what_got_no_answer_waits_here_and_is_noted_once(self) -> None:
        self.bench(self.job())

        def lose(route: Route) -> None:
            route.fetch()  # it reaches the server, and its answer nobody
            route.abort()

        self.page.route("**/readings", lose)
        self.instrument("V")
        self.type_reading("13.9")
        expect(self.page.get_by_text("1 reading is kept on this device")).to_be_visible()
        expect(self.page.get_by_label("What the meter shows")).to_have_value("")
        expect(self.page.get_by_role("list", name="Kept on this device")).to_contain_text("13.9")
        self.page.unroute("**/readings")
        expect(self.page.locator(".ledger > li")).to_have_count(1)
        expect(self.page.get_by_text("kept on this device")).to_have_count(0)
        self.assertEqual([item["value"] for item in readings()], ["13.9"])

    def test_a_page_that_cannot_be_loaded_keeps_the_one_there_is(self) -> None:
        self.bench(self.job(ELEMENT))
        self.page.route("**/assets/SheetPage*", lambda route: route.abort())
        self.page.get_by_role("link", name="Sheet").click()
        expect(self.page.get_by_text("That page could not be loaded")).to_be_visible()
        expect(self.page.locator(".ledger > li")).to_have_count(1)
        expect(self.page.get_by_role("region", name="The meter")).to_be_visible()
        self.page.unroute("**/assets/SheetPage*")
        expect(self.page.get_by_role("heading", name="How sure")).to_be_visible()
        expect(self.page.get_by_text("That page could not be loaded")).to_have_count(0)

    def test_a_part_that_fails_leaves_the_rest_and_a_page_says_so(self) -> None:
        job = self.job(ELEMENT)

        def broken(route: Route) -> None:
            body = route.fetch().json()
            body["drawing"]["terminals"] = None
            route.fulfill(json=body)

        self.page.route(f"**/api/jobs/{job}", broken)
        self.open(f"/jobs/{job}")
        expect(self.page.get_by_role("region", name="The circuit").get_by_role("alert")).to_contain_text(
            "cannot be shown"
        )
        expect(self.page.get_by_role("region", name="Next step")).to_contain_text("Should read")
        expect(self.page.locator(".ledger > li")).to_have_count(1)
        self.open(f"/jobs/{job}/place")
        expect(self.page.get_by_role("alert")).to_contain_text("This page cannot be shown.")
        expect(self.page.get_by_role("link", name="Back to the jobs")).to_be_visible()
        self.errors.clear()  # the two failures that were brought about

    def test_a_conclusion_that_fails_says_so(self) -> None:
        job = self.job()
        self.bench(job)
        for path in (f"**/api/jobs/{job}", f"**/api/jobs/{job}/forecast"):
            self.page.route(path, lambda route: route.fulfill(status=500, json={"message": "x", "findings": []}))
        self.instrument("V")
        self.type_reading("13.9")
        expect(self.page.get_by_role("region", name="Next step").get_by_role("alert")).to_contain_text(
            "could not be worked out"
        )
        expect(self.page.locator(".ledger > li")).to_have_count(1)

    def test_a_time_that_is_none_is_shown_as_it_stands(self) -> None:
        job = self.job(ELEMENT, SUPPLY)
        for place, taken in enumerate(("2026-W11-6", "2026-03-14T09:30:00+23:59:59")):
            row = Entry.objects.get(job=job, line=place)
            body = canonical({"reading": {**json.loads(row.body)["reading"], "taken": taken}})
            guards.lift()
            Entry.objects.filter(pk=row.pk).update(body=body)
        self.bench(job)
        expect(self.page.locator(".ledger > li").last).to_contain_text("2026-W11-6")

    def test_the_card_shows_the_code_the_job_is_about(self) -> None:
        self.start_job("P0131 P0037")
        self.side("Code")
        expect(self.page.locator(".code-name").first).to_have_text("P0131")
        expect(self.page.locator(".where")).to_contain_text("Bank 1 · sensor 1")


FOREIGN = """<!doctype html><body><iframe src="{server}/jobs/{job}"></iframe><form method="post" enctype="text/plain"
 action="{server}/api/jobs/{job}/readings"><input name='{body}"note": "' value='"}}'></form><script>
 const url = '{server}/api/jobs/{job}/readings', text = {text}
 const tries = [{{mode: 'no-cors', headers: {{'Content-Type': 'text/plain'}}}}, {{mode: 'cors', headers: {{'Content-Type': 'application/json'}}}}]
 Promise.allSettled(tries.map((one) => fetch(url, {{method: 'POST', body: text, ...one}}))).then(() => {{
   document.title = 'tried'
   if (!location.hash) document.forms[0].submit()
 }})</script>"""


class Stranger(BrowserCase):
    """A page of another origin, open in the same browser."""

    page_text: ClassVar[str] = ""

    def serve(self, text: str) -> str:
        """The address of a server of a stranger's."""

        class Page(BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                self.send_response(200)
                self.send_header("Content-Type", "text/html")
                self.end_headers()
                self.wfile.write(text.encode())

            def log_message(self, *args: Any) -> None:
                """Nothing to say."""

        server = HTTPServer(("127.0.0.1", 0), Page)
        Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.shutdown)
        return f"http://127.0.0.1:{server.server_port}"

    def test_it_can_neither_write_nor_frame(self) -> None:
        job = start_job(case()).pk
        reading = json.dumps(SUPPLY)
        text = FOREIGN.format(server=self.live_server_url, job=job, body=reading[:-1] + ", ", text=json.dumps(reading))
        address = self.serve(text)
        self.page.goto(f"{address}/#stay")
        self.page.wait_for_function("document.title === 'tried'")
        frame = self.page.frames[1]
        self.assertNotIn("jobs", frame.url)  # what is shown instead is the browser's own refusal
        self.page.goto(address)
        self.page.wait_for_url("**/readings")
        expect(self.page.locator("body")).to_contain_text("Nothing was changed")
        self.assertEqual(len(readings()), 0)
        self.errors.clear()  # the browser's word on the frame it did not show
