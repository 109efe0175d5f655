"""What the tables say of faults, looks and codes, against the trade's own rules, written down here once more by hand.

How often something happens is no rule and is not checked here: the field benchmark judges it.
"""

import re
from pathlib import Path
from typing import ClassVar, get_args
from unittest import TestCase

from dianoia.case.lamps import lamps
from dianoia.case.terms import Action, InspectTarget
from dianoia.circuit.assumptions import assumptions
from dianoia.codes import tables as codes
from dianoia.diagnosis.faults import observations
from dianoia.diagnosis.faults.tables import faults, influences, of_one_cause, shared_codes
from dianoia.families.tables import families

#: Terminal -> (loop, part of the circuit, circuits of a code that name it).
TERMINALS = {
    "heater_supply": ("heater", "supply", ""), "heater_control": ("heater", "control", ""), "signal": ("signal", "signal", ""),
    "signal_return": ("signal", "return", ""), "cell_positive": ("signal", "signal", "reference pump"),
    "cell_negative": ("signal", "return", "return"), "nernst": ("signal", "reference", "reference"),
    "virtual_ground": ("signal", "return", "return"), "pump": ("signal", "pump", "pump"), "trim": ("signal", "trim", "trim"),
    "supply": ("nox", "supply", ""), "ground": ("nox", "ground", ""), "can_high": ("nox", "bus", ""), "can_low": ("nox", "bus", ""),
}  # fmt: skip
#: Kind of wire fault -> (what it does to a bus, shows unloaded, shows under load only).
KINDS = {
    "wire-open": ("cut", False, False), "pin-open": ("cut", True, False), "wire-high": (None, False, True),
    "wire-short-ground": ("held", True, False), "wire-short-battery": ("held", True, False), "wire-short-pair": ("held", True, False),
}  # fmt: skip
#: All other faults: id, loop, component, part, and what else is to be known of them.
OTHERS = """
heater-open heater sensor heater
heater-high heater sensor heater resistive
heater-low heater sensor heater
heater-short heater sensor heater unloaded
fuse-blown heater,nox supply supply felt=fuse-blown
relay-open heater,nox supply supply felt=relay-open
supply-open heater,nox supply supply felt=supply-open
supply-high heater,nox supply supply felt=supply-high resistive
driver-open heater module driver
driver-stuck-on heater module driver heats unloaded
module-ground-high heater wiring driver low-side felt=module-ground-high resistive
cell-open signal sensor cell
cell-shorted signal sensor cell unloaded
cell-slow signal sensor cell masks
cell-biased-lean signal sensor cell masks
cell-biased-rich signal sensor cell masks
cell-contaminated signal sensor cell masks
cell-nonsense signal sensor cell
cell-heater-leak signal sensor cell heated unloaded
signal-short-heater signal wiring signal heated unloaded
signal-short-heater:nernst signal wiring reference heated unloaded
shell-ground-high signal wiring return resistive
bias-missing signal module bias
module-input-dead signal module bias
swapped-connectors signal wiring signal unloaded
swapped-connectors:nernst signal wiring reference unloaded
exhaust-leak signal exhaust cell behind=engine-rich
engine-lean signal mixture cell felt=engine-lean
engine-rich signal mixture cell felt=engine-rich
catalyst-worn signal catalyst cell
can-lines-shorted nox wiring bus held felt=can-lines-shorted unloaded
terminator-lost nox wiring bus felt=terminator-lost
unit-dead nox sensor cell cut
probe-heater nox sensor heater
probe-cell nox sensor cell
probe-drift nox sensor cell
probe-nonsense nox sensor cell
probe-crystals nox sensor cell
ammonia-slip nox dosing cell
dosing-low nox dosing cell
scr-worn nox dosing cell
"""
#: What is seen or comes of it: faults that it speaks for, and after a stroke those it speaks against.
LOOKS = """
connector ok: / pin-open
connector unplugged: pin-open
connector loose: pin-open
connector corroded: pin-open wire-high
connector wet: pin-open wire-high wire-short
connector melted: pin-open wire-short
connector broken: pin-open
pins ok: / pin-open
pins loose: pin-open
pins corroded: pin-open wire-high
pins broken: pin-open
inline-connector corroded: wire-high wire-open
inline-connector loose: wire-open wire-high
inline-connector unplugged: wire-open
inline-connector broken: wire-open wire-high wire-short
inline-connector wet: wire-high wire-open wire-short
inline-connector melted: wire-short signal-short-heater wire-open wire-high
inline-connector ok: / wire-high
harness ok: / wire-short wire-open
harness chafed: can-lines-shorted signal-short-heater wire-short wire-open wire-high
harness melted: can-lines-shorted signal-short-heater wire-short wire-open wire-high
harness broken: wire-open
ground corroded: module-ground-high shell-ground-high wire-high:ground
ground loose: module-ground-high shell-ground-high wire-high:ground
ground ok: / module-ground-high
fuse blown: fuse-blown wire-short-ground:heater_supply heater-short
fuse ok: / fuse-blown wire-short-ground:heater_supply
fuse corroded: supply-high
sensor broken: heater-open heater-short cell-open
sensor melted: heater-open heater-short cell-open
sensor wrong-part: heater-high heater-low
sensor contaminated: cell-contaminated cell-slow cell-biased probe-crystals
sensor soot: engine-rich cell-slow
sensor ok: / cell-contaminated probe-crystals
exhaust leak: exhaust-leak
exhaust ok: / exhaust-leak
exhaust soot: exhaust-leak engine-rich
intake leak: engine-lean
intake ok: / engine-lean
urea ok: / dosing-low
urea poor: dosing-low
dosing-test passed: / dosing-low ammonia-slip
dosing-test failed: dosing-low ammonia-slip
clear-codes returned-at-once: / none heater-high wire-high supply-high heater-low
clear-codes returned-later: / none
clear-codes not-returned: / any heater-open heater-short fuse-blown relay-open supply-open wire-open pin-open wire-short- driver- bias-missing unit-dead probe-heater
swap-sensors code-moved: heater-open heater-high heater-low heater-short cell- probe-
swap-sensors code-stayed: / heater-open heater-high heater-low heater-short cell- probe-
swap-sensors not-driven:
heater_monitor complete: / heater-open heater-short heater-high heater-low fuse-blown relay-open supply-open supply-high wire-open:heater wire-high:heater wire-short-ground:heater wire-short-battery:heater pin-open:heater driver- module-ground-high
wiggle changed: pin-open wire-open wire-high relay-open supply-open supply-high module-ground-high shell-ground-high wire-short
wiggle no-change: / pin-open wire-open wire-high
"""
OF_SENSOR = "heater-open heater-high heater-low heater-short cell- probe- unit-"
RENEWS = {
    "replace-sensor": OF_SENSOR, "replace-fuse": "fuse-blown", "replace-relay": "relay-open",
    "replace-module": "driver-open driver-stuck-on bias-missing module-input-dead", "repair-exhaust": "exhaust-leak catalyst-worn",
    "repair-mixture": "engine-", "repair-dosing": "ammonia-slip dosing-low scr-worn", "repair-wiring": "wire- pin-open: module-ground-high signal-short-heater shell-ground-high "
    "swapped-connectors can-lines-shorted terminator-lost supply-",
}  # fmt: skip
#: What the past or a symptom makes likelier, and after a stroke less likely.
PAST = """
engine-work: pin-open wire- fuse-blown engine-lean swapped-connectors
exhaust-work: pin-open wire- exhaust-leak
collision: wire- pin-open
recent-sensor: pin-open wire- fuse-blown driver-open / heater-open heater-high cell-
water: pin-open wire-high supply-high
rodent: wire-open wire-short
repeat-visit: pin-open wire-high supply-high driver-open
rough-idle: engine-lean engine-rich exhaust-leak
hesitation: engine-lean
black-smoke: engine-rich
sulphur-smell: engine-rich
none: / engine-lean engine-rich
trims-lean: engine-lean exhaust-leak cell-biased-lean / engine-rich cell-biased-rich
trims-rich: engine-rich cell-biased-rich / engine-lean exhaust-leak cell-biased-lean
other-bank-lean: engine-lean
other-bank-rich: engine-rich
"""
#: A fault of the circuit is there at once; what is watched over a drive comes back with a drive.
HARD = {"heater": {"circuit", "low", "high", "*"}, "signal": {"circuit", "short-to-heater"}, "reference": {"*"}, "pump": {"*"},
        "return": {"*"}, "trim": {"*"}, "supply": {"*"}, "communication": {"*"}}  # fmt: skip


