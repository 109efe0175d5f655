"""Places: every valid profile is drawn with room for its labels, and told as a person at the vehicle would."""

import random
from itertools import combinations
from typing import Any, ClassVar
from unittest import TestCase

from dianoia.case.job import job_of
from dianoia.case.load import from_plain
from dianoia.case.types import Vehicle
from dianoia.drawings.plug import plug
from dianoia.drawings.vehicle import plan
from dianoia.vehicle.tables import presets
from dianoia.vehicle.types import Box, Plan
from dianoia.vehicle.words import address_words, place_words
from tests.cases import ELEMENT, SUPPLY, case


def vehicle(**engine: Any) -> Vehicle:
    steering = engine.pop("steering", None)
    return from_plain(Vehicle, {"label": "x", "engine": engine, **({"steering": steering} if steering else {})})


def seeded_vehicle(seed: int) -> tuple[Vehicle, bool]:
    """A valid profile: anything may be unknown."""
    draw = random.Random(seed)

    def maybe(values: list[Any]) -> Any:
        return draw.choice([None, *values])

    layout = maybe(["inline", "v", "flat"])
    fields = {
        "cylinders": maybe([1, 2, 3, 4, 5, 6, 8, 10, 12, 16]), "layout": layout, "mounting": maybe(["longitudinal", "transverse"]),
        "bank_1": maybe(["left", "right", "front", "rear"]), "sensor_banks": maybe([1, 2]),
        "exhaust": {"merged": maybe([True, False]), "catalysts_in_row": maybe([0, 1, 2, 3]), "scr": maybe([True, False])},
    }  # fmt: skip
    return vehicle(**fields, steering=maybe(["left", "right"])), draw.random() < 0.2


class Drawing(TestCase):
    """The geometry."""

    def test_boxes_share_more_than_an_edge_or_they_do_not(self) -> None:
        box = Box(10, 20, 30, 5)
        for why, other, shares in (
            ("itself", box, True), ("inside", Box(12, 21, 1, 1), True), ("a corner", Box(39, 24, 9, 9), True), ("left of it", Box(0, 20, 10, 5), False),
            ("right of it", Box(40, 20, 5, 5), False), ("above", Box(10, 10, 30, 10), False), ("below", Box(10, 25, 30, 5), False),
            ("far below", Box(10, 60, 30, 5), False), ("across it", Box(0, 22, 90, 1), True),
        ):  # fmt: skip
            self.assertEqual((box.overlaps(other), other.overlaps(box)), (shares, shares), why)

    def check(self, drawn: Plan) -> None:
        sheet = Box(0, 0, drawn.width, drawn.height)
        labels = [sensor.label for sensor in drawn.sensors]
        texts = [part.box for part in drawn.parts if part.box and part.text]
        for one, other in combinations([*labels, *texts], 2):
            self.assertFalse(one.overlaps(other), (one, other))
        for box in labels:
            self.assertTrue(
                sheet.x <= box.x and box.x + box.width <= sheet.width and box.y + box.height <= sheet.height
            )
        for sensor in drawn.sensors:
            dot = Box(sensor.x - 9, sensor.y - 9, 18, 18)
            self.assertFalse(any(dot.overlaps(box) for box in [*labels, *texts]), sensor)

    def test_presets_and_200_seeded_profiles_are_drawn_without_overlap(self) -> None:
        for preset in presets():
            with self.subTest(preset.id):
                self.check(plan(preset.vehicle, ("B1S1",), nox=preset.vehicle.fuel == "diesel"))
        for seed in range(200):
            made, nox = seeded_vehicle(seed)
            coded = ("B1S2",) if nox else (random.Random(seed).choice(["B1S1", "B1S2", "B2S1", "B2S2", "B1S3"]),)
            with self.subTest(seed):
                self.check(plan(made, coded, nox))

    def test_the_coded_sensor_is_marked_once_and_its_twin_on_the_other_bank(self) -> None:
        drawn = plan(vehicle(layout="v", cylinders=6, mounting="transverse", bank_1="rear"), ("B2S1",), nox=False)
        roles = {sensor.address: sensor.role for sensor in drawn.sensors}
        self.assertEqual((roles["B2S1"], roles["B1S1"], roles["B1S2"]), ("coded", "twin", "other"))

    def test_cylinder_1_lies_in_the_bank_it_defines(self) -> None:
        for side, sign in (("left", -1), ("right", 1)):
            drawn = plan(vehicle(layout="v", cylinders=8, mounting="longitudinal", bank_1=side), ("B1S1",), nox=False)
            first = next(part.box for part in drawn.parts if part.kind == "cylinder" and part.text == "1")
            sensor = next(item for item in drawn.sensors if item.address == "B1S1")
            assert first is not None
            self.assertGreater(sign * (first.x + 11 - drawn.width / 2), 0, side)
            self.assertGreater(sign * (sensor.x - drawn.width / 2), 0, side)


