"""The meter: what is stored stands beside it, a touch does what it says, and nothing covers anything at any size."""

from typing import Any

from playwright.sync_api import expect

from server.jobs.start import start_job
from tests.browser.base import BrowserCase
from tests.cases import STEADY, case
from tests.people import readings

MODES = ("V", "Ω", "Lamp", "A", "Scope", "Scan", "Record", "Look", "Did")
SIZES = ((1280, 800), (1024, 768), (390, 844))
#: What the strip beside the meter says, as the reading would: read off the page, not out of the program.
SHOWN = """() => {
  const strip = document.querySelector('.state-strip')
  const at = (name) => strip.querySelector(`[aria-label="${name}"]`)
  const chosen = (name) => at(name)?.querySelector('.ant-segmented-item-selected')?.textContent ?? null
  const on = (name) => [...strip.querySelectorAll('.toggle[aria-pressed=true]')].some((item) => item.textContent.startsWith(name))
  const bridged = [...strip.querySelectorAll('.toggle')].some((item) => item.textContent.includes(' bridged to '))
  return {
    key: chosen('Key'), plug: chosen('Plug'), watts: chosen('Lamp'),
    with: [...strip.querySelectorAll('.conditions [aria-pressed=true]')].map((item) => item.textContent),
    of: strip.querySelector('.part') && strip.querySelector('.part').textContent !== 'this sensor' ? strip.querySelector('.part').textContent : null, bridged, at_s: at('Seconds since start')?.value || null,
    celsius: strip.querySelector('[aria-label^="Element temperature"]')?.value || null,
    fed: at('Volts fed to the signal wire')?.value || null, ecm: on('ECM apart'), battery: on('battery off'),
    cleared: on('cleared'), load: on('lamp load'), in_place: on('in place of heater'),
  }
}"""
#: Pairs of controls that lie over each other, and those that reach beyond the meter.
COVERED = """() => {
  const meter = document.querySelector('.bench-meter'), edge = meter.getBoundingClientRect(), found = []
  const shown = [...meter.querySelectorAll('button, input, select, .ant-select, .points')].filter((item) => item.offsetParent)
  const boxes = shown.filter((item) => !item.closest('.ant-select') || item.classList.contains('ant-select'))
    .map((item) => [item, item.getBoundingClientRect()])
  boxes.forEach(([one, a], place) => {
    if (a.bottom > edge.bottom + 1 || a.right > edge.right + 1) found.push('beyond: ' + one.outerHTML.slice(0, 80))
    for (const [other, b] of boxes.slice(place + 1)) {
      if (one.contains(other) || other.contains(one)) continue
      const wide = Math.min(a.right, b.right) - Math.max(a.left, b.left), high = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top)
      if (wide > 1 && high > 1) found.push(one.outerHTML.slice(0, 60) + ' over ' + other.outerHTML.slice(0, 60))
    }
  })
  return found
}"""
#: Presses the named buttons of the strip in turn, as far as they are there and not pressed.
PRESS = """async (names) => {
  for (const name of names) {
    const buttons = [...document.querySelectorAll('.state-strip button, .state-strip .ant-segmented-item')].filter((item) => item.textContent === name)
    buttons.filter((item) => item.getAttribute('aria-pressed') !== 'true' && !item.classList.contains('ant-segmented-item-selected')).forEach((item) => item.click())
    await new Promise((resolve) => setTimeout(resolve))
  }
}"""
WORDS = {"signal grounded": "signal-grounded", "enriched": "rich", "signal fed": "signal-fed"}