#: Family: kind of cell, cold heater in ohms (low and high), terminals in their usual order.
FAMILIES = """
switching-1w zirconia - signal
switching-2w zirconia - signal signal_return
switching-3w zirconia 2.5-16 heater_supply heater_control signal
switching-4w zirconia 2.5-16 heater_supply heater_control signal signal_return
titania-4w titania 4-16 heater_supply heater_control signal signal_return
airfuel-4w limiting-current 1-4.5 heater_supply heater_control cell_positive cell_negative
wideband-5w two-cell 1.8-4.5 heater_supply heater_control nernst virtual_ground pump
wideband-6w two-cell 1.8-4.5 heater_supply heater_control nernst virtual_ground pump trim
nox-can-4w nox - supply ground can_high can_low
nox-can-5w nox - supply ground can_high can_low address
"""
#: Key position: a healthy 12 V battery, what it can show at all, and what is wanted before other voltages are trusted.
BATTERY = {"off": (12.1, 12.8, 9.0, 14.0, 12.0), "on": (11.7, 12.6, 8.5, 14.0, 11.6), "running": (13.2, 14.7, 10.5, 16.0, 13.0),
           "cranking": (9.3, 11.2, 5.0, 13.0, 9.3)}  # fmt: skip


#: What a module can have seen, by circuit; a star for anything else of it.
SENSES = {
    "oxygen heater": "circuit low high resistance",
    "oxygen signal": "circuit low high slow delayed inactive stuck-lean stuck-rich short-to-heater out-of-range exhaust-sample performance",
    "oxygen reference": "*", "oxygen pump": "*", "oxygen return": "*", "oxygen trim": "*", "oxygen swap": "swapped",
    "nox signal": "stuck-low stuck-high *", "nox heater": "*", "nox supply": "*", "nox communication": "*",
}  # fmt: skip
RELATED = {"mixture", "catalyst", "misfire", "evap", "scr", "unrelated"}


