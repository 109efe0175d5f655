"""The words of the front end cover what the core can say."""

from typing import get_args

from dianoia.case.terms import Condition, Style
from tests.web.modules import ModuleTestCase


class Words(ModuleTestCase):
    """web/src/model/words.ts."""

    module = "/src/model/words.ts"

    def test_every_condition_and_style_has_its_words(self) -> None:
        self.assertEqual(set(self.call("CONDITION")), set(get_args(Condition)) - {"none"})
        self.assertEqual({item["value"] for item in self.call("STYLE")}, set(get_args(Style)))

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
