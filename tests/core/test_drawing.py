"""The drawing of every family, and the words beside it."""

import re
from dataclasses import asdict, replace
from itertools import combinations
from typing import Any, get_args
from unittest import TestCase

from dianoia.case.job import job_of
from dianoia.case.points import words
from dianoia.case.sensor import Pin
from dianoia.case.terms import HeaterSwitch
from dianoia.diagnosis.catalogue.offered import engines, readable_candidates
from dianoia.diagnosis.verdict.diagnose import Diagnosis, diagnose
from dianoia.drawings.circuit import Drawing, drawing
from dianoia.drawings.svg import LABEL, svg_of
from dianoia.families.tables import families
from dianoia.readings.describe import describe
from tests.cases import BATTERY, ELEMENT, LAMP, LOADED, OPEN_ELEMENT, STEADY, SUPPLY, case, reading

CODES = {"nox": "U029D", "zirconia": "P0130", "titania": "P0130", "limiting-current": "P2237", "two-cell": "P2243"}
FAMILIES = families()


def drawn(family: str, *readings: dict[str, Any], **sensor: Any) -> Drawing:
    row = FAMILIES[family]
    wanted = case(*readings, code=CODES[row.cell], sensor={"family": family, "bank": 1, "position": 1, **sensor})
    return drawing(job_of(wanted), diagnose(wanted))


class Board(TestCase):
    """Where things lie."""

    def test_every_family_is_drawn_whole_and_nothing_lies_on_another(self) -> None:
        for family, row in FAMILIES.items():
            with self.subTest(family):
                board = drawn(family)
                names = [item.id for item in board.points]
                self.assertEqual(len(names), len(set(names)))
                for terminal in row.terminals:
                    self.assertLessEqual(
                        {f"harness.{terminal}", f"sensor.{terminal}", f"inline.{terminal}"}, set(names)
                    )
                    self.assertIn(f"inline.{terminal}", {item.id for item in board.elements})
                for point in board.points:
                    self.assertTrue(0 <= point.x <= board.width and 0 <= point.y <= board.height, point)
                for a, b in combinations(board.points, 2):
                    self.assertGreater(abs(a.x - b.x) + abs(a.y - b.y), 20, (a.id, b.id))

    def test_high_side_swaps_what_the_module_reaches(self) -> None:
        low, high = (
            {item.id for item in drawn("switching-4w", heater_switch=side).points} for side in ("low-side", "high-side")
        )
        self.assertTrue("module.heater_control" in low and "module.heater_supply" not in low)
        self.assertTrue("module.heater_supply" in high and "module.heater_control" not in high)

    def test_the_stretch_of_the_feed_that_a_decision_names_is_one_piece(self) -> None:
        dead = case(BATTERY, {**SUPPLY, "value": "0.02 V"}, sensor=STEADY)
        board = drawing(job_of(dead), diagnose(dead))
        at = {point.id: (point.x, point.y) for point in board.points}
        self.assertEqual(board.stretch, (at["battery.positive"], at["harness.heater_supply"]))
        self.assertIn("<rect x='90' y='57' width='710' height='30'", svg_of(board))
        self.assertEqual(drawn("switching-4w", BATTERY).stretch, ())

    def test_the_feed_is_drawn_in_its_own_order(self) -> None:
        wanted = case(sensor={"family": "switching-4w", "bank": 1, "position": 1})
        for order, row in (("relay-fuse", "main_fuse relay fuse"), ("fuse-relay", "main_fuse fuse relay")):
            ordered = replace(wanted, vehicle=replace(wanted.vehicle, feed_order=order))  # type: ignore[arg-type]
            board = drawing(job_of(ordered), diagnose(ordered))
            along = sorted((item.x, item.id) for item in board.points if item.id.endswith((".in", ".out")))
            self.assertEqual(
                [name for _, name in along], [f"{part}.{side}" for part in row.split() for side in ("in", "out")]
            )

    def test_every_point_of_a_proposal_is_on_the_board(self) -> None:
        for family, row in FAMILIES.items():
            wanted = case(code=CODES[row.cell], sensor={"family": family, "bank": 1, "position": 1})
            names = {item.id for item in drawn(family).points}
            diagnosis = Diagnosis(job_of(wanted))
            for candidate in diagnosis.offered():
                plain = asdict(candidate.probe)
                points = [plain.get("red"), plain.get("black"), *(plain.get("jumper") or ())]
                with self.subTest(family=family, candidate=candidate.id):
                    self.assertLessEqual({point for point in points if point}, names)

    def test_readings_ink_the_parts_in(self) -> None:
        wanted = case(BATTERY, SUPPLY, ELEMENT, LAMP, LOADED, sensor=STEADY)
        states = {item.id: item.state for item in drawing(job_of(wanted), diagnose(wanted)).elements}
        self.assertEqual(states["element"], "condemned")
        self.assertEqual(
            {states[name] for name in ("fuse", "relay", "wire.heater_supply", "wire.heater_control")}, {"proven"}
        )
        self.assertEqual(states["wire.signal"], "untouched")
        self.assertEqual(states["inline.heater_supply"], "proven")

    def test_texts_on_paper_are_eight_points_and_more(self) -> None:
        self.assertGreaterEqual(LABEL * 174 / drawn("switching-4w").width / 25.4 * 72, 8)

    def test_names_ticks_and_values_never_print_over_each_other(self) -> None:
        """A name of 9 units a letter, a tick of 18 by 19, a value of nine characters of 11 units ("✓ 13.8 V"), each 18 high. Values of the
        points that are measured at the feed, the plug and the sensor; both switches of the heater.
        """
        for family in FAMILIES:
            for side in get_args(HeaterSwitch):
                board = drawn(family, heater_switch=side) if FAMILIES[family].heater else drawn(family)
                boxes = [*_names(board), *_ticks(board), *_values(board)]
                for one, other in combinations(boxes, 2):
                    with self.subTest(family=family, side=side, one=one[0], other=other[0]):
                        self.assertFalse(_overlap(one[1], other[1]), (one, other))