def _sides(text: str) -> tuple[set[str], set[str]]:
    raised, _, lowered = text.partition("/")
    return set(raised.split()), set(lowered.split())


class Faults(TestCase):
    """faults.json."""

    def test_wires_and_pins(self) -> None:
        wired = [row for row in faults().values() if ":" in row.id and row.id.partition(":")[0] in KINDS]
        self.assertGreater(len(wired), 55)
        for row in wired:
            kind, _, terminal = row.id.partition(":")
            loop, part, named = TERMINALS[terminal]
            bus, unloaded, resistive = KINDS[kind]
            if (
                row.id == "wire-short-battery:heater_supply"
            ):  # heats without the driver: it looks like the driver's own fault
                part = "driver"
            with self.subTest(row.id):
                self.assertEqual((row.loop, row.component, row.part), (loop, "wiring", part))
                self.assertEqual(
                    row.site, f"{'plug' if kind == 'pin-open' else 'wire'} {terminal.removeprefix('heater_')}"
                )
                self.assertEqual(row.bus, bus if part == "bus" else None)
                self.assertEqual(
                    (row.unloaded, row.resistive, row.named_by), (unloaded, resistive, tuple(named.split()))
                )
                self.assertEqual(row.heats, row.id == "wire-short-ground:heater_control")
                grounded_feed = row.id in ("wire-short-ground:heater_supply", "wire-short-ground:supply")
                self.assertEqual(row.felt_elsewhere, "fuse-blown" if grounded_feed else None)
                sides = {"wire-short-battery:heater_supply": "high-side", "wire-short-ground:heater_control": "low-side",
                         "wire-short-battery:heater_control": "low-side"}  # fmt: skip
                self.assertEqual(row.only_where, sides.get(row.id))

    def test_all_others(self) -> None:
        found = []
        for row in faults().values():
            if row.id.partition(":")[0] not in KINDS:
                told = [row.bus, "heats" if row.heats else None, "heated" if row.heated else None, row.only_where, f"felt={row.felt_elsewhere}" if row.felt_elsewhere else None,
                        f"behind={row.felt_behind}" if row.felt_behind else None, "unloaded" if row.unloaded else None,
                        "resistive" if row.resistive else None, "masks" if row.masks_catalyst else None]  # fmt: skip
                found.append(
                    " ".join(
                        [row.id, row.loop.replace(" ", ","), row.component, row.part, *(item for item in told if item)]
                    )
                )
        self.assertEqual(found, OTHERS.strip().splitlines())

    def test_what_one_cause_makes_of_two(self) -> None:
        for one, other, likelier in (
            ("pin-open:heater_supply", "pin-open:heater_control", True), ("wire-open:signal", "wire-open:heater_supply", True),
            ("wire-short-ground:signal", "wire-short-battery:signal_return", True), ("pin-open:signal", "wire-open:signal_return", False),
            ("wire-open:signal", "cell-open", False),
        ):  # fmt: skip
            self.assertEqual(of_one_cause(one, other) > 1, likelier, f"{one} {other}")
            self.assertEqual(of_one_cause(one, other), of_one_cause(other, one))

    def test_what_the_past_makes_likelier(self) -> None:
        wanted = {name: _sides(text) for name, _, text in (line.partition(":") for line in PAST.strip().splitlines())}
        found: dict[str, tuple[set[str], set[str]]] = {}
        for item in influences():
            sides = found.setdefault(item.when, (set(), set()))
            sides[item.times < 1].update(name.rstrip(":") for name in item.faults)
        self.assertEqual(found, wanted)
        self.assertEqual(set(shared_codes().faults), {"fuse-blown", "relay-open", "supply-open", "supply-high"})
        self.assertGreater(shared_codes().times, 1)


