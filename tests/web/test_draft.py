"""The reading being taken in the browser, held against what the core asks for and takes."""

from collections.abc import Mapping
from typing import Any, get_args

from hypothesis import given, settings
from hypothesis import strategies as st

from dianoia.bench.jobs import GROUPS, prepared
from dianoia.case.check import check
from dianoia.case.choices import Choices, choices
from dianoia.case.job import job_of
from dianoia.case.ledger import Probe, Reading
from dianoia.case.load import adapter, from_plain, to_plain
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


def _sets() -> st.SearchStrategy[Mapping[str, Any]]:
    changes = [
        {"key": "off"}, {"connector": "unplugged"}, {"module_connector": "unplugged"}, {"battery": "disconnected"},
        {"sensor_c": "hot"}, {"sensor_c": "21,5"}, {"sensor_c": "warm"}, {"with": ["rich"]}, {"with": ["signal-fed", "heater-commanded"]}, {"at_s": "12,5"},
        {"of": "B2S1"}, {"jumper": ["battery.positive", "harness.signal"]}, {"load": "lamp"}, {"codes_cleared": True},
        {"fed_v": "0.6"}, {"place": "between"}, {"pid": "long_trim"}, {"target": "exhaust"}, {"action": "wiggle"}, {"lead": "black"},
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
)


class TheDraft(ModuleTestCase):
    """web/src/model/draft.ts."""

    module = "/src/model/draft.ts"

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
        return {**draft, "value": TYPED.get(measure, "12.4")}

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
            typed = {"value", "sensor_c", "at_s", "fed_v"}
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
