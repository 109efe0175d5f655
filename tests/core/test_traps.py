"""When a warning is not given, and the warnings about the job as a whole."""

from typing import Any, get_args
from unittest import TestCase

from dianoia.diagnosis.verdict.diagnose import diagnose
from dianoia.diagnosis.verdict.types import WarningName
from tests.cases import BATTERY, ELEMENT, LOADED, OPEN_ELEMENT, STEADY, SUPPLY, case

PWM = {**STEADY, "heater_drive": "pwm"}
CONTROL = {**SUPPLY, "red": "harness.heater_control"}
GOOD = {**ELEMENT, "value": "5.6"}
NOX = {"measure": "scan", "key": "running", "at_s": 900}
TWO_BANKS = {"label": "Ambulance 1", "year": 2012, "engine": {"cylinders": 6, "layout": "v", "sensor_banks": 2}}


def warned(*readings: dict[str, Any], **fields: Any) -> dict[str, str]:
    verdict = diagnose(case(*readings, **fields))
    return {item.warning: item.says for item in verdict.warnings}


class Silence(TestCase):
    """A warning that is always given is wallpaper."""

    def test_traps_that_were_not_walked_into(self) -> None:
        for why, warning, readings, fields in (
            ("a steady drive averages nothing", "pwm-average", [{**CONTROL, "value": "0.2"}], {"sensor": STEADY}),
            ("the supply side is not pulsed", "pwm-average", [SUPPLY], {"sensor": PWM}),
            ("a lamp was on the feed", "unloaded-supply", [BATTERY, LOADED], {"sensor": STEADY}),
            ("a cold element with its temperature", "hot-resistance", [GOOD], {"sensor": STEADY}),
            ("OL is OL at any temperature", "hot-resistance", [{**ELEMENT, "sensor_c": "hot"}], {"sensor": STEADY}),
            ("ohms with the key off", "meter-on-live-circuit", [GOOD], {"sensor": STEADY}),
            ("charging", "low-battery", [BATTERY], {"sensor": STEADY}),
            ("24 V is no low 12 V", "low-battery", [{**BATTERY, "value": "27.4"}], {"vehicle": {"label": "P", "system_voltage": 24}}),
            ("the heater is driven", "heater-latched-off", [BATTERY, {**CONTROL, "value": "0.2", "codes_cleared": True}], {"sensor": STEADY}),
            ("two readings that agree", "readings-contradict", [GOOD, GOOD], {"sensor": STEADY}),
            ("one fault explains it", "two-faults", OPEN_ELEMENT, {"sensor": STEADY}),
            ("the heater's own terminals", "ohms-on-cell", [GOOD], {"sensor": STEADY}),
            ("dry after a quarter of an hour", "dew-point-wait", [{**NOX, "pid": "nox", "value": "20"}], {"code": "P225F"}),
            ("little NOx behind the SCR", "ammonia-cross-sensitivity", [{**NOX, "pid": "nox", "value": "8"}], {"code": "P225F"}),
            ("the code and the readings agree", "code-evidence-mismatch", OPEN_ELEMENT, {"sensor": STEADY}),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertNotIn(warning, warned(*readings, **fields))

    def test_a_struck_reading_warns_of_nothing(self) -> None:
        self.assertNotIn("low-battery", warned({**BATTERY, "value": "9.8", "struck": "misread"}, sensor=STEADY))


class WholeJob(TestCase):
    """Warnings that belong to no single reading."""

    def test_about_the_job(self) -> None:
        both = [{"code": "P0135"}, {"code": "P0155"}]
        for why, warning, readings, fields in (
            ("two heaters on one fuse", "common-cause", [], {"codes": both}),
            ("a vehicle without a monitor", "no-heater-monitor", [], {"sensor": {**STEADY, "heater_monitor": False}}),
            ("a specification stands in for the vehicle's", "generic-spec", [SUPPLY], {}),
            ("the other bank's twin", "twin-same-age", OPEN_ELEMENT,
             {"sensor": STEADY, "vehicle": TWO_BANKS}),
        ):  # fmt: skip
            with self.subTest(why):
                self.assertIn(warning, warned(*readings, **fields))

    def test_no_common_cause_behind_two_codes_of_one_sensor(self) -> None:
        self.assertNotIn("common-cause", warned(codes=[{"code": "P0135"}, {"code": "P0135", "status": "pending"}]))

    def test_every_warning_says_what_to_do_about_its_own_value(self) -> None:
        said = warned(
            {**BATTERY, "value": "11.1"},
            {**CONTROL, "value": "4.1"},
            {**ELEMENT, "sensor_c": "hot", "value": "18"},
            sensor=PWM,
        )
        self.assertIn("11.1 V", said["low-battery"])
        self.assertTrue(set(said) <= set(get_args(WarningName)))
        for text in said.values():
            self.assertGreater(len(text), 40, text)
