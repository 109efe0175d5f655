"""What was found at another sensor, and the job that it becomes; and what a job asks of the vehicle first."""

from unittest import TestCase

from dianoia.case.job import job_of
from dianoia.case.load import to_plain
from dianoia.diagnosis.verdict.diagnose import Diagnosis
from dianoia.errors import RefusedInput
from dianoia.visit.other_sensor import case_of_other, found_at_others
from tests.cases import BATTERY, ELEMENT, STEADY, SUPPLY, case

TWO_BANKS = {"label": "Bus 4", "engine": {"cylinders": 6, "sensor_banks": 2}}
OTHERS = {**ELEMENT, "of": "B2S1"}
NOX = {"family": "nox-can-4w", "bank": 1, "position": 2}


class OtherSensor(TestCase):
    """A bad reading of another sensor."""

    def test_a_bad_one_is_found_and_a_good_one_is_not(self) -> None:
        for value, found in (("OL", ["B2S1"]), ("6 ohm", [])):
            job = job_of(case({**OTHERS, "value": value}, sensor=STEADY, vehicle=TWO_BANKS))
            judged = Diagnosis(job, plan=False).verdict().judged
            self.assertEqual([item.address for item in found_at_others(job, judged)], found, value)

    def test_its_job_has_its_own_readings_the_battery_s_and_its_own_codes(self) -> None:
        struck = {**OTHERS, "value": "3 ohm", "struck": "wrong pin"}
        made = case(
            BATTERY,
            SUPPLY,
            ELEMENT,
            OTHERS,
            struck,
            sensor=STEADY,
            vehicle=TWO_BANKS,
            codes=[{"code": "P0135"}, {"code": "P0155"}],
        )
        plain = to_plain(case_of_other(made, "B2S1"))
        self.assertEqual(
            ([item["code"] for item in plain["codes"]], plain["sensor"]), (["P0155"], {"bank": 2, "position": 1})
        )
        self.assertEqual([(item["measure"], item["value"], item.get("of")) for item in plain["readings"]],
                         [("voltage", BATTERY["value"], None), ("resistance", ELEMENT["value"], None)])  # fmt: skip

    def test_what_is_no_sensor_of_the_vehicle_has_no_job(self) -> None:
        made = case({**ELEMENT, "of": "new"}, OTHERS, sensor=STEADY, vehicle=TWO_BANKS)
        for address in ("new", "B2S2", "B9S1", "", "B2S1x"):
            with self.assertRaises(RefusedInput, msg=address):
                case_of_other(made, address)


class AskedFirst(TestCase):
    """12 or 24 V, and which NOx sensor."""

    def test_a_reading_tells_24_v_and_until_then_it_is_asked(self) -> None:
        volts = {**BATTERY, "key": "on"}
        for vehicle, value, system_v, asks in (
            ({"label": "Plough", "fuel": "diesel"}, "12.6 V", 12.0, True),
            ({"label": "Plough", "fuel": "diesel"}, "25.1 V", 24.0, False),
            ({"label": "Plough", "fuel": "diesel", "system_voltage": 12}, "25.1 V", 12.0, False),
            ({"label": "Plough", "fuel": "diesel"}, "251 V", 12.0, True),
        ):
            job = job_of(case({**volts, "value": value}, code="P2201", sensor=NOX, vehicle=vehicle))
            self.assertEqual((job.system_v, job.asks_voltage), (system_v, asks), f"{vehicle} {value}")
        self.assertFalse(job_of(case(sensor=STEADY, vehicle={"label": "Bus 4", "fuel": "petrol"})).asks_voltage)

    def test_a_code_of_the_scr_alone_is_about_a_nox_sensor(self) -> None:
        for code in ("P20EE", "SPN 4364 FMI 18"):
            job = job_of(case(code=code, sensor={"bank": 1, "position": 2}))
            self.assertTrue(job.family.kind.unit, code)
