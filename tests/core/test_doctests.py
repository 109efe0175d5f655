"""The examples in the docstrings of the core."""

import doctest
import pkgutil
from importlib import import_module
from unittest import TestLoader, TestSuite

import dianoia


def load_tests(loader: TestLoader, tests: TestSuite, pattern: str | None) -> TestSuite:
    """A test for every docstring with an example in it."""
    for module in pkgutil.walk_packages(dianoia.__path__, "dianoia."):
        if not module.name.endswith("__main__"):
            tests.addTests(doctest.DocTestSuite(import_module(module.name)))
    return tests
