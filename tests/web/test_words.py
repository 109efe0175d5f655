"""The names of fields as the front end says them."""

from tests.web.modules import ModuleTestCase


class Words(ModuleTestCase):
    """web/src/shared/words.ts."""

    module = "/src/shared/words.ts"

    def test_a_field_is_found_by_a_person(self) -> None:
        for field, says in (
            ("readings[3].sensor_c", "Reading 4, element temperature:"),
            ("readings[0].value.min", "Reading 1, min:"),
            ("codes[0].code", "Code:"),
            ("sensor.heater_ohms_20c[1]", "Heater at 20 °C:"),
            ("readings", "Readings:"),
            ("", ""),
        ):
            self.assertEqual(self.call("plainField", field), says)
