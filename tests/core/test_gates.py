"""What stands before a decision, and what may be left open at the end."""

from unittest import TestCase

from dianoia.case.observed import Observed
from dianoia.diagnosis.decision.decide import (
    COMMANDED,
    ELEMENT_APART,
    MODULE_POWER,
    SEEN_COMMANDED,
    Held,
    Standing,
    standing,
)
from dianoia.diagnosis.decision.proof import PartState
from dianoia.diagnosis.verdict.explain import how_sure
from tests.cases import ELEMENT, LAMP, SUPPLY, observed

SOUND, BAD, OPEN, DOUBTED = PartState(0.001, (0,)), PartState(0.999, ()), PartState(0.01, ()), PartState(0.3, ())
POWER = observed(**{**SUPPLY, "red": "battery.positive", "black": "module.power_ground"})
CLEARED = observed(**LAMP)
OFF = {"measure": "scan", "pid": "heater_command", "key": "running", "codes_cleared": True, "value": "off"}
ON = {**OFF, "value": "62 %"}
FORCED = {**LAMP, "with": "heater-commanded"}


def stand(
    components: str, confidence: float = 0.99, chance: float = 0.999, readings: tuple[Observed, ...] = (),
    silent: bool = False, behind: tuple[str, ...] = (), askable: bool = False, **states: PartState,
) -> Standing:  # fmt: skip
    parts = {"supply": SOUND, "control": SOUND, "driver": SOUND, "heater": SOUND, **states}
    named = frozenset(components.split())
    chances = dict.fromkeys(named, chance)
    return standing(Held(named, confidence, chances, parts, readings, "heater", silent, behind, askable))


class Gates(TestCase):
    """One decision after another, and what it wants."""

    def test_when_a_decision_may_be_made(self) -> None:
        for why, at, decision in (
            ("sensor, loop proven", stand("sensor", heater=BAD), "replace-sensor"),
            ("sensor, supply open to doubt", stand("sensor", heater=BAD, supply=OPEN), "keep-testing"),
            ("sensor, not sure of it", stand("sensor", chance=0.99, heater=BAD), "keep-testing"),
            ("wiring, certain, something else may be bad besides", stand("wiring", 0.975, control=BAD), "keep-testing"),
            ("sensor, something else may be bad besides", stand("sensor", 0.95, heater=BAD), "keep-testing"),
            ("wiring, certain, little else", stand("wiring", 0.982, control=BAD), "repair-wiring"),
            ("wiring, not certain", stand("wiring", 0.982, 0.985, control=BAD), "keep-testing"),
            ("both found, each its own part", stand("sensor wiring", heater=BAD, control=BAD), "repair-several"),
            ("a pin before the element was measured", stand("wiring", heater=OPEN, behind=("heater",)), "keep-testing"),
            ("a pin and the element proven", stand("wiring", behind=("heater",)), "repair-wiring"),
            ("a pin and the sensor itself bad", stand("sensor wiring", heater=BAD, behind=("heater",)), "repair-several"),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertEqual(at.decision, decision)

    def test_only_a_decision_is_called_enough_to_act(self) -> None:
        for at, says in (
            (stand("sensor", 0.995, heater=BAD), "As good as certain: over 99 % that exactly this is at fault."),
            (stand("sensor", 0.982, heater=BAD), "Sure enough to act: 98 % that exactly this is at fault."),
            (stand("sensor", 0.995, heater=BAD, supply=OPEN), "Likely, not yet enough to act: over 99 %"),
            (stand("", 0.6), "More likely than not: 60 % that nothing is at fault now."),
            (stand("wiring", 0.3), "Not settled: 30 % that exactly this is at fault."),
        ):
            self.assertTrue(how_sure(at).startswith(says), how_sure(at))

    def test_what_a_module_wants_before_it_is_suspected(self) -> None:
        every = (POWER, CLEARED)
        for why, readings, silent, wants in (
            ("nothing seen", (), False, (MODULE_POWER, COMMANDED)),
            ("its power seen", (POWER,), False, (COMMANDED,)),
            ("codes cleared", every, False, ()),
            ("but never seen to command", every, True, (SEEN_COMMANDED,)),
            ("its command read, and off", (*every, observed(**OFF)), True, (SEEN_COMMANDED,)),
            ("its command read, and on", (*every, observed(**ON)), True, ()),
            ("commanded with the scan tool", (*every, observed(**FORCED)), True, ()),
        ):
            with self.subTest(why):
                self.assertEqual(stand("module", readings=readings, silent=silent, driver=BAD).wants, wants)

    def test_no_heater_is_condemned_that_was_not_measured_by_itself(self) -> None:
        across = observed(**ELEMENT)
        for why, readings, askable, wants in (
            ("only in the circuit", (CLEARED,), True, (ELEMENT_APART,)),
            ("plug apart, at the sensor's pins", (CLEARED, across), True, ()),
            ("that reading struck", (observed(**ELEMENT, struck="wrong pin"),), True, (ELEMENT_APART,)),
            ("of the old part", (observed(**ELEMENT, of="old"),), True, (ELEMENT_APART,)),
            ("a good one in its place", (observed(**{**LAMP, "of": "known-good"}),), True, ()),
            ("its pins cannot be reached", (CLEARED,), False, ()),
        ):
            with self.subTest(why):
                self.assertEqual(stand("sensor", readings=readings, askable=askable, heater=BAD).wants, wants)

    def test_what_may_be_left_open_when_nothing_is_left_to_measure(self) -> None:
        for why, at, decided in (
            ("certain of what is named, a second fault may hide", stand("wiring", 0.6, control=BAD), True),
            ("not certain of it", stand("wiring", 0.84, 0.9, control=BAD), False),
            ("a sensor nearly sure", stand("sensor", 0.96, 0.975, heater=BAD), True),
            ("a sensor not sure", stand("sensor", 0.96, 0.96, heater=BAD), False),
            ("a part that cannot be proven and is hardly bad", stand("sensor", heater=BAD, supply=OPEN), True),
            ("a part that may well be bad", stand("sensor", heater=BAD, supply=DOUBTED), False),
            ("a part of which nothing is left but the pin", stand("wiring", heater=DOUBTED, behind=("heater",)), True),
        ):
            with self.subTest(why):
                ended = Standing(**{**at.__dict__, "exhausted": True})
                self.assertEqual(ended.decided, decided)
