"""The solver against hand-computed networks, and the laws that must hold on all of them."""

from collections.abc import Sequence
from fractions import Fraction
from itertools import combinations
from typing import Any
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from dianoia.case.job import job_of
from dianoia.case.measures.voltage import VoltageProbe
from dianoia.case.setting import Setting
from dianoia.circuit.draws import Draws
from dianoia.circuit.heater import OFF, ON, HeaterLoop, HeaterVariant
from dianoia.circuit.known import KnownValues, known_of
from dianoia.circuit.network import LEAKAGE_S, NOWHERE, Network, Port, UnknownPlace
from dianoia.circuit.respond import respond
from dianoia.circuit.sums import at_20c, duty_from, heater, pwm_average, resistance_from
from dianoia.circuit.types import Change
from dianoia.diagnosis.faults.hypotheses import traits
from dianoia.errors import RefusedInput
from dianoia.readings.circuit_model import ModelRequest
from dianoia.readings.heater_model import HeaterModel
from tests.cases import STEADY, case

OHMS = st.floats(0.1, 1e6)
HEATER = ("heater_supply", "heater_control")


def divider(upper: float, lower: float) -> Network:
    net = Network("n", 1)
    net.branch("source", "n", "a", 0.0, volts=12.0)
    net.branch("upper", "a", "b", upper)
    net.branch("lower", "b", "n", lower)
    return net


class Solving(TestCase):
    """Nodal analysis and ports."""

    @given(OHMS, OHMS)
    def test_a_divider_divides_and_its_source_resistance_is_both_in_parallel(self, upper: float, lower: float) -> None:
        solved = divider(upper, lower).solve([divider(upper, lower).across("b", "n")])
        self.assertAlmostEqual(float(solved.value[0, 0]), 12 * lower / (upper + lower), places=2)
        self.assertAlmostEqual(float(solved.response[0, 0, 0]) / (upper * lower / (upper + lower)), 1, places=3)

    @given(OHMS, OHMS)
    def test_swapping_the_leads_flips_the_sign(self, upper: float, lower: float) -> None:
        net = divider(upper, lower)
        solved = net.solve([net.across("a", "b"), net.across("b", "a")])
        self.assertAlmostEqual(float(solved.value[0, 0]), -float(solved.value[1, 0]), places=9)

    def test_a_balanced_bridge_carries_nothing(self) -> None:
        net = divider(100.0, 200.0)
        net.branch("left", "a", "c", 50.0)
        net.branch("right", "c", "n", 100.0)
        net.branch("bridge", "b", "c", 10.0)
        self.assertAlmostEqual(float(net.solve([net.through("bridge")]).value[0, 0]), 0.0, places=9)

    def test_an_unknown_place_is_said(self) -> None:
        with self.assertRaises(UnknownPlace):
            divider(1.0, 1.0).across("b", "nowhere")

    def test_every_fault_and_pair_is_what_exact_elimination_says(self) -> None:
        """With the faults built into the matrix, as a meter of 10 Mohm reads it; plugged in, and with contacts open besides."""
        variant = HeaterVariant(KnownValues("switching-4w"), "low-side", Draws(count=6))
        for phase, plug in ((ON, "mated"), (OFF, "mated"), (ON, "unplugged"), (OFF, "unplugged")):
            circuit = HeaterLoop(variant).circuit(Setting(key="running", connector=plug), phase)
            names = list(circuit.effects)
            short = "wire-short-ground:heater_supply"  # a short and the fuse it blows: with another fault three ports
            listed = [
                (),
                *((name,) for name in names),
                *combinations(names, 2),
                (short, "wire-high:heater_control", "supply-high"),
            ]
            probe = circuit.network.across("harness.heater_control", "battery.negative")
            stepped = respond(circuit, listed, [probe])
            rows = {*range(0, len(listed), 199), len(listed) - 1, names.index(short) + 1}
            for row in rows:
                with self.subTest(faults=listed[row], phase=phase, plug=plug):
                    changes = [change for name in listed[row] for change in circuit.effects[name].changes]
                    value, source = exact(circuit.network, changes, probe, draw=row % 6)
                    behind = float(stepped.source[row, 0, row % 6])
                    shown = metered(float(stepped.value[row, 0, row % 6]), behind)
                    self.assertAlmostEqual(shown, metered(value, source), delta=1e-4 + 0.005 * abs(value))
                    if source < 1e5:  # beyond, a point's own leak counts
                        self.assertAlmostEqual(behind, source, delta=2e-4 + 2e-4 * source)

    @given(st.lists(st.floats(-3.0, 9.0), min_size=8, max_size=8))
    def test_whatever_the_resistances_are(self, powers: list[float]) -> None:
        """A box of branches from a milliohm to a gigaohm, and a lead laid across."""
        net = Network("n", 1)
        ends = (("n", "a"), ("a", "b"), ("b", "c"), ("c", "n"), ("a", "c"), ("c", "d"), ("d", "e"), ("e", "b"))
        for index, ((a, b), power) in enumerate(zip(ends, powers, strict=True)):
            net.branch(str(index), a, b, 10.0**power, volts=12.0 * (index == 0))
        net.bridge("d", "n", 1e4)
        for port, least in ((net.across("d", "b"), 1e-4), (net.through("3"), 1e-8)):
            solved, told = net.solve([port]), exact(net, [], port)
            shown = metered(float(solved.value[0, 0]), abs(float(solved.response[0, 0, 0])))
            self.assertAlmostEqual(shown, metered(told[0], abs(told[1])), delta=least + 0.005 * abs(told[0]))

    def test_with_other_sources_the_same_resistances_are_not_solved_again(self) -> None:
        one, other = divider(100.0, 200.0), divider(100.0, 200.0)
        other.branch("more", "b", "n", 1e6, volts=3.0)
        for second in (divider(100.0, 50.0), other, divider(100.0, 200.0)):
            ports = [second.across("b", "n"), second.through("upper")]
            one.solve(ports)
            fresh = second.solve(ports)
            np.testing.assert_array_equal(second.solve(ports, before=one).value, fresh.value)
            np.testing.assert_array_equal(second.solve(ports, before=one).response, fresh.response)

    def test_a_lead_laid_across_is_a_resistance_in_parallel(self) -> None:
        net = divider(100.0, 50.0)
        net.bridge("a", "b", 100.0)
        self.assertAlmostEqual(float(net.solve([net.across("b", "n")]).value[0, 0]), 6.0, places=6)


