"""Examples in docstrings hold."""

from __future__ import annotations

import doctest
import importlib
import pkgutil
import unittest
from pathlib import Path

import juniper

APART = ("juniper.training", "juniper.camera", "juniper.evaluation")  # work on the core, not in it


def load_tests(loader, tests, pattern):
    """Every module of the core that has an example, as a suite."""
    for found in pkgutil.walk_packages(juniper.__path__, "juniper."):
        if ".tests" in found.name or found.name.startswith(APART):
            continue
        module = importlib.import_module(found.name)
        if ">>>" in Path(module.__file__).read_text():
            tests.addTests(doctest.DocTestSuite(module))
    return tests


class Examples(unittest.TestCase):
    def test_there_are_examples(self):
        finder = doctest.DocTestFinder()
        module = importlib.import_module("juniper.rules.band")
        self.assertTrue([t for t in finder.find(module) if t.examples])
