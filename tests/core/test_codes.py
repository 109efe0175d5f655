"""Codes: each group follows its naming rule; any text parses or is refused; triage puts shared causes first."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from dianoia.codes.decode import decode
from dianoia.codes.parse import parse_codes
from dianoia.codes.tables import codes, spns
from dianoia.codes.triage import triage
from dianoia.codes.types import CodeText
from dianoia.errors import RefusedInput

SENSORS = ["B1S1", "B1S2", "B1S3", "B2S1", "B2S2", "B2S3"]
#: First code of each run of codes, and the (circuit, failure) each step means, for the listed sensors in order.
RUNS = [
    ("signal and heater runs of six", ["P0130", "P0136", "P0142", "P0150", "P0156", "P0162"], SENSORS,
     ["circuit", "low", "high", "slow", "inactive", "circuit"]),
    ("heater control runs of three", ["P0030", "P0036", "P0042", "P0050", "P0056", "P0062"], SENSORS,
     ["circuit", "low", "high"]),
    ("short to heater, one a sensor", ["P2231", "P2232", "P2233", "P2234", "P2235", "P2236"], SENSORS,
     ["short-to-heater"]),
    ("range or performance, one a sensor", ["P2A00", "P2A01", "P2A02", "P2A03", "P2A04", "P2A05"], SENSORS,
     ["performance"]),
    ("positive current", ["P2237", "P2240"], ["B1S1", "B2S1"], ["open", "low", "high"]),
    ("reference", ["P2243", "P2247"], ["B1S1", "B2S1"], ["open", "performance", "low", "high"]),
    ("negative current", ["P2251", "P2254"], ["B1S1", "B2S1"], ["open", "low", "high"]),
    ("trim", ["P2626", "P2629"], ["B1S1", "B2S1"], ["open", "low", "high"]),
    ("stuck front", ["P2195", "P2197"], ["B1S1", "B2S1"], ["stuck-lean", "stuck-rich"]),
    ("stuck behind", ["P2270", "P2272", "P2274", "P2276"], ["B1S2", "B2S2", "B1S3", "B2S3"],
     ["stuck-lean", "stuck-rich"]),
    ("NOx before the SCR", ["P2200", "P2213"], ["B1S1", "B2S1"],
     ["circuit", "performance", "low", "high", "intermittent", "open", "low", "high"]),
]  # fmt: skip
DIRECTIONS = {
    "P013A": "B1S2 slow rich-to-lean", "P013D": "B2S2 slow lean-to-rich", "P013E": "B1S2 delayed rich-to-lean",
    "P014B": "B2S2 delayed lean-to-rich", "P014C": "B1S1 slow rich-to-lean", "P014F": "B2S1 slow lean-to-rich",
    "P015A": "B1S1 delayed rich-to-lean", "P015D": "B2S1 delayed lean-to-rich",
}  # fmt: skip
#: Single codes whose group has no run: sensors, circuit, failure.
SINGLES = {
    "P0053": ("B1S1", "heater", "resistance"), "P0060": ("B2S2", "heater", "resistance"),
    "P0040": ("B1S1 B2S1", "swap", "swapped"), "P2416": ("B1S2 B1S3", "swap", "swapped"),
    "P2297": ("B1S1", "signal", "out-of-range"), "P2415": ("B2S1", "signal", "exhaust-sample"),
    "P229E": ("B1S2", "signal", "circuit"), "P22A3": ("B1S2", "heater", "open"),
    "P220B": ("B1S2", "supply", "circuit"), "P225F": ("B1S2", "signal", "stuck-high"),
    "U029E": ("B1S2", "communication", "lost"),
}  # fmt: skip


def step(code: str, by: int) -> str:
    """The code ``by`` places after another; these runs count in tens."""
    return f"{code[0]}{int(code[1:]) + by:04d}" if by else code


class Tables(TestCase):
    """The listed codes."""

    def test_runs_follow_their_naming_rule(self) -> None:
        for why, starts, sensors, failures in RUNS:
            for start, sensor in zip(starts, sensors, strict=True):
                for by, failure in enumerate(failures):
                    answer = decode(CodeText(code=step(start, by)))
                    with self.subTest(answer.code, why=why):
                        self.assertEqual((answer.sensors, answer.failure), ((sensor,), failure))

    def test_slow_and_delayed_codes_have_their_direction(self) -> None:
        for code, wanted in DIRECTIONS.items():
            answer = decode(CodeText(code=code))
            with self.subTest(code):
                self.assertEqual(f"{answer.sensors[0]} {answer.failure} {answer.direction}", wanted)

    def test_single_codes(self) -> None:
        for code, (sensors, circuit, failure) in SINGLES.items():
            answer = decode(CodeText(code=code))
            with self.subTest(code):
                self.assertEqual(
                    (" ".join(answer.sensors), answer.circuit, answer.failure), (sensors, circuit, failure)
                )

    def test_every_listed_code_and_parameter_is_answered_in_full(self) -> None:
        listed = [CodeText(code=code) for code in codes()]
        listed += [CodeText(code="x", spn=spn, fmi=fmi) for spn in spns() for fmi in range(32)]
        for text in listed:
            answer = decode(text)
            self.assertTrue(answer.known and answer.says and answer.does_not_say and answer.severity, text)

    def test_wideband_circuits_imply_a_wideband_cell(self) -> None:
        for row in codes().values():
            self.assertEqual(row.cell == "wideband", row.circuit in ("reference", "pump", "return", "trim"), row.code)

    def test_what_the_structure_of_an_unlisted_code_says(self) -> None:
        for code, standard, says in (
            ("P0999", True, "a generic code: powertrain, transmission"), ("P1135", False, "the vehicle maker's own: powertrain, fuel and air metering"),
            ("P3350", False, "the vehicle maker's own: powertrain, ignition and misfire"), ("P3499", True, "a generic code: powertrain, auxiliary"),
            ("P2D00", True, "a generic code: powertrain, a reserved group"), ("P0A1F", True, "a generic code: powertrain, hybrid drive"),
            ("C0035", True, "a generic code: chassis, chassis systems"), ("C1035", False, "the vehicle maker's own: chassis, chassis systems"),
            ("B0013", True, "a generic code: body, body systems"), ("U3000", False, "the vehicle maker's own: network, network systems"),
            ("U2100", True, "a generic code: network, network systems"),
        ):  # fmt: skip
            answer = decode(CodeText(code=code))
            with self.subTest(code):
                self.assertEqual((answer.standard, answer.known), (standard, False))
                self.assertIn(says, answer.says)
                self.assertEqual(answer.explains, answer.says)


class Parsing(TestCase):
    """Text as pasted from a scan tool."""

    def test_lists_with_status_words_letters_for_zeros_and_failure_types(self) -> None:
        found = parse_codes("P0057, p0037 pending; PO456\nP005012 P0050-13 permanent SPN 3226 FMI 5 SA 0x52, 3216/4")
        told = [(item.code, item.status, item.failure_byte) for item in found]
        self.assertEqual(told, [
            ("P0057", None, None), ("P0037", "pending", None), ("P0456", None, None), ("P0050", None, "12"),
            ("P0050", "permanent", "13"), ("SPN 3226 FMI 5", None, None), ("SPN 3216 FMI 4", None, None),
        ])  # fmt: skip
        self.assertEqual(found[5].source_address, 0x52)

    def test_what_is_no_code_is_refused(self) -> None:
        for text in ("hello", "", "P00Z7", "P0057 P99", "SPN 3226 FMI 55", "SPN 3226 FMI 3 SA 300"):
            with self.subTest(text), self.assertRaises(RefusedInput):
                parse_codes(text)

    @given(st.text(alphabet=st.sampled_from("PpCBUSNFMIO0123459AEF -:;,/\n.x"), max_size=60) | st.text(max_size=80))
    def test_no_text_crashes_parser_or_decoder(self, text: str) -> None:
        try:
            found = parse_codes(text)
        except RefusedInput:
            return
        for answer in triage(found):
            self.assertTrue(answer.says)


class Triage(TestCase):
    """The order to work in."""

    def order(self, text: str) -> list[str]:
        return [answer.code for answer in triage(parse_codes(text))]

    def test_order(self) -> None:
        for text, wanted, why in (
            ("P0420 P0133 P0456 P0037 P0057", ["P0037", "P0057", "P0133", "P0420", "P0456"], "shared heaters first"),
            ("P0171 P0131 P2243", ["P2243", "P0131", "P0171"], "reference before signal before trim"),
            ("P0141 pending P0135", ["P0135", "P0141"], "stored before pending"),
            ("P20EE P229E U029E", ["U029E", "P229E", "P20EE"], "communication before the probe before the catalyst"),
        ):
            with self.subTest(why):
                self.assertEqual(self.order(text), wanted)

    @given(st.lists(st.sampled_from(("P0037", "P0057", "P0133", "P0420", "P0456", "P0300", "P0171", "U029E", "P229E", "P1234")),
                    min_size=2, unique=True))  # fmt: skip
    def test_every_code_has_one_place_and_no_follower_comes_before_a_sensors_own(self, listed: list[str]) -> None:
        answers = triage(parse_codes(" ".join(listed)))
        self.assertEqual(sorted(answer.code for answer in answers), sorted(listed))
        self.assertEqual([answer.order for answer in answers], list(range(1, len(listed) + 1)))
        own = [answer.order or 0 for answer in answers if answer.relation is None and answer.kind != "unknown"]
        after = [answer.order or 99 for answer in answers if answer.relation in ("catalyst", "evap", "unrelated")]
        self.assertLess(max(own, default=0), min(after, default=99))
        again = triage(parse_codes(" ".join(answer.code for answer in answers)))
        self.assertEqual([answer.code for answer in again], [answer.code for answer in answers])

    def test_shared_causes_are_named(self) -> None:
        for text, group in (
            ("P0037 P0057", "all-heaters"), ("P0133 P0153", "position-1-both-banks"),
            ("P0131 P0137", "bank-1-both-positions"), ("U029D U029E", "nox-messages"),
        ):  # fmt: skip
            answers = triage(parse_codes(text))
            self.assertEqual({answer.group for answer in answers}, {group}, text)
            self.assertTrue(all(answer.why_here for answer in answers))
