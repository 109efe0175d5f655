"""The steps of "Your first job" in docs/guide.md, done on a page: the guide's test follows them, and its pictures are taken on the way."""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial

from playwright.sync_api import Page, expect

#: What a sound part shows, where it is seen or comes of something done.
SEEN = ("bright", "ok", "not returned", "complete", "present", "valid")
MOST_READINGS = 14


@dataclass(frozen=True)
class GuideStep:
    """picture: its file's name without ending, as in the guide; do: what the step says, ending in the view that its picture shows."""

    picture: str
    do: Callable[[Page], None]


def nobody(page: Page) -> None:
    """Looks at nothing."""


def steps(look: Callable[[Page], None] = nobody) -> Iterator[GuideStep]:
    """In the guide's order, from the start page. look: is called where something that the step names is about to go."""
    yield GuideStep("first-1-code", type_the_code)
    yield GuideStep("first-2-bench", start)
    yield GuideStep("first-3-reading", take_what_is_proposed)
    yield GuideStep("first-4-own", read_the_element)
    yield GuideStep("first-5-lamp", light_the_lamp)
    yield GuideStep("first-6-decision", look_at_the_decision)
    yield GuideStep("first-7-mend", tick_a_step)
    yield GuideStep("first-8-proof", partial(fit_the_part, look=look))
    yield GuideStep("first-9-papers", partial(prove_and_hand_over, look=look))


def settled(page: Page) -> None:
    """Wait until what follows from the newest reading is on the page."""
    expect(page.locator("[aria-busy=true]")).to_have_count(0)


def type_the_code(page: Page) -> None:
    page.get_by_label("Type the code").fill("P0141")
    expect(page.get_by_label("What the code says")).to_contain_text("sensor 2")
    page.get_by_role("combobox", name="Vehicle").fill("Ambulance 9 · Talbach Sanar")
    page.keyboard.press("Escape")


def start(page: Page) -> None:
    page.get_by_role("button", name="Start the job").click()
    expect(page.locator(".next h2")).to_be_visible()
    settled(page)


def take_what_is_proposed(page: Page) -> None:
    page.get_by_label("What the meter shows").fill("14.1")
    page.keyboard.press("Enter")
    expect(page.locator(".ledger > li")).to_have_count(1)
    settled(page)


def read_the_element(page: Page) -> None:
    page.locator(".dial").get_by_text("Ω", exact=True).click()
    for place in ("heater supply, sensor side", "heater control, sensor side"):
        page.get_by_role("button", name=place).and_(page.locator(".point")).first.click(force=True)
    page.get_by_label("What the meter shows").fill("OL")
    page.keyboard.press("Enter")
    expect(page.locator(".ledger > li")).to_have_count(2)
    settled(page)


def light_the_lamp(page: Page) -> None:
    back = page.get_by_role("button", name="Take the proposed one")
    if back.is_visible():
        back.click()
    expect(page.get_by_role("region", name="The meter").get_by_role("button", name="bright")).to_be_visible()


def look_at_the_decision(page: Page) -> None:
    page.get_by_role("region", name="The meter").get_by_role("button", name="bright").click()
    expect(page.get_by_role("heading", name="Replace the sensor")).to_be_visible()
    settled(page)


def tick_a_step(page: Page) -> None:
    page.get_by_role("link", name="Mend it: repair sheet").click()
    page.get_by_role("checkbox").first.check()
    expect(page.locator(".repair-proof [role=status]")).to_be_visible()


def fit_the_part(page: Page, look: Callable[[Page], None]) -> None:
    note = page.get_by_role("button", name="Note the repair").first
    expect(note).to_be_visible()
    look(page)
    note.click()
    page.get_by_role("dialog").get_by_label("Part number fitted").fill("TS-2290-14")
    page.get_by_role("dialog").get_by_role("button", name="Note it as done").click()
    expect(page.get_by_role("list", name="Proof of the repair")).to_be_visible()
    expect(page.locator(".repair-proof .working")).to_have_count(0)


def prove_and_hand_over(page: Page, look: Callable[[Page], None]) -> None:
    sheet, proven = page.url, page.get_by_role("status").get_by_text("Repaired and proven: all")
    for _ in range(MOST_READINGS):
        page.goto(sheet)
        expect(page.locator(".repair-proof [role=status]")).to_be_visible()
        page.wait_for_load_state("networkidle")
        wanted = page.get_by_role("button", name="Take: ")
        expect(wanted.first.or_(proven)).to_be_visible()
        if proven.count():
            break
        wanted.first.click()
        show_as_sound(page)
    expect(page.get_by_role("button", name="Hand the vehicle over")).to_be_visible()
    look(page)
    page.get_by_role("button", name="Hand the vehicle over").click()
    expect(page.get_by_text("Handed over, proven")).to_be_visible()
    page.get_by_role("link", name="Papers").click()
    expect(page.get_by_alt_text("For the customer, first page")).to_be_visible()


def show_as_sound(page: Page) -> None:
    """Type or touch what a sound circuit shows, whatever the meter asks."""
    meter = page.get_by_role("region", name="The meter")
    expect(meter).to_be_visible()
    lines = page.locator(".ledger > li").count()
    for word in SEEN:
        choice = meter.get_by_role("button", name=re.compile(rf"^\d? ?{word}$"))
        if choice.count():
            choice.first.click()
            break
    else:
        _type_as_sound(page, meter.locator(".judged").inner_text())
    expect(page.locator(".ledger > li")).to_have_count(lines + 1)
    settled(page)


def _type_as_sound(page: Page, expected: str) -> None:
    shows = page.get_by_label("What the meter shows")
    if "moving" in expected:
        shows.fill("0.15-0.82")
        page.locator(".ant-segmented-item").get_by_text("switching", exact=True).first.click()
    else:
        shows.fill(middle(expected))
    shows.press("Enter")


def middle(expected: str) -> str:
    """A value in an expected range: 4 to 7.5 ohm is 5.75 ohm."""
    found = re.findall(r"(-?\d+(?:\.\d+)?) ?([a-zA-ZΩ%]+)?", expected)
    numbers, units = [float(number) for number, _ in found], [unit for _, unit in found if unit and unit != "to"]
    return f"{sum(numbers) / len(numbers) if len(numbers) > 1 else 1.15 * numbers[0]:.3g} {units[-1]}"
