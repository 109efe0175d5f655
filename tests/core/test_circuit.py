"""The solver against hand-computed networks, and the laws that must hold on all of them."""

from itertools import combinations
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from dianoia.case.job import job_of
from dianoia.case.ledger import VoltageProbe
from dianoia.case.setting import Setting
from dianoia.circuit.draws import Draws
from dianoia.circuit.heater import OFF, ON, HeaterLoop, HeaterVariant
from dianoia.circuit.known import Known, known_of
from dianoia.circuit.network import Network, UnknownPlace
from dianoia.circuit.respond import respond
from dianoia.circuit.sums import at_20c, duty_from, heater, pwm_average, resistance_from
from dianoia.diagnosis.faults.hypotheses import traits
from dianoia.errors import RefusedInput
from dianoia.readings.circuit_model import Asked
from dianoia.readings.heater_model import HeaterModel
from tests.cases import STEADY, case

OHMS = st.floats(0.1, 1e6)


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
        self.assertAlmostEqual(float(solved.value[0, 0]), -float(solved.value[0, 1]), places=9)

    def test_a_balanced_bridge_carries_nothing(self) -> None:
        net = divider(100.0, 200.0)
        net.branch("left", "a", "c", 50.0)
        net.branch("right", "c", "n", 100.0)
        net.branch("bridge", "b", "c", 10.0)
        self.assertAlmostEqual(float(net.solve([net.through("bridge")]).value[0, 0]), 0.0, places=9)

    def test_an_unknown_place_is_said(self) -> None:
        with self.assertRaises(UnknownPlace):
            divider(1.0, 1.0).across("b", "nowhere")

    def test_every_fault_and_pair_stepped_by_ports_equals_a_fresh_solve(self) -> None:
        variant = HeaterVariant(Known("switching-4w"), "low-side", Draws(count=6))
        for phase in (ON, OFF):
            circuit = HeaterLoop(variant).circuit(Setting(key="running"), phase)
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
            rows = {*range(0, len(listed), 7), *(row for row, names in enumerate(listed) if short in names)}
            for row in rows:
                with self.subTest(faults=listed[row], phase=phase):
                    value, source = fresh(circuit, listed[row], probe)
                    np.testing.assert_allclose(stepped.value[row, 0], value, atol=2e-4)
                    np.testing.assert_allclose(stepped.source[row, 0], source, rtol=2e-4, atol=2e-4)


def fresh(circuit, faults, probe):
    """The probe's value, and the source resistance behind it, with the faults built into the matrix itself."""
    network = circuit.network
    base = network.solve([*[c.port for f in faults for c in circuit.effects[f].changes], probe])
    value, response = base.value.copy(), base.response.copy()
    strengths = [c for f in faults for c in circuit.effects[f].changes]
    if not strengths:
        return value[:, -1], response[:, -1, -1]
    count = len(strengths)
    signed = np.stack([-c.strength if c.port.in_series else c.strength for c in strengths], axis=1)
    matrix = np.eye(count)[None] + response[:, :count, :count] * signed[:, None, :]
    inner = np.linalg.solve(matrix, np.stack([value[:, :count], response[:, :count, -1]], axis=2))
    changed = np.einsum("dk,dkm->dm", response[:, -1, :count] * signed, inner)
    return value[:, -1] - changed[:, 0], response[:, -1, -1] - changed[:, 1]


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

    @classmethod
    def setUpClass(cls) -> None:
        names = ["heater-open", "wire-open:heater_supply", "wire-open:heater_control", "supply-high"]
        listed = [(), *((name,) for name in names)]
        cls.rows = {h[0] if h else "": row for row, h in enumerate(listed)}
        cls.models = {
            drive: HeaterModel(
                known_of(job_of(case(sensor={**STEADY, "heater_drive": drive}))), Asked(listed, traits())
            )
            for drive in ("steady", "pwm")
        }

    def median(self, fault: str, drive: str = "steady", **probe: object) -> float:
        shown = self.models[drive].displays(VoltageProbe(measure="voltage", key="running", codes_cleared=True, **probe))
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

    def test_an_unloaded_supply_lies_and_a_lamp_tells(self) -> None:
        bare = {"red": "harness.heater_supply", "black": "battery.negative", "connector": "unplugged"}
        self.assertGreater(self.median("supply-high", **bare), 13.0)
        self.assertLess(self.median("supply-high", load="lamp", **bare), 12.9)

    def test_a_multimeter_on_pwm_reads_the_average(self) -> None:
        average = self.median("", "pwm", red="harness.heater_control", black="battery.negative", connector="mated")
        self.assertTrue(2.0 < average < 11.0, average)


class Stepping(TestCase):
    """From one solved network to a like one."""

    @given(st.floats(0.05, 50.0), st.floats(1.0, 1e9), st.floats(1.0, 1e9), st.none() | st.floats(0.01, 10.0))
    def test_a_network_stepped_to_equals_one_solved_afresh(
        self, low: float, more_above: float, more_below: float, lead: float | None
    ) -> None:
        ports = [divider(1, 1).across("b", "n"), divider(1, 1).through("upper")]
        stepped, fresh = (
            self.bridged(divider(100.0 + more_above, low + more_below), lead).solve(ports, near)
            for near in (divider(100.0, low), None)
        )
        np.testing.assert_allclose(stepped.value, fresh.value, rtol=1e-5, atol=1e-9)
        np.testing.assert_allclose(stepped.response, fresh.response, rtol=1e-5, atol=1e-9)

    @staticmethod
    def bridged(network: Network, ohms: float | None) -> Network:
        if ohms is not None:
            network.bridge("a", "b", ohms)
        return network

    def test_a_lead_laid_across_is_a_resistance_in_parallel(self) -> None:
        solved = self.bridged(divider(100.0, 50.0), 100.0).solve([divider(1, 1).across("b", "n")])
        self.assertAlmostEqual(float(solved.value[0, 0]), 6.0, places=6)

    def test_less_resistance_than_before_is_solved_afresh(self) -> None:
        closed, opened = divider(100.0, 5.0), divider(100.0, 1e9)
        ports = [closed.across("b", "n")]
        self.assertAlmostEqual(
            float(closed.solve(ports, near=opened).value[0, 0]), float(closed.solve(ports).value[0, 0]), places=12
        )
