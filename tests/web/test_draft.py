"""The reading being taken in the browser, held against what the core asks for and takes."""

from collections.abc import Mapping
from typing import Any, get_args

from hypothesis import given, settings
from hypothesis import strategies as st

from dianoia.bench.jobs import GROUPS, prepared
from dianoia.case.check import check
from dianoia.case.job import job_of
from dianoia.case.load import adapter, from_plain, to_plain
from dianoia.case.measures import Probe, Reading
from dianoia.case.measures.act import OUTCOMES
from dianoia.case.measures.offered import Choices, choices
from dianoia.case.measures.scan import SCAN_WORDS
from dianoia.case.observed import observe
from dianoia.case.terms import HeaterSwitch
from dianoia.diagnosis.catalogue.candidates import same_measurement
from dianoia.diagnosis.catalogue.offered import engines, offered
from dianoia.diagnosis.verdict.diagnose import diagnose
from dianoia.drawings.circuit import drawing
from dianoia.errors import RefusedInput
from dianoia.families.tables import families
from tests.cases import case
from tests.web.modules import ModuleTestCase

Draft = dict[str, Any]
FIGURES = {"scope": {"high": "13.8", "low": "0.1"}, "trace": {"min": "0,1", "max": "0.8", "delay_s": "0,3"}}
TYPED = {"resistance": "6.2", "lamp": "bright", "inspect": "ok", "act": "done"}
POINTS = ("battery.positive", "battery.negative", "harness.signal", "sensor.signal", "sensor.heater_supply",
          "module.signal", "module_pin.signal", "sensor.shell")  # fmt: skip


def plain(offered: Choices) -> Any:
    """As the browser is given them."""
    return adapter(Choices).dump_python(offered, mode="json", by_alias=True)


CHOICES = plain(choices(families()["switching-4w"]))
MEASURES = ("voltage", "resistance", "lamp", "current", "scope", "scan", "trace", "inspect", "act")


#: The state that stands beside the meter.
SHOWN = {
    "key",
    "connector",
    "module_connector",
    "battery",
    "sensor_c",
    "codes_cleared",
    "with",
    "at_s",
    "rpm",
    "jumper",
    "of",
    "fed_v",
    "others",
}


def _sets() -> st.SearchStrategy[Mapping[str, Any]]:
    changes = [
        {"key": "off"}, {"connector": "unplugged"}, {"module_connector": "unplugged"}, {"battery": "disconnected"},
        {"sensor_c": "hot"}, {"sensor_c": "21,5"}, {"sensor_c": "warm"}, {"with": ["rich"]}, {"with": ["signal-fed", "heater-commanded"]}, {"at_s": "12,5"},
        {"of": "B2S1"}, {"jumper": ["battery.positive", "harness.signal"]}, {"load": "lamp"}, {"codes_cleared": True},
        {"fed_v": "0.6"}, {"rpm": "2500"}, {"others": "unplugged"}, {"in_place_of": "heater"}, {"place": "between"}, {"pid": "long_trim"}, {"target": "exhaust"}, {"action": "wiggle"}, {"lead": "black"},
    ]  # fmt: skip
    return st.sampled_from(changes).map(lambda change: {"type": "set", "change": change})


ACTIONS = st.one_of(
    st.sampled_from(POINTS).map(lambda point: {"type": "touch", "point": point}),
    st.sampled_from(MEASURES).map(lambda measure: {"type": "measure", "measure": measure}),
    _sets(),
    st.sampled_from(("12.4", "OL", "", "bright", "ok")).map(lambda value: {"type": "type", "value": value}),
    st.just({"type": "figure", "of": "scope", "name": "high", "value": "13,2"}),
    st.just({"type": "figure", "of": "trace", "name": "rise_s", "value": "fast"}),
    st.just({"type": "taken"}),
    st.just({"type": "own"}),
    st.just(
        {
            "type": "propose",
            "probe": {"measure": "scan", "pid": "sensor_voltage", "key": "running", "with": "rich", "at_s": 620.0},
        }
    ),
    st.just(
        {
            "type": "propose",
            "probe": {
                "measure": "lamp",
                "red": "harness.heater_supply",
                "black": "harness.heater_control",
                "key": "running",
                "connector": "unplugged",
                "watts": 21.0,
                "codes_cleared": True,
            },
        }
    ),
    st.just({"type": "follow", "probe": {"measure": "scan", "pid": "long_trim", "key": "running"}}),
)


