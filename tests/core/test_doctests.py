"""The examples in the docstrings of the core, and in its theory."""

import doctest
import pkgutil
from importlib import import_module
from pathlib import Path
from unittest import TestCase

import dianoia


class Examples(TestCase):
    """Every module of the core is looked through."""

    def test_every_example_shows_what_it_says(self) -> None:
        tried = 0
        for module in pkgutil.walk_packages(dianoia.__path__, "dianoia."):
            if module.name.endswith("__main__"):
                continue
            with self.subTest(module.name):
                result = doctest.testmod(import_module(module.name))
                tried += result.attempted
                self.assertEqual(result.failed, 0)
        self.assertGreater(tried, 10)

    def test_the_worked_examples_of_the_theory(self) -> None:
        paper = Path(__file__).parents[2] / "docs" / "theory.md"
        result = doctest.testfile(str(paper), module_relative=False)
        self.assertEqual(result.failed, 0)
        self.assertGreater(result.attempted, 20)