def metered(volts: float, source_ohms: float) -> float:
    """What a meter of 10 Mohm shows of a voltage behind a resistance."""
    return volts * 1e7 / (1e7 + source_ohms)


def exact(network: Network, changes: Sequence[Change], port: Port, draw: int = 0) -> tuple[float, float]:
    """A port's value, and what a unit there does to itself, by elimination in fractions: every point leaks by itself."""
    points, branches = len(network.nodes), list(network._branches.values())
    size = points + len(branches)
    rows = [[Fraction(0)] * (size + 2) for _ in range(size)]  # the matrix, the sources, the unit
    for row in range(points):
        rows[row][row] = Fraction(LEAKAGE_S)
    for row, (a, b, ohms, volts) in enumerate(branches, start=points):
        for node, sign in ((a, 1), (b, -1)):
            if node != NOWHERE:
                rows[node][row] += sign
                rows[row][node] += sign
        rows[row][row], rows[row][size] = -Fraction(float(ohms[draw])), -Fraction(float(volts[draw]))
    for change in changes:
        strength = Fraction(float(change.strength[draw])) * (-1 if change.port.in_series else 1)
        at = vector(change.port, draw)
        for one, its in at:
            for two, own in at:
                rows[one][two] += strength * its * own
    for one, its in vector(port, draw):
        rows[one][size + 1] += its
    found = eliminated(rows)
    value, unit = (sum(its * found[one][column] for one, its in vector(port, draw)) for column in (0, 1))
    return float(value), float(unit)


def vector(port: Port, draw: int) -> list[tuple[int, int]]:
    """Where a port's vector is 1 and -1."""
    ends = port.places[0 if port.which is None else port.which[draw]]
    return [(end, sign) for end, sign in zip(ends, (1, -1), strict=True) if end != NOWHERE]


def eliminated(rows: list[list[Fraction]]) -> list[list[Fraction]]:
    """The unknowns for each right-hand side."""
    size = len(rows)
    for place in range(size):
        pivot = max(range(place, size), key=lambda row: abs(rows[row][place]))
        rows[place], rows[pivot] = rows[pivot], rows[place]
        own = rows[place] = [item / rows[place][place] if item else item for item in rows[place]]
        for row in range(size):
            factor = rows[row][place]
            if row != place and factor:
                rows[row] = [item - factor * its if its else item for item, its in zip(rows[row], own, strict=True)]
    return [row[size:] for row in rows]