class Words(TestCase):
    """What is said, and asked."""

    def test_places_are_said_as_a_person_at_the_vehicle_says_them(self) -> None:
        across = vehicle(layout="v", mounting="transverse", bank_1="rear", steering="left")
        along = vehicle(layout="v", mounting="longitudinal", bank_1="right", steering="right")
        unknown = vehicle(layout="v", mounting="longitudinal")
        for made, bank, position, nox, wanted in (
            (across, 1, 1, False, "firewall side, before the catalyst"),
            (across, 2, 2, False, "radiator side, after the catalyst"),
            (along, 1, 1, False, "vehicle right, driver's side, before the catalyst"),
            (along, 2, 1, False, "vehicle left, passenger's side, before the catalyst"),
            (unknown, 2, 1, False, "the bank without cylinder 1, before the catalyst"),
            (
                vehicle(layout="inline", sensor_banks=2, bank_1="front"),
                2,
                1,
                False,
                "rear cylinders, before the catalyst",
            ),
            (across, 1, 2, True, "after the SCR catalyst"),
        ):
            with self.subTest(wanted):
                self.assertEqual(place_words(made, bank, position, nox), wanted)

    def test_a_bank_that_a_code_names_is_drawn_and_said_whatever_is_known_of_the_engine(self) -> None:
        for made in (vehicle(), vehicle(layout="inline", cylinders=4), vehicle(layout="v", sensor_banks=1)):
            drawn = plan(made, ("B2S1",), nox=False)
            self.assertEqual([item.address for item in drawn.sensors if item.role == "coded"], ["B2S1"])
            self.assertIn("bank without cylinder 1", place_words(made, 2, 1, nox=False))

    def test_an_address_says_which_catalyst(self) -> None:
        for bank, position, nox, said in (
            (2, 1, False, "Bank 2 · sensor 1, before the catalyst"), (1, 2, True, "Bank 1 · sensor 2, after the SCR catalyst"),
            (None, None, False, "Bank ? · sensor ?"),
        ):  # fmt: skip
            self.assertEqual(address_words(bank, position, nox), said)

    def test_what_is_unknown_is_asked_with_how_to_find_out(self) -> None:
        asked = plan(vehicle(layout="v", mounting="transverse"), ("B1S1",), nox=False).questions
        self.assertIn("vehicle.engine.bank_1", [item.field for item in asked])
        self.assertTrue(all(item.how for item in asked))
        known = presets()[0].vehicle
        self.assertEqual([item.field for item in plan(known, ("B1S1",), nox=False).questions], ["vehicle.steering"])


class PlugTable(TestCase):
    """The pin table against colours and readings."""

    PINS: ClassVar[dict[str, Any]] = {"1": {"terminal": "signal", "colour": "black"}, "2": {"terminal": "signal_return", "colour": "grey"},
            "3": {"terminal": "heater_supply", "colour": "white"}, "4": {"terminal": "heater_control", "colour": "white"}}  # fmt: skip

    def plug(self, *readings: dict[str, Any], **changed: Any) -> Any:
        return plug(job_of(case(*readings, sensor={"pins": {**self.PINS, **changed}})))

    def test_two_wires_of_one_colour_are_taken_for_the_heater(self) -> None:
        self.assertEqual(self.plug().heater_pair, ("3", "4"))
        self.assertIn("Confirm", self.plug().advice)
        crossed = self.plug(**{"1": {"terminal": "heater_supply", "colour": "black"},
                               "3": {"terminal": "signal", "colour": "white"}})  # fmt: skip
        self.assertIn("says otherwise", crossed.advice)

    def test_readings_that_contradict_the_table_are_pointed_out(self) -> None:
        ohms = {**ELEMENT, "red": "sensor.1", "black": "sensor.2", "value": "5.6"}
        volts = {**SUPPLY, "red": "harness.1"}
        for why, reading, word in (
            ("a heater's resistance", ohms, "wrong pair"),
            ("battery on a signal", volts, "13.8 V"),
        ):
            with self.subTest(why):
                self.assertIn(word, " ".join(self.plug(reading).contradictions))
        self.assertEqual(self.plug({**ELEMENT, "value": "5.6"}, SUPPLY).contradictions, ())
        self.assertEqual(plug(job_of(case(ELEMENT))).contradictions, ())
