"""What modules look like: whether all is as it was, and what has moved, found out without a session."""

import sys
import textwrap
import types
import unittest
from collections import OrderedDict
from typing import Any
from unittest.mock import patch

from wornpage.session.python import effects, versions
from wornpage.session.python.looks import Look, Looks
from wornpage.session.python.registries import tables_of


def module(name: str, **names: Any) -> Any:
    """A module that is loaded for as long as the test lasts."""
    made: Any = types.ModuleType(name)
    vars(made).update(names)
    sys.modules[name] = made
    return made


class OneGo(unittest.TestCase):
    def setUp(self) -> None:
        self.kind: Any = type("Kind", (), {"area": len})
        self.module = module("alook", size=1, table={"a": 1}, Kind=self.kind)
        self.addCleanup(sys.modules.pop, "alook", None)
        self.looks = Looks()
        attributes = [(self.kind, dict(self.kind.__dict__))]
        self.looks["alook"] = self.module, Look(dict(self.module.__dict__), attributes, {})

    def test_nothing_has_moved(self) -> None:
        self.assertTrue(self.looks.unmoved())
        self.module.table["b"] = 2  # what is in tables is looked into elsewhere
        self.assertTrue(self.looks.unmoved())

    def test_each_way_of_moving_something_is_seen(self) -> None:
        ways = {
            "another value": lambda: setattr(self.module, "size", 2),
            "an equal value that is another": lambda: setattr(self.module, "table", {"a": 1}),
            "a new name": lambda: setattr(self.module, "more", 1),
            "a name that is gone": lambda: delattr(self.module, "table"),
            "two names that changed places": lambda: vars(self.module).update(size=self.module.table, table=1),
            "another name for the last": lambda: vars(self.module).update(Sort=vars(self.module).pop("Kind")),
            "a method of a class": lambda: setattr(self.kind, "area", max),
            "a new attribute of a class": lambda: setattr(self.kind, "shout", max),
            "another module under its name": lambda: module("alook", **vars(self.module)),
            "no module under its name": lambda: sys.modules.pop("alook"),
        }
        for way, act in ways.items():
            with self.subTest(way):
                self.setUp()
                self.assertTrue(self.looks.unmoved())
                act()
                self.assertFalse(self.looks.unmoved())

    def test_what_is_compared_follows_what_is_known(self) -> None:
        self.module.size = 2
        self.looks["alook"] = self.module, Look(dict(self.module.__dict__), [], {})
        self.assertTrue(self.looks.unmoved())
        other = module("alook2", size=1)
        self.addCleanup(sys.modules.pop, "alook2", None)
        self.looks["alook2"] = other, Look(dict(other.__dict__), [], {})
        other.size = 3
        self.assertFalse(self.looks.unmoved())
        self.looks.forget("alook2")
        self.assertTrue(self.looks.unmoved())
        self.module.size = 9
        self.looks.renew("alook", "size")
        self.assertTrue(self.looks.unmoved())
        self.looks.forget()
        self.assertEqual(len(self.looks), 0)


class Tables(unittest.TestCase):
    """Tables within a module of the standard library."""

    def setUp(self) -> None:
        self.module = module("textwrap", plain={"a": 1}, row=[1], some={1}, ordered=OrderedDict(a=1, b=2), fixed=(1,))
        self.addCleanup(sys.modules.__setitem__, "textwrap", textwrap)
        self.looks = Looks()
        self.looks["textwrap"] = self.module, Look(vars(self.module).copy(), [], tables_of("textwrap", self.module))

    def test_each_way_of_changing_one_is_seen(self) -> None:
        ways = {
            "another value": lambda: self.module.plain.update(a=2),
            "a new entry": lambda: self.module.plain.update(b=2),
            "another item": lambda: self.module.row.append(2),
            "another member": lambda: self.module.some.add(2),
            "another order": lambda: self.module.ordered.move_to_end("a"),
        }
        for way, act in ways.items():
            with self.subTest(way):
                self.setUp()
                self.assertEqual(self.looks.moved_tables(), [])
                self.assertEqual(self.looks.moved_tables(), [])
                act()
                self.assertEqual(self.looks.moved_tables(), ["textwrap"])
                self.assertEqual(self.looks.moved_tables(), ["textwrap"])

    def test_what_is_set_back_has_not_moved(self) -> None:
        self.assertEqual(self.looks.moved_tables(), [])
        self.module.plain["a"] = 5
        self.module.plain["a"] = 1
        self.assertEqual(self.looks.moved_tables(), [])


class _WithoutNumbers(unittest.TestCase):
    """Where this Python numbers no changes."""

    def setUp(self) -> None:
        without = patch.object(versions, "are_told", lambda: False)
        without.start()
        self.addCleanup(without.stop)
        super().setUp()


class OneGoWithoutNumbers(_WithoutNumbers, OneGo):
    """The same there."""


class TablesWithoutNumbers(_WithoutNumbers, Tables):
    """The same there."""


class Effects(unittest.TestCase):
    """What a chunk has left behind, in words."""

    def setUp(self) -> None:
        def spread() -> int:
            return 1

        self.module = module(
            "alibrary2", spread=spread, table=[1], _cache={}, limit=5, __file__="/usr/lib/alibrary2.py"
        )
        self.addCleanup(sys.modules.pop, "alibrary2", None)
        self.watch = effects.Watch(anew=True)

    def test_each_change_is_told_by_its_name(self) -> None:
        for name, value in (("spread", len), ("limit", 6), ("added", 1)):
            with self.subTest(name):
                self.setUp()
                setattr(self.module, name, value)
                self.assertEqual(self.watch.left_behind(), f"it changed alibrary2.{name}")

    def test_what_libraries_do_for_themselves_is_no_change(self) -> None:
        for what, act in {
            "a cache": lambda: self.module._cache.update(a=1),
            "a private value": lambda: setattr(self.module, "_state", 3),
            "an equal constant": lambda: setattr(self.module, "limit", int("5")),
            "a module within it": lambda: setattr(self.module, "part", types.ModuleType("alibrary2.part")),
        }.items():
            with self.subTest(what):
                act()
                self.assertEqual(self.watch.left_behind(), "")

    def test_a_private_function_that_is_replaced_is_a_patch(self) -> None:
        self.module._draw = lambda: 1
        watch = effects.Watch(anew=True)
        self.module._draw = lambda: 2
        self.assertEqual(watch.left_behind(), "it changed alibrary2._draw")

    def test_public_tables_count_for_code_that_names_the_library(self) -> None:
        self.module.table.append(2)
        self.assertEqual(self.watch.left_behind(), "")
        self.assertEqual(self.watch.left_behind(named=frozenset({"alibrary2"})), "it changed alibrary2.table")

    def test_what_was_put_into_a_library_is_a_root_from_then_on(self) -> None:
        held = [1]
        self.module.added = held
        self.watch.left_behind()
        self.addCleanup(effects._hung.clear)
        self.assertIs(effects.roots()["alibrary2.added"], held)
        before = effects.hung_now()
        held.append(2)
        self.assertEqual(effects.changed_among(before), "alibrary2.added")
