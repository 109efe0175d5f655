"""The code book and the place page in the browser."""

from playwright.sync_api import expect

from tests.browser.base import BrowserCase


class Places(BrowserCase):
    """Finding a code, and where its sensor sits."""

    def test_the_code_book_is_searched_by_words_and_place(self) -> None:
        self.open("/codes")
        self.page.get_by_label("Code or words").fill("heater low")
        self.pick("Bank", "2")
        self.pick("Sensor", "2")
        self.page.get_by_role("button", name="P0057").click()
        expect(self.page.get_by_role("region", name="The code")).to_contain_text("bank 2 sensor 2")

    def test_a_usual_layout_and_bank_1_place_the_sensor_and_stay_known(self) -> None:
        self.start_job("P0057")
        self.side("Code")
        self.page.get_by_role("link", name="Where it sits").first.click()
        self.pick("Start from a usual layout", "V6, across the car")
        expect(self.page.get_by_text("Where is cylinder 1?")).to_be_visible()
        self.pick("Bank 1 is", "rear / firewall")
        expect(self.page.locator(".place-said")).to_have_text("radiator side, after the catalyst")
        expect(self.page.locator(".plan-sensor.coded")).to_have_count(1)
        self.page.reload()
        expect(self.page.locator(".place-said")).to_have_text("radiator side, after the catalyst")

    def test_the_plug_is_mirrored_and_equal_colours_are_taken_for_the_heater(self) -> None:
        self.start_job("P0057")
        self.side("Code")
        self.page.get_by_role("link", name="Where it sits").first.click()
        first = self.page.locator(".cavity rect").first
        wire = first.get_attribute("x")
        self.touch("Mating face")
        self.assertNotEqual(first.get_attribute("x"), wire)
        for row, colour in enumerate(("black", "grey", "white", "white"), start=1):
            self.page.get_by_label(f"Wire colour of cavity {row}").fill(colour)
        self.page.get_by_role("button", name="Keep the pin table").click()
        expect(self.page.get_by_text("most likely the heater pair")).to_be_visible()
        expect(self.page.locator(".cavity.pair")).to_have_count(2)
        self.page.reload()
        expect(self.page.get_by_role("radio", name="Mating face")).to_be_checked()
