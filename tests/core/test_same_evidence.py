"""The same evidence told in another way gives the same decision, and the same chances within half a hundredth."""

import re
from collections.abc import Callable
from copy import deepcopy
from random import Random
from typing import Any
from unittest import TestCase

from dianoia.case.job import job_of
from dianoia.case.load import case_from_plain
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from tests.cases import BATTERY, ELEMENT, LAMP, OPEN_ELEMENT, SUPPLY, case
from tests.core.test_acceptance import documents
from tests.tags import slow

Plain = dict[str, Any]
#: The same codes of the other bank.
OTHER_BANK = {
    "P0030": "P0050", "P0031": "P0051", "P0037": "P0057", "P0130": "P0150", "P0131": "P0151", "P0133": "P0153",
    "P0134": "P0154", "P0135": "P0155", "P0136": "P0156", "P0137": "P0157", "P0140": "P0160", "P0141": "P0161",
    "P2237": "P2240", "P2195": "P2197", "P2196": "P2198",
}  # fmt: skip
OTHER_BANK |= {other: code for code, other in OTHER_BANK.items()}
SMALLER = {"V": "mV", "A": "mA"}


def shuffled(plain: Plain) -> Plain:
    told: list[Any] = []
    between: list[Any] = []
    for item in plain["readings"]:
        if item["measure"] == "act":
            Random(len(told)).shuffle(between)
            told, between = [*told, *between, item], []
        else:
            between.append(item)
    Random(7).shuffle(between)
    return {**plain, "readings": [*told, *between]}


def in_other_units(plain: Plain) -> Plain:
    def said(value: str) -> str:
        plainly = re.fullmatch(r"(-?\d+(?:\.\d+)?) ([VA])", value)
        ohms = re.fullmatch(r"(\d{3,}) ohm", value)
        if plainly:
            return f"{float(plainly[1]) * 1000:.6g} {SMALLER[plainly[2]]}"
        return f"{float(ohms[1]) / 1000:.6g}k" if ohms else value

    plain = deepcopy(plain)
    for item in plain["readings"]:
        if item["measure"] in ("voltage", "current", "resistance"):
            item["value"] = said(item["value"])
    return plain


def on_the_other_bank(plain: Plain) -> Plain:
    plain = deepcopy(plain)
    if any(item["code"] not in OTHER_BANK for item in plain["codes"]):
        return plain
    for item in plain["codes"]:
        item["code"] = OTHER_BANK[item["code"]]
    if plain.get("sensor", {}).get("bank"):
        plain["sensor"]["bank"] = 3 - plain["sensor"]["bank"]
    for item in plain["readings"]:
        if str(item.get("of", "")).startswith("B"):
            item["of"] = f"B{3 - int(item['of'][1])}{item['of'][2:]}"
    return plain


def in_another_style(plain: Plain) -> Plain:
    return {**plain, "style": "scan-first" if plain.get("style") == "basic-kit" else "basic-kit"}


def with_a_parked_code(plain: Plain) -> Plain:
    return {**plain, "codes": [*plain["codes"], {"code": "P0442", "status": "stored"}]}


def with_a_copy(plain: Plain) -> Plain:
    plain = deepcopy(plain)
    place = next(place for place, item in enumerate(plain["readings"]) if item["measure"] not in ("act", "inspect"))
    plain["readings"][place]["taken"] = "2026-11-01T10:00:00"
    plain["readings"].insert(place + 1, deepcopy(plain["readings"][place]))
    return plain


RETOLD: tuple[Callable[[Plain], Plain], ...] = (
    shuffled, in_other_units, on_the_other_bank, in_another_style, with_a_parked_code, with_a_copy,
)  # fmt: skip


def decided(plain: Plain) -> tuple[str, frozenset[str], dict[str, float]]:
    diagnosis = Diagnosis(job_of(case_from_plain(plain)), plan=False)
    standing = diagnosis.standing
    named: frozenset[str] = standing.components if standing.decided else frozenset()
    return standing.decision, named, diagnosis.weighed.held.chances


class Retold(TestCase):
    """Order between acts, units, bank, style, a parked code, copies."""

    def retell(self, plain: Plain, why: str) -> None:
        decision, named, chances = decided(plain)
        for retold in RETOLD:
            with self.subTest(why, retold=retold.__name__):
                again = decided(retold(plain))
                self.assertEqual(again[:2], (decision, named))
                apart = max(abs(again[2].get(name, 0.0) - chance) for name, chance in chances.items())
                self.assertLess(apart, 0.005)

    def test_a_few_of_the_worked_cases(self) -> None:
        for name in ("05-three-wire-element-open", "16-signal-wire-on-the-exhaust", "31-nox-fuse-blown"):
            self.retell(documents()[name]["case"], name)

    @slow
    def test_one_in_five_of_all(self) -> None:
        for name, document in list(documents().items())[2::5]:
            self.retell(document["case"], name)


#: A vehicle whose relay is known to come before the fuse.
ORDERED = {"label": "Van 3", "feed_order": "relay-fuse"}


class Repaired(TestCase):
    """What a repair takes away, and what stays as it was."""

    def after(self, *readings: Plain) -> dict[str, float]:
        sensor = {"heater_ohms_20c": [4.0, 7.5], "heater_switch": "low-side", "heater_drive": "steady"}
        chances: dict[str, float] = Diagnosis(
            job_of(case(*readings, sensor=sensor, vehicle=ORDERED)), plan=False
        ).weighed.held.chances
        return chances

    def test_a_mended_wire_leaves_the_others_as_they_were(self) -> None:
        cut: list[dict[str, Any]] = [BATTERY, {**SUPPLY, "connector": "unplugged", "value": "0 V"}, {**SUPPLY, "red": "fuse.out", "value": "14 V"},
               {**ELEMENT, "red": "fuse.out", "black": "harness.heater_supply"}]  # fmt: skip
        mend = {"measure": "act", "action": "repair-wiring", "value": "done"}
        before, found = self.after(*cut), self.after(*cut, mend)
        self.assertGreater(before["wire-open:heater_supply"], 0.8)
        self.assertLess(found["wire-open:heater_supply"], 0.1)
        self.assertAlmostEqual(found["wire-open:heater_control"], before["wire-open:heater_control"], delta=0.01)
        told = self.after(*cut, {**mend, "of_fault": "wire-open:heater_control"})
        self.assertGreater(told["wire-open:heater_supply"], 0.8)

    def test_a_new_sensor_takes_all_of_the_old_ones_faults_along(self) -> None:
        found = self.after(*OPEN_ELEMENT, {"measure": "act", "action": "replace-sensor", "value": "done"})
        self.assertLess(max(found[name] for name in ("heater-open", "heater-high", "heater-short")), 0.05)
        again = self.after(
            *OPEN_ELEMENT, {"measure": "act", "action": "replace-sensor", "value": "done"}, ELEMENT, LAMP
        )
        self.assertGreater(again["heater-open"], 0.5)