class Vehicles(TestCase):
    """families.json, assumptions.json, lamps.json."""

    def test_every_family(self) -> None:
        found = []
        for row in families().values():
            ohms = "-".join(f"{end:g}" for end in row.heater_ohms_20c) if row.heater_ohms_20c else "-"
            found.append(" ".join([row.id, row.cell, ohms, *row.terminals]))
        self.assertEqual(found, FAMILIES.strip().splitlines())

    def test_the_battery_and_what_is_cold(self) -> None:
        found = {row.key: (*row.usual_v, *row.plausible_v, row.wanted_v) for row in assumptions().battery}
        self.assertEqual(found, BATTERY)
        self.assertEqual(assumptions().cold_c, 45.0)

    def test_lamps(self) -> None:
        table = lamps()
        self.assertEqual(
            (table.usual_watts, table.load_watts, table.small_element_ohms, table.small_element_watts),
            (5.0, 5.0, 8.0, 21.0),
        )
        self.assertEqual([(lamp.watts, lamp.label) for lamp in table.lamps], [(5.0, "5 W"), (21.0, "21 W")])


class Seen(TestCase):
    """observations.json and senses.json."""

    def test_what_every_look_speaks_for_and_against(self) -> None:
        wanted = {
            name: _sides(text)
            for name, _, text in (
                line.partition(": ") if ": " in line else line.partition(":") for line in LOOKS.strip().splitlines()
            )
        }
        found = {}
        for row in observations._document().observations:
            sides: tuple[set[str], set[str]] = (set(), set())
            for names, times in row.times:
                sides[times < 1].update(name.rstrip(":") for name in names)
            found[f"{row.target} {row.value}"] = sides
            measure = (
                "act"
                if row.target in get_args(Action)
                else "inspect"
                if row.target in get_args(InspectTarget)
                else "scan"
            )
            self.assertEqual(row.measure, measure)
        self.assertEqual(found, wanted)

    def test_what_every_act_takes_away(self) -> None:
        found = {action: set(names) for action, names in observations._document().renews.items()}
        self.assertEqual(found, {action: set(names.split()) for action, names in RENEWS.items()})

    def test_what_a_module_can_have_seen(self) -> None:
        rows = codes._senses().values()
        found: dict[str, list[str]] = {}
        for row in rows:
            if row.kind != "related":
                found.setdefault(f"{row.kind} {row.circuit}", []).append(str(row.failure))
        self.assertEqual({name: " ".join(listed) for name, listed in found.items()}, SENSES)
        self.assertEqual({row.relation for row in rows if row.kind == "related"}, RELATED)

    def test_what_is_there_at_once(self) -> None:
        for row in codes._senses().values():
            kind, circuit, failure = row.kind, row.circuit, row.failure
            hard = (
                kind != "related"
                and failure in HARD.get(circuit or "", ())
                and not (kind == "nox" and circuit == "signal")
            )
            with self.subTest(kind, circuit=circuit, failure=failure):
                self.assertEqual(row.onset, "hard" if hard else "drive")


class UnitPairs(TestCase):
    """A figure that tables give in two units."""

    #: Units that stand side by side -> how many of the second one of the first is, and what is added.
    FACTORS: ClassVar[dict[tuple[str, str], tuple[float, float]]] = {
        ("N m", "lbf ft"): (0.7376, 0.0), ("°C", "°F"): (1.8, 32.0), ("km/h", "mph"): (0.6214, 0.0), ("km", "miles"): (0.6214, 0.0),
        ("mm", "in"): (1 / 25.4, 0.0), ("kPa", "psi"): (0.145, 0.0),
    }  # fmt: skip
    PAIR = re.compile(
        r"(\d+(?:\.\d+)?)(?:\s*(?:-|–|to)\s*(\d+(?:\.\d+)?))? ?(N m|°C|km/h|km|mm|kPa) "
        r"\((\d+(?:\.\d+)?)(?:\s*(?:-|–|to)\s*(\d+(?:\.\d+)?))? ?(lbf ft|°F|mph|miles|in|psi)\)"
    )

    def test_both_figures_of_a_pair_are_the_same_and_ranges_rise(self) -> None:
        seen = 0
        for path in sorted(Path("dianoia").rglob("*.json")):
            for low, high, unit, other_low, other_high, other in self.PAIR.findall(path.read_text(encoding="utf-8")):
                seen += 1
                with self.subTest(path.name, pair=f"{low}-{high} {unit} ({other_low}-{other_high} {other})"):
                    factor, added = self.FACTORS[unit, other]
                    self.assertEqual(bool(high), bool(other_high))
                    for one, two in ((low, other_low), (high, other_high)):
                        if one:
                            self.assertAlmostEqual(
                                float(one) * factor + added, float(two), delta=max(0.05 * float(two), 0.6)
                            )
                    if high:
                        self.assertLess(float(low), float(high))
                        self.assertLess(float(other_low), float(other_high))
        self.assertGreater(seen, 0)
