"""The house's own rules: sentences that are read once, names that mean one thing, fields that say what they are."""

import sys
from dataclasses import dataclass
from pathlib import Path
from unittest import TestCase

from dianoia.field_docs import dataclasses_of, describe, field_docs
from dianoia.schema import case_schema
from tests.tags import slow

_ROOT = Path(__file__).parents[2]
sys.path.insert(0, str(_ROOT / "scripts"))

from count import classes_twice  # noqa: E402 (found by the line above)
from sentences import LONGEST, Sentence, of_markdown, of_python, places, sentences  # noqa: E402

#: Core and store name the same thing on two floors.
BOTH_FLOORS = {"Job", "Workshop"}


@dataclass(frozen=True)
class Base:
    """Something."""

    volts: float
    """At the plug,
    in V."""
    plain: int


@dataclass(frozen=True)
class Derived(Base):
    """More of it."""

    with_: str = ""
    """Taken with."""


@slow  # it asks git which files there are
class Words(TestCase):
    """words.md, as far as a machine can count it."""

    def test_no_sentence_is_over_35_words_and_none_of_the_places_averages_over_20(self) -> None:
        for kind, found in places().items():
            with self.subTest(kind):
                self.assertEqual([f"{item.where}: {item.text}" for item in found if item.words > LONGEST], [])
                self.assertLess(sum(item.words for item in found) / len(found), 20)

    def test_a_class_name_means_one_thing(self) -> None:
        self.assertLessEqual(set(classes_twice()), BOTH_FLOORS)

    def test_sentences_are_counted_as_they_are_read(self) -> None:
        for text, counts in (
            ("One two. Three four five.", [2, 3]),
            ("A colon ends none: it goes on; so does this.", [10]),
            ("See e.g. the plug. Then read.", [4, 2]),
            ("One\nline two\n\nA paragraph ends it", [3, 4]),
            ("Values of 12.6 V and `make test` are words.", [8]),
            ("Alone", []),
        ):
            with self.subTest(text):
                self.assertEqual([item.words for item in sentences(text, "x")], counts)

    def test_tables_and_code_of_a_document_are_no_sentences(self) -> None:
        found = [item.text for item in of_markdown(_ROOT / "README.md")]
        self.assertFalse([text for text in found if text.startswith(("|", "make ", "#"))])

    def test_docstrings_and_comments_are(self) -> None:
        found = {item.text for item in of_python(Path(__file__))}
        self.assertIn("Core and store name the same thing on two floors.", found)
        self.assertIn("words.md, as far as a machine can count it.", found)
        self.assertIsInstance(next(iter(of_python(Path(__file__)))), Sentence)


class Fields(TestCase):
    """dianoia/field_docs.py."""

    def test_a_field_is_said_by_the_line_below_it_and_inherited(self) -> None:
        self.assertEqual(field_docs(Derived), {"volts": "At the plug, in V.", "with_": "Taken with."})

    def test_a_schema_is_given_what_it_does_not_say_itself(self) -> None:
        schemas = {"Derived": {"properties": {"volts": {}, "with": {"description": "own"}, "plain": {}}}, "Other": {}}
        describe(schemas, {"Derived": Derived})
        said = schemas["Derived"]["properties"]
        self.assertEqual(
            said, {"volts": {"description": "At the plug, in V."}, "with": {"description": "own"}, "plain": {}}
        )

    def test_the_published_case_file_says_its_units(self) -> None:
        found = case_schema()["$defs"]["VoltageReading"]["properties"]
        self.assertIn("1/min", found["rpm"]["description"])
        self.assertIn("°C", found["coolant_c"]["description"])

    def test_classes_are_those_of_the_packages_asked_for(self) -> None:
        found = dataclasses_of(["dianoia.case"])
        self.assertIn("Case", found)
        self.assertTrue(all(cls.__module__.startswith("dianoia.case.") for cls in found.values()))