Box = tuple[float, float, float, float]
#: Points whose values stand beside each other all the time.
_MEASURED = ("battery.positive", "main_fuse", "relay", "fuse", "harness", "sensor")


def _names(board: Drawing) -> list[tuple[str, Box]]:
    rows = [(row.terminal, row.at, len(row.label) * 9.0) for row in board.terminals]
    return [(f"name {name}", _text_box(at.x, at.y, at.anchor, wide)) for name, at, wide in rows]


def _ticks(board: Drawing) -> list[tuple[str, Box]]:
    at = [(item.id, item.tick) for item in board.elements if item.tick]
    return [(f"tick {name}", (x - 9, y - 13, x + 9, y + 4)) for name, (x, y) in at]


def _values(board: Drawing) -> list[tuple[str, Box]]:
    places = [
        (item.id, item.value) for item in board.points if item.id.startswith(_MEASURED) and item.id != "sensor.shell"
    ]
    return [(f"value {name}", _text_box(at.x, at.y, at.anchor, 96.0)) for name, at in places]


def _text_box(x: float, y: float, anchor: str, wide: float) -> Box:
    left = x - {"start": 0.0, "middle": wide / 2, "end": wide}[anchor]
    return left, y - 14, left + wide, y + 3


def _overlap(one: Box, other: Box) -> bool:
    return one[0] < other[2] and other[0] < one[2] and one[1] < other[3] and other[1] < one[3]


class Words(TestCase):
    """What is said names points, values and parts."""

    def test_every_proposal_of_every_family_says_where_why_and_what_a_sound_circuit_shows(self) -> None:
        for family, row in FAMILIES.items():
            verdict = diagnose(case(code=CODES[row.cell], sensor={"family": family, "bank": 1, "position": 1}))
            for proposal in [verdict.next, *verdict.alternatives]:
                assert proposal is not None
                with self.subTest(family=family, candidate=proposal.id):
                    words = describe(proposal.reading)
                    self.assertTrue(words.where and proposal.expect and proposal.minutes > 0)
                    self.assertRegex(proposal.why, r" if |all that is left|look|terminal|fault is there|depends on")
                    self.assertNotRegex(proposal.why, r"\bnan\b|None|_")

    def test_no_two_readings_that_may_be_proposed_read_the_same(self) -> None:
        for family, row in FAMILIES.items():
            job = job_of(case(code=CODES[row.cell], sensor={"family": family, "bank": 1, "position": 1}))
            engine = engines.engine(job)
            for switch in get_args(HeaterSwitch):
                words: dict[tuple[str, str], list[str]] = {}
                for candidate in readable_candidates(job, engine, switch):
                    said = describe(candidate.probe)
                    words.setdefault((said.short_step, said.state), []).append(candidate.id)
                with self.subTest(family=family, switch=switch):
                    self.assertEqual([ids for ids in words.values() if len(ids) > 1], [])

    def test_a_place_begins_with_pin_and_colour_where_the_vehicle_s_are_known(self) -> None:
        pins = {"4": Pin(terminal="heater_supply", colour="white"), "2": Pin(terminal="signal")}
        for point, text in (
            ("harness.heater_supply", "pin 4 white · heater supply, loom side"),
            ("module.heater_supply", "white · heater supply, at the module"),
            ("sensor.signal", "pin 2 · signal, sensor side"),
            ("module_pin.heater_supply", "heater supply, the module’s own pin"),
            ("battery.negative", "battery −"),
        ):  # fmt: skip
            with self.subTest(point):
                self.assertEqual(words(point, pins), text)
        self.assertEqual(describe(reading(**SUPPLY), pins).where, "pin 4 white · heater supply, loom side → battery −")

    def test_states_bridges_and_other_parts_are_said(self) -> None:
        for why, fields, text in (
            ("a bridge", {"jumper": ["module.heater_control", "battery.negative"]}, "heater control, at the module bridged to battery −"),
            ("a good part", {"of": "known-good"}, "with a known-good sensor"),
            ("another place", {"of": "B2S1"}, "at sensor B2S1"),
            ("cleared", {"codes_cleared": True}, "codes just cleared"),
            ("the rest of the state", {"rpm": 2500, "at_s": 60, "coolant_c": 35, "battery": "disconnected", "others": "unplugged"},
             "2500 rpm, after 60 s, coolant at 35 °C, battery off, plugged in, the feed's other consumers unplugged"),
            ("stimulus", {"with": ["rich", "heater-commanded"]}, "heater commanded, rich"),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertIn(text, describe(reading(**{**SUPPLY, **fields})).state)

    def test_reasons_and_what_would_change_them_name_reading_value_and_range(self) -> None:
        verdict = diagnose(case(*OPEN_ELEMENT, sensor=STEADY))
        self.assertTrue(
            any(re.search(r"Reading 3: OL .*Should read .* ohm", line) for line in verdict.because), verdict.because
        )
        self.assertTrue(any("reading 3 (OL" in line for line in verdict.would_change_it), verdict.would_change_it)
