"""Of which family a sensor is taken to be where nobody said so, and what told."""

from typing import Any
from unittest import TestCase

from dianoia.case.job import job_of
from dianoia.diagnosis.verdict.diagnose import diagnose
from tests.cases import BATTERY, ELEMENT, case

FRONT: dict[str, Any] = {"bank": 1, "position": 1}
LOOK = {"measure": "scan", "pid": "sensor_voltage", "key": "running", "value": "0.1..0.85 V", "moves": "switching"}
LAMBDA = {"measure": "scan", "pid": "lambda", "key": "running", "value": "1.0"}
OPEN_PLUG = {"measure": "voltage", "red": "harness.signal", "black": "battery.negative", "key": "on", "connector": "unplugged", "value": "3.3 V"}  # fmt: skip


def ohms(value: str) -> dict[str, Any]:
    """The element, cold."""
    return {**ELEMENT, "value": value}


class TakenFor(TestCase):
    """Code, what is known of the sensor, readings, the family, and what is said to have told it."""

    def test_what_tells_it(self) -> None:
        for why, code, sensor, readings, family, says in (
            ("nothing yet: the usual kind", "P0135", FRONT, (), "switching-4w", "the usual kind for this code"),
            ("a heater of 1.3 ohm", "P0135", FRONT, (ohms("1.3 ohm"),), "airfuel-4w", "its heater measures 1.3 ohm (reading 2)"),
            ("one of 6 ohm tells little", "P0135", FRONT, (ohms("6 ohm"),), "switching-4w", ""),
            ("an open one nothing", "P0135", FRONT, (ohms("OL"),), "switching-4w", ""),
            ("its heater's data", "P0135", {**FRONT, "heater_ohms_20c": [1.4, 1.9]}, (), "airfuel-4w", "its heater measures"),
            ("a lambda", "P0134", FRONT, (LAMBDA,), "airfuel-4w", "the scan tool gives lambda"),
            ("a wire held at 3.3 V", "P0131", FRONT, (OPEN_PLUG,), "airfuel-4w", "its signal stands at 3.3 V"),
            ("the bias of a switching module", "P0131", FRONT, (ohms("1.8 ohm"), {**OPEN_PLUG, "value": "0.45 V"}), "switching-4w", "its signal shows 0.45 V (reading 3)"),
            ("a cell that switches", "P0131", FRONT, (LOOK,), "switching-4w", "its signal shows 0.1 to 0.85 V (reading 2)"),
            ("a pump wire", "P0135", FRONT, ({**OPEN_PLUG, "red": "harness.pump", "value": "2.6 V"},), "wideband-5w", "its signal stands at 2.6 V"),
            ("behind the catalyst it switches", "P0141", {"bank": 1, "position": 2}, (ohms("1.3 ohm"),), "switching-4w", ""),
            ("it was said", "P0135", {**FRONT, "family": "switching-4w"}, (ohms("1.3 ohm"),), "switching-4w", ""),
        ):  # fmt: skip
            with self.subTest(why):
                verdict = diagnose(case(BATTERY, *readings, code=code, sensor=sensor))
                self.assertEqual(verdict.family, family)
                self.assertIn(says, verdict.family_why)
                told = "family" not in sensor and sensor["position"] == 1
                self.assertEqual(bool(verdict.family_why), told)

    def test_a_sound_heater_of_an_air_fuel_sensor_is_no_fault(self) -> None:
        found = diagnose(case(BATTERY, ohms("1.7 ohm"), LAMBDA, code="P0135", sensor=FRONT))
        chance = {item.fault: item.probability for item in found.suspects}
        self.assertLess(chance["heater-short"] + chance["heater-low"], 0.1)

    def test_a_wire_keeps_its_reading_under_its_other_name(self) -> None:
        job = job_of(case(BATTERY, LAMBDA, OPEN_PLUG, code="P0131", sensor=FRONT))
        self.assertEqual(job.readings[2].probe.points[0], "harness.cell_positive")
