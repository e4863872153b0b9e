"""Settings that libraries keep within their modules: what counts as a change, and what is only remembered for speed."""

import contextvars
import random
import sys
import threading
import types
import unittest
from typing import Any

from wornpage.session.python import switches


class Options:
    """What a library might keep its options in."""

    __slots__ = ("_options", "wide")

    def __init__(self) -> None:
        self.wide = False
        self._options: dict[str, object] = {"rows": 10}


class Switches(unittest.TestCase):
    def setUp(self) -> None:
        Options.__module__ = "alibrary.options"
        self.module: Any = types.ModuleType("alibrary")
        self.addCleanup(sys.modules.pop, "alibrary")
        sys.modules["alibrary"] = self.module
        self.module.defaults = {"rows": 10, "colour": "red", "nested": {"deep": 1}}
        self.module.options = Options()
        self.module.local = threading.local()
        self.module.variable = contextvars.ContextVar("of alibrary", default=1)
        self.module.cache = {"one": 1}
        self.module._call_count = {"calls": 0}
        switches.take()

    def tearDown(self) -> None:
        switches.take()

    def changed_by(self, act: Any) -> str:
        """What is told after something was done."""
        switches.take()
        act()
        return switches.changed()

    def test_nothing_done_is_nothing_changed(self) -> None:
        self.assertEqual(self.changed_by(lambda: None), "")

    def test_values_that_change_under_their_names_are_settings(self) -> None:
        module = self.module
        for act, where in (
            (lambda: module.defaults.update(rows=20), "defaults"),
            (lambda: module.defaults["nested"].update(deep=2), "defaults"),
            (lambda: module.defaults.update(colour=1), "defaults"),
            (lambda: setattr(module.options, "wide", True), "options"),
            (lambda: module.options._options.update(rows=None), "options"),
            (lambda: module.options._options.update(columns=3), "options"),
            (lambda: module.options._options.update(lines=module.options._options.pop("columns")), "options"),
            (lambda: module.variable.set(2), "variable"),
        ):
            with self.subTest(where):
                self.assertEqual(self.changed_by(act), f"alibrary.{where}")

    def test_what_grows_or_counts_is_none(self) -> None:
        module = self.module
        self.assertEqual(self.changed_by(lambda: module.cache.update(two=2)), "")
        self.assertEqual(self.changed_by(lambda: module._call_count.update(calls=9)), "")

    def test_a_threads_own_copy_counts_where_it_differs_from_what_it_is_made_of(self) -> None:
        local = self.module.local
        self.assertEqual(self.changed_by(lambda: setattr(local, "held", dict(self.module.defaults))), "")
        del local.held
        other = {**self.module.defaults, "colour": "blue"}
        self.assertEqual(self.changed_by(lambda: setattr(local, "held", other)), "alibrary.local")

    def test_a_generator_that_a_library_holds_moves_on(self) -> None:
        self.module.options.wide = random.Random(3)
        self.assertEqual(self.changed_by(self.module.options.wide.random), "alibrary.options")