class TheDraft(ModuleTestCase):
    """web/src/bench/draft.ts."""

    module = "/src/bench/draft.ts"

    def after(self, *actions: Mapping[str, Any], start: Draft | None = None, known: Any = CHOICES) -> Draft:
        draft: Draft = start or self.call("EMPTY")
        for action in actions:
            draft = self.call("reduce", draft, action, known)
        return draft

    def sent(self, draft: Draft, offered: Any = CHOICES) -> Any:
        return self.call("toReading", draft, offered["state"])

    def filled(self, draft: Draft) -> Draft:
        measure = draft["measure"]
        if measure in FIGURES:
            return {**draft, measure: {**draft[measure], **FIGURES[measure]}}
        words = {"scan": SCAN_WORDS.get(draft["pid"]), "act": OUTCOMES.get(draft["action"])}.get(measure)
        return {**draft, "value": words[0] if words else TYPED.get(measure, "12.4")}

    def test_what_is_proposed_and_taken_is_the_reading_that_was_asked_for(self) -> None:
        seen: set[str] = set()
        for row in range(len(GROUPS)):
            job = prepared(row, False)
            engine, known = engines.bare_engine(job), plain(choices(job.family))
            for switch in get_args(HeaterSwitch):
                for candidate in offered(job, engine, frozenset(engine.loops), switch):
                    if (key := f"{candidate.id} {candidate.probe.asks}") in seen:
                        continue
                    seen.add(key)
                    with self.subTest(family=job.family.id, candidate=candidate.id):
                        proposed = {"type": "propose", "probe": to_plain(candidate.probe, Probe)}
                        draft = self.call("reduce", self.call("EMPTY"), proposed, known)
                        sent = self.sent(self.filled(draft), known)
                        self.assertTrue(same_measurement(candidate, observe(from_plain(Reading, sent))), sent)
        self.assertGreater(len(seen), 100)

    @settings(max_examples=120, deadline=None)
    @given(st.lists(ACTIONS, max_size=9))
    def test_whatever_is_touched_the_core_takes_it_or_names_a_field(self, actions: list[Mapping[str, Any]]) -> None:
        draft = self.after(*actions)
        sent = self.sent(draft)
        try:
            from_plain(Reading, sent)
        except RefusedInput as refusal:
            # only what a person can mistype is ever refused; the rest of the draft is the front end's own doing
            typed = {"value", "sensor_c", "at_s", "fed_v", "rpm"}
            fields = {finding.field.split(".")[0] for finding in refusal.findings}
            self.assertLessEqual(fields, typed, sent)
        if draft["measure"] in ("voltage", "resistance", "lamp", "scope"):
            self.assertNotEqual(draft["red"], draft["black"])

    def test_every_point_drawn_can_be_measured_at_with_every_instrument(self) -> None:
        for family in ("switching-1w", "switching-3w", "switching-4w", "airfuel-4w", "wideband-6w", "nox-can-5w"):
            sensor = {"family": family, "bank": 1, "position": 1}
            fields = {"sensor": sensor, "code": "P229E" if family.startswith("nox") else "P0130"}
            job, known = job_of(case(**fields)), plain(choices(families()[family]))
            for point in drawing(job, diagnose(job.case)).points:
                for measure in ("voltage", "resistance", "lamp", "scope", "current"):
                    steps = [
                        {"type": "measure", "measure": measure},
                        {"type": "touch", "point": point.id},
                    ]
                    for first, then in (steps, steps[::-1]):
                        draft = self.after(first, then, known=known)
                        with self.subTest(family=family, point=point.id, measure=measure, first=first["type"]):
                            check(case(self.sent(self.filled(draft), known), **fields))

    def test_touches_move_the_leads_in_turn_and_set_apart_what_has_to_be(self) -> None:
        red, black = ({"type": "touch", "point": f"{place}.signal"} for place in ("harness", "sensor"))
        one = self.after(red)
        self.assertEqual((one["red"], one["lead"], one["connector"]), ("harness.signal", "black", "mated"))
        both = self.after(red, black)
        self.assertEqual((both["red"], both["black"], both["lead"]), ("harness.signal", "sensor.signal", "red"))
        self.assertEqual(both["connector"], "unplugged")
        self.assertEqual(self.after({"type": "touch", "point": "module_pin.signal"})["module_connector"], "unplugged")
        twice = self.after(red, red)
        self.assertEqual((twice["black"], twice["lead"]), (self.call("EMPTY")["black"], "black"))
        self.assertIn("red lead lies there", twice["told"])
        self.assertEqual(self.after(red, red, {"type": "type", "value": "1"})["told"], "")
        begun = self.after(
            red, {"type": "touch", "point": "battery.positive"}
        )  # red on the signal, black on the battery
        swapped = self.after({"type": "touch", "point": "battery.positive"}, start=begun)
        self.assertEqual(
            (swapped["red"], swapped["black"], swapped["lead"]), ("battery.positive", "harness.signal", "black")
        )
        moved = {"type": "measure", "measure": "act"}, {"type": "set", "change": {"action": "wiggle"}}, red
        self.assertEqual(self.sent(self.filled(self.after(*moved)))["at"], "harness.signal")
        clamp = self.after({"type": "measure", "measure": "current"}, red)
        self.assertEqual((clamp["at"], clamp["red"]), ("harness.signal", self.call("EMPTY")["red"]))

    def test_what_is_no_number_is_refused_and_not_left_out(self) -> None:
        recording = [
            {"type": "measure", "measure": "trace"},
            {"type": "figure", "of": "trace", "name": "min", "value": "0.1"},
        ]
        for change, field in (
            ({"type": "set", "change": {"at_s": "a while"}}, "at_s"),
            ({"type": "figure", "of": "trace", "name": "rise_s", "value": "fast"}, "value.rise_s"),
            ({"type": "figure", "of": "trace", "name": "min", "value": "low"}, "value.min"),
        ):
            with self.subTest(field), self.assertRaises(RefusedInput) as caught:
                check(case(self.sent(self.after(*recording, change)), code="P0130"))
            self.assertEqual([finding.field for finding in caught.exception.findings], [f"readings[0].{field}"])
        sent = self.sent(self.after(*recording, {"type": "set", "change": {"at_s": " 12,5 "}}))
        self.assertEqual(sent["at_s"], 12.5)

    @settings(max_examples=200, deadline=None)
    @given(st.lists(ACTIONS, min_size=1, max_size=12))
    def test_what_is_stored_is_what_stands_beside_the_meter(self, actions: list[Mapping[str, Any]]) -> None:
        draft = self.after(*actions)
        sent, shows = self.sent(draft), {name: draft[name] for name in SHOWN}
        for field in SHOWN & sent.keys():
            said = sent[field] if field != "with" else [sent[field]] if isinstance(sent[field], str) else sent[field]
            self.assertEqual(self.typed(shows[field]), said, field)
        unsaid = {name: draft[name] for name in SHOWN - sent.keys() - {"sensor_c", "at_s", "fed_v", "rpm"}}
        usual = self.call("EMPTY")
        self.assertEqual({k: v for k, v in unsaid.items() if v != usual[k] and not self.is_plain(k, draft)}, {})

    def is_plain(self, field: str, draft: Draft) -> bool:
        """Whether a field says nothing where it is left out: eyes and hands have no key."""
        return field == "key" and draft["measure"] in ("inspect", "act")

    def typed(self, value: Any) -> Any:
        try:
            return float(str(value).replace(",", "."))
        except ValueError:
            return value

    def test_a_bench_of_ones_own_stays_as_it_was_set_reading_after_reading(self) -> None:
        follow = {
            "type": "follow",
            "probe": {"measure": "lamp", "key": "running", "connector": "unplugged", "red": "a", "black": "b"},
        }
        own = [{"type": "measure", "measure": "voltage"}, {"type": "set", "change": {"key": "on", "battery": "connected"}},
               {"type": "touch", "point": "harness.signal"}, {"type": "touch", "point": "battery.negative"}]  # fmt: skip
        first = self.after(*own, {"type": "type", "value": "4.9"})
        again = self.after({"type": "taken"}, follow, start=first)
        kept = ("measure", "red", "black", "key", "connector", "module_connector", "battery", "rpm", "watts")
        self.assertEqual({name: again[name] for name in kept}, {name: first[name] for name in kept})
        self.assertEqual((again["value"], again["own"], again["lead"]), ("", True, "red"))
        scope = self.after(
            {"type": "measure", "measure": "scope"},
            {"type": "taken"},
            follow,
            {"type": "measure", "measure": "scope"},
            start=again,
        )
        self.assertEqual((scope["red"], scope["black"]), ("harness.signal", "battery.negative"))
        proposed = self.after({"type": "propose", "probe": follow["probe"]}, start=scope)
        self.assertEqual((proposed["measure"], proposed["own"]), ("lamp", False))

    def test_what_holds_for_one_reading_falls_back_and_says_so(self) -> None:
        conditions = {
            "with": ["rich"],
            "codes_cleared": True,
            "at_s": "620",
            "of": "B2S1",
            "jumper": ["battery.positive", "harness.signal"],
        }
        draft = self.after({"type": "measure", "measure": "scan"}, {"type": "set", "change": conditions})
        self.assertEqual(self.sent(draft)["with"], "rich")
        after = self.after({"type": "taken"}, start=draft)
        self.assertEqual(
            {name: after[name] for name in conditions},
            {"with": [], "codes_cleared": False, "at_s": "", "of": "", "jumper": []},
        )
        self.assertIn("codes cleared", after["told"])

    def test_a_reading_of_ones_own_takes_over_nothing_that_only_the_proposal_set(self) -> None:
        proposal = {
            "measure": "scan",
            "pid": "sensor_voltage",
            "key": "running",
            "with": "rich",
            "at_s": 620.0,
            "codes_cleared": True,
        }
        lamp = {"measure": "lamp", "red": "harness.heater_supply", "black": "harness.heater_control", "key": "running",
                "connector": "unplugged", "watts": 21.0, "codes_cleared": True}  # fmt: skip
        volts = {"type": "measure", "measure": "voltage"}
        for probe, actions in (
            (proposal, [{"type": "set", "change": {"pid": "heater_current"}}]),
            (proposal, [volts, {"type": "touch", "point": "harness.signal"}]),
            (
                lamp,
                [
                    volts,
                    {"type": "touch", "point": "harness.heater_supply"},
                    {"type": "touch", "point": "battery.negative"},
                ],
            ),
        ):
            sent = self.sent(self.filled(self.after({"type": "propose", "probe": probe}, *actions)))
            self.assertEqual(sent.keys() & {"with", "at_s", "codes_cleared"}, set(), sent)
            self.assertIn(sent.get("connector", "mated"), ("mated",))

    def test_what_differs_from_the_proposal_is_marked(self) -> None:
        lamp = {"measure": "lamp", "red": "harness.heater_supply", "black": "harness.heater_control", "key": "running",
                "connector": "unplugged", "watts": 21.0}  # fmt: skip
        laid = self.after({"type": "propose", "probe": lamp})
        changed = self.after({"type": "set", "change": {"key": "on"}}, start=laid)
        elsewhere = self.after({"type": "touch", "point": "battery.negative"}, start=laid)
        marked = [sorted(self.call("differing", draft, CHOICES["state"])) for draft in (laid, changed, elsewhere)]
        self.assertEqual(marked, [[], ["key"], []])

    def test_a_lamp_in_place_of_the_heater_lies_across_its_terminals(self) -> None:
        draft = self.after({"type": "measure", "measure": "lamp"}, {"type": "set", "change": {"in_place_of": "heater"}})
        self.assertEqual(
            (draft["red"], draft["black"], draft["connector"]),
            ("harness.heater_supply", "harness.heater_control", "unplugged"),
        )
        self.assertIsNone(self.after({"type": "touch", "point": "battery.positive"}, start=draft)["in_place_of"])

    def test_a_span_may_be_entered_where_the_format_takes_one(self) -> None:
        """A scan signal, a trim or a signal wire moves; a supply wire and a heater's current do not."""
        for draft, moves in (
            ({"measure": "scan", "pid": "sensor_voltage"}, True), ({"measure": "scan", "pid": "long_trim"}, True),
            ({"measure": "scan", "pid": "heater_current"}, False), ({"measure": "scan", "pid": "battery_voltage"}, False),
            ({"measure": "voltage", "red": "harness.signal", "black": "battery.negative"}, True),
            ({"measure": "voltage", "red": "battery.negative", "black": "module.signal"}, True),
            ({"measure": "voltage", "red": "harness.heater_supply", "black": "battery.negative"}, False),
            ({"measure": "resistance", "red": "harness.signal", "black": "chassis"}, False),
        ):  # fmt: skip
            self.assertEqual(self.call("mayMove", {**self.call("EMPTY"), **draft}, CHOICES["live"]), moves, draft)

    def test_what_was_begun_is_not_taken_away_by_what_follows(self) -> None:
        follow = {"type": "follow", "probe": {"measure": "scan", "pid": "long_trim", "key": "running"}}
        taken = self.after({"type": "type", "value": "12"}, {"type": "taken"})
        self.assertEqual((taken["value"], self.call("begun", taken)), ("", False))
        self.assertEqual(self.after(follow, start=taken)["pid"], "long_trim")
        for begun in (
            {"type": "type", "value": "1"},
            {"type": "touch", "point": "harness.signal"},
            {"type": "figure", "of": "trace", "name": "min", "value": "0"},
            {"type": "set", "change": {"key": "off"}},
        ):
            with self.subTest(begun["type"]):
                before = self.after(begun, start=taken)
                self.assertEqual(self.after(follow, start=before), before)

    def test_what_the_next_instrument_has_no_place_for_is_gone(self) -> None:
        every = {"connector": "unplugged", "module_connector": "unplugged", "with": ["signal-grounded"], "codes_cleared": True,
                 "at_s": "9", "jumper": ["battery.positive", "harness.signal"], "load": "lamp", "watts": 21, "of": "B2S1"}  # fmt: skip
        for measure in MEASURES:
            for other in (name for name in MEASURES if name != measure):
                steps = [{"type": "measure", "measure": name} for name in (measure, other)]
                draft = self.after(steps[0], {"type": "set", "change": every}, steps[1])
                sent = self.sent(self.filled(draft))
                fresh = self.sent(self.filled(self.after(steps[1])))
                with self.subTest(f"{measure}, then {other}"):
                    seen = {"key", "connector", "module_connector", "with", "codes_cleared", "at_s", "of"}
                    unseen = {name for name in sent if sent[name] != fresh.get(name)} - seen
                    self.assertEqual(unseen, set(), sent)
                    applies = {
                        rule["field"]
                        for rule in CHOICES["state"]
                        if other in rule["measures"] and sent.get("key", "off") in rule["keys"]
                    }
                    self.assertLessEqual(seen & sent.keys(), applies, sent)

    def test_an_instrument_brings_its_usual_state(self) -> None:
        for measure, state in (
            ("resistance", {"key": "off", "connector": "unplugged"}),
            ("lamp", {"key": "running", "connector": "unplugged", "watts": 5}),
            ("current", {"key": "running", "connector": "mated", "at": "battery.positive"}),
            ("scan", {"key": "running", "pid": "heater_current"}),
        ):
            with self.subTest(measure):
                draft = self.after({"type": "measure", "measure": measure})
                sent = self.sent(draft)
                self.assertEqual({name: sent[name] for name in state}, state)
        back = [{"type": "measure", "measure": name} for name in ("resistance", "voltage")]
        self.assertEqual(self.after(*back)["key"], "running")