class Sums(TestCase):
    """Quick sums follow the circuit's own laws, and refuse what cannot be."""

    def test_sums(self) -> None:
        self.assertAlmostEqual(pwm_average(13.8, 0.7).meter_v, 4.14)
        self.assertAlmostEqual(duty_from(13.8, 4.14).duty, 0.7)
        self.assertAlmostEqual(resistance_from(0.9, 13.5), 15.0)
        low, high = at_20c(14.0, 300.0).ohms_20c
        self.assertLess(low, 14.0 / 1.84 + 1e-9)
        hot = heater(6.0, 13.8)
        self.assertLess(max(hot.hot_amps), hot.cold_amps / 2)
        self.assertLess(low, high)

    def test_impossible_sums_are_refused_naming_the_field(self) -> None:
        for why, work, field in (
            ("no ohms", lambda: heater(0.0, 13.8), "ohms_20c"),
            ("duty above all", lambda: pwm_average(13.8, 1.2), "duty"),
            ("meter above battery", lambda: duty_from(12.0, 13.0), "meter_v"),
            ("absolute cold", lambda: at_20c(5.0, -300.0), "celsius"),
        ):
            with self.subTest(why), self.assertRaises(RefusedInput) as caught:
                work()
            self.assertEqual(caught.exception.findings[0].field, field)


class HeaterReadings(TestCase):
    """What instruments show at the sound and the faulty heater loop, against the trade's own rules of thumb."""

    rows: dict[str, int]
    models: dict[str, HeaterModel]

    @classmethod
    def setUpClass(cls) -> None:
        names = ["heater-open", "wire-open:heater_supply", "wire-open:heater_control", "supply-high"]
        listed: list[tuple[str, ...]] = [(), *((name,) for name in names)]
        cls.rows = {h[0] if h else "": row for row, h in enumerate(listed)}
        cls.models = {
            drive: HeaterModel(
                known_of(job_of(case(sensor={**STEADY, "heater_drive": drive}))), ModelRequest(listed, traits())
            )
            for drive in ("steady", "pwm")
        }

    def median(self, fault: str, drive: str = "steady", **probe: Any) -> float:
        shown: Any = self.models[drive].displays(
            VoltageProbe(measure="voltage", key="running", codes_cleared=True, **probe)
        )
        return float(np.median(shown["value"].shown[self.rows[fault]]))

    def test_volts_at_the_plug(self) -> None:
        control = {"red": "harness.heater_control", "black": "battery.negative", "connector": "mated"}
        supply = {**control, "red": "harness.heater_supply"}
        for fault, probe, low, high, why in (
            ("", control, 0.0, 0.5, "a driven control wire is near ground"),
            ("heater-open", control, -0.01, 0.5, "battery on one, near 0 on the other: element open, driver on"),
            ("wire-open:heater_control", control, 12.5, 15, "battery voltage on both wires: no current flows"),
            ("wire-open:heater_supply", supply, -0.1, 0.5, "no supply"),
            ("", supply, 12.5, 15, "supply under the heater's own load"),
        ):
            with self.subTest(why):
                self.assertTrue(low <= self.median(fault, **probe) <= high)

    def test_no_draw_shows_more_than_the_battery_gives_whatever_is_open(self) -> None:
        names = [
            "heater-open",
            "fuse-blown",
            "relay-open",
            *(f"{kind}-open:{wire}" for kind in ("wire", "pin") for wire in HEATER),
        ]
        known = known_of(job_of(case(sensor=STEADY)))
        model = HeaterModel(known, ModelRequest([(), *((name,) for name in names), *combinations(names, 2)], traits()))
        plugs: Any = (
            ("running", "unplugged", "harness.heater_control"), ("running", "mated", "harness.heater_supply"),
            ("on", "unplugged", "harness.heater_supply"), ("off", "unplugged", "module.heater_control"),
        )  # fmt: skip
        for key, plug, red in plugs:
            with self.subTest(key=key, plug=plug, red=red):
                probe = VoltageProbe(measure="voltage", red=red, black="battery.negative", key=key, connector=plug)
                displays: Any = model.displays(probe)
                shown = displays["value"].shown
                self.assertLess(float(np.nanmax(np.abs(shown))), 15.5)

    def test_an_unloaded_supply_lies_and_a_lamp_tells(self) -> None:
        bare = {"red": "harness.heater_supply", "black": "battery.negative", "connector": "unplugged"}
        self.assertGreater(self.median("supply-high", **bare), 13.0)
        self.assertLess(self.median("supply-high", load="lamp", **bare), 12.9)

    def test_a_multimeter_on_pwm_reads_the_average(self) -> None:
        average = self.median("", "pwm", red="harness.heater_control", black="battery.negative", connector="mated")
        self.assertTrue(2.0 < average < 11.0, average)