class Meter(BrowserCase):
    """Of a front switching sensor."""

    def job(self, **sensor: Any) -> int:
        known = {"family": "switching-4w", "bank": 2, "position": 1, **sensor}
        return int(start_job(case(code="P0154", sensor=known)).pk)

    def held(self) -> None:
        """No reading reaches the server from here on."""
        refusal = '{"message": "held", "findings": []}'
        self.page.route(
            "**/readings", lambda route: route.fulfill(status=422, content_type="application/json", body=refusal)
        )

    def press(self, *names: str) -> None:
        """Everything of these that the strip has, pressed."""
        self.page.evaluate(PRESS, names)

    def condition(self, name: str) -> None:
        row = self.page.get_by_role("group", name="Taken with")
        if row.count():
            row.get_by_text(name, exact=True).click()

    def take(self) -> None:
        """Whatever is laid out, taken with any value."""
        choice = self.page.locator(".meter .choice").first
        if choice.count():
            return choice.click()
        field = self.page.locator(".meter-main input:not([role=combobox])").first
        field.fill("1")
        return field.press("Enter")

    def as_said(self, shown: dict[str, Any]) -> dict[str, Any]:
        """The strip's state as a reading holds it."""
        plug = {"in": "mated", "apart": "unplugged"}.get(shown["plug"] or "")
        conditions: list[str | None] = [WORDS[name] for name in shown["with"]]
        said = {
            "key": {"crank": "cranking"}.get(shown["key"], shown["key"]), "connector": plug,
            "module_connector": "unplugged" if shown["ecm"] else None, "battery": "disconnected" if shown["battery"] else None,
            "codes_cleared": shown["cleared"] or None, "with": conditions if len(conditions) > 1 else (conditions or [None])[0],
            "of": shown["of"], "at_s": shown["at_s"] and float(shown["at_s"]), "sensor_c": shown["celsius"] and float(shown["celsius"]),
            "watts": shown["watts"] and int(shown["watts"].split()[0]), "load": "lamp" if shown["load"] else None,
            "in_place_of": "heater" if shown["in_place"] else None, "fed_v": shown["fed"],
        }  # fmt: skip
        return {name: value for name, value in said.items() if value is not None}

    def test_what_is_stored_is_what_stands_beside_the_meter_after_every_other_measure(self) -> None:
        self.open(f"/jobs/{self.job()}")
        expect(self.page.get_by_role("region", name="The meter")).to_be_visible()
        self.held()
        for first in MODES:
            for then in (name for name in MODES if name != first):
                self.instrument(first)
                self.press(
                    "off",
                    "battery off",
                    "ECM apart",
                    "on",
                    "apart",
                    "cleared",
                    "lamp load",
                    "in place of heater",
                    "21 W",
                )
                if first in ("V", "Scan"):
                    self.condition("signal grounded")
                self.instrument(then)
                expect(self.page.locator(".ant-segmented-thumb")).to_have_count(0)  # a choice that slides shows none
                shown = self.as_said(self.page.evaluate(SHOWN)) if self.page.locator(".state-strip").count() else {}
                with self.page.expect_request("**/readings") as sent:
                    self.take()
                body = sent.value.post_data_json
                expect(self.page.get_by_role("alert")).to_be_visible()
                state = {name: value for name, value in (body or {}).items()
                         if name not in ("measure", "red", "black", "at", "pid", "signal", "target", "action", "value", "taken")}  # fmt: skip
                if then in ("Scan", "Record") and shown.get("connector") == "mated":
                    del shown["connector"]  # plugged in is what a scan value is read in
                with self.subTest(f"{first}, then {then}"):
                    self.assertEqual(state, shown)

    def test_a_scan_value_after_ohms_is_read_plugged_in(self) -> None:
        job = self.job(**STEADY, heater_amps=[0.5, 1.2])
        self.open(f"/jobs/{job}")
        self.instrument("Ω")
        self.instrument("Scan")
        self.pick("Scan value", "heater current")
        self.type_reading("0.8")
        expect(self.page.locator(".judged-result")).to_have_text("good")
        self.assertNotIn("connector", readings()[0])

    def test_a_lead_makes_room_or_the_meter_says_why_not(self) -> None:
        self.open(f"/jobs/{self.job()}")
        self.instrument("V")
        self.lay("heater supply, loom side", "heater control, loom side")
        # from here the control wire is to be measured on to the module: the red lead takes the black one's place
        self.lay("heater control, loom side", "heater control, at the module")
        names = self.page.locator(".lead-name")
        expect(names.first).to_contain_text("heater control, loom side")
        expect(names.last).to_contain_text("heater control, at the module")
        self.page.locator(".point", has_text="signal, loom side").first.click(force=True)
        self.page.locator(".point.red").click(force=True)
        expect(self.page.get_by_text("The red lead lies there already")).to_be_visible()
        expect(names.last).to_contain_text("heater control, at the module")

    def test_nothing_covers_anything_in_any_mode_at_any_size(self) -> None:
        job = self.job()
        for width, height in SIZES:
            self.page.set_viewport_size({"width": width, "height": height})
            self.open(f"/jobs/{job}")
            for mode in MODES:
                self.instrument(mode)
                self.press("off", "battery off", "ECM apart", "on", "apart", "cleared", "lamp load", "after … s")
                with self.subTest(f"{mode} at {width}"):
                    self.assertEqual(self.page.evaluate(COVERED), [])
                    self.assertLessEqual(self.page.evaluate("document.documentElement.scrollWidth"), width)
                    if width > 1000:
                        self.assertLessEqual(self.page.evaluate("document.documentElement.scrollHeight"), height)
                        expect(self.page.locator(".board")).to_be_in_viewport()

    def test_an_air_fuel_sensor_is_recorded_by_its_current(self) -> None:
        self.open(f"/jobs/{self.job(family='airfuel-4w')}")
        self.instrument("Record")
        expect(self.page.locator(".picked .ant-select")).to_contain_text("cell current")
        self.page.get_by_label("lowest, mA").fill("-0.3")
        self.page.keyboard.press("Enter")
        expect(self.page.locator(".ledger > li")).to_have_count(1)
        self.assertEqual(readings()[0]["signal"], "cell_current")

    def test_where_the_exhaust_was_looked_at_is_shown_and_stored(self) -> None:
        self.open(f"/jobs/{self.job()}")
        self.instrument("A")
        self.instrument("Look")
        self.pick("What was looked at", "exhaust")
        for lines, (place, stored) in enumerate(((None, None), ("between the sensors", "between")), start=1):
            if place:
                self.pick("What was looked at", "exhaust")
                self.page.get_by_text(place).click()
            self.page.get_by_role("button", name="ok", exact=True).click()
            expect(self.page.locator(".ledger > li")).to_have_count(lines)
            self.followed()
            self.assertEqual(readings()[-1].get("at"), stored)
            self.instrument("Look")
