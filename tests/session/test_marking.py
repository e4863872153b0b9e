"""Code of the page that tells what it does to things of libraries: attributes, tables, setters; and that is no other code for it."""

import ast
import gc
import json
import logging
import sys
import traceback
import types
import unittest
import warnings
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any
from unittest import mock

from wornpage.session.python import attributes, setters
from wornpage.session.python.held import place_of
from wornpage.session.python.marking import compile_telling


def run(code: str, **names: Any) -> dict[str, Any]:
    """The names after code of a page has run."""
    space: dict[str, Any] = {"__name__": "__main__", "json": json, **names}
    exec(compile_telling(ast.parse(code), "chunk:c", "exec"), space)
    return space


@contextmanager
def library(**held: Any) -> Iterator[types.ModuleType]:
    """A library that is installed for a while."""
    module = types.ModuleType("worn_shelves")
    module.__dict__.update(held)
    sys.modules["worn_shelves"] = module
    try:
        yield module
    finally:
        del sys.modules["worn_shelves"]


class Marked(unittest.TestCase):
    """What is done and said stays the same."""

    def test_code_does_what_it_did(self) -> None:
        code = (
            "class A:\n    def __init__(self): self.n = 0\n    @staticmethod\n    def put(o, v): o.n = v\n"
            "a = A()\na.n += 2\nA.put(a, a.n * 2)\nsetattr(a, 'm', 3)\na.__dict__['k'] = 4\nvars(a).update(j=5)\ndelattr(a, 'm')\n"
            "for a.i in (1, 2): pass\na.x, (a.y, *a.z) = 1, (2, 3, 4)\ndel a.k\ndef set_all(o): return vars(o)\nfound = set_all(a)\n"
        )
        self.assertEqual(run(code)["found"], {"n": 4, "j": 5, "i": 2, "x": 1, "y": 2, "z": [3, 4]})

    def test_errors_have_the_lines_and_columns_of_the_code(self) -> None:
        for code, column, end in (
            ("x = 1\nx.y.z = 2", 0, 3), ("(3).real = 2", 0, 8), ("json.set_it(\n    1)", 0, 11), ("setattr(3, 'a', 1)", 0, 18),
        ):  # fmt: skip
            with self.subTest(code):
                try:
                    run(code)
                except AttributeError as error:
                    frames = [one for one in traceback.extract_tb(error.__traceback__) if one.filename == "chunk:c"]
                self.assertEqual([(one.colno, one.end_colno) for one in frames], [(column, end)])


class Whole(unittest.TestCase):
    def test_the_standard_library_compiles_to_the_same_functions(self) -> None:
        for path in sorted(Path(traceback.__file__).parent.glob("*.py"))[::3]:
            with warnings.catch_warnings(), self.subTest(path.name):
                warnings.simplefilter("ignore")
                text = path.read_text("utf-8")
                marked = compile_telling(ast.parse(text), path.name, "exec")
                self.assertEqual(_functions(marked), _functions(compile(text, path.name, "exec", dont_inherit=True)))


def _functions(code: types.CodeType) -> list[tuple[object, ...]]:
    """Of all that is in code: its name, line, arguments, and what it says of itself."""
    own = (
        code.co_name,
        code.co_firstlineno,
        code.co_varnames[: code.co_argcount],
        code.co_consts[:1] if code.co_flags & 2 and code.co_consts and isinstance(code.co_consts[0], str) else (),
    )
    return [own, *(one for inner in code.co_consts if isinstance(inner, types.CodeType) for one in _functions(inner))]


class Attributes(unittest.TestCase):
    """Things of libraries that are given attributes."""

    def setUp(self) -> None:
        attributes.noter.begin_chunk()
        self.addCleanup(attributes._hung.clear)
        self.addCleanup(json.dumps.__dict__.clear)

    def left(self, code: str, reached: set[int] | None = None, **names: Any) -> str:
        space = run(code, **names)
        return attributes.left(space, lambda: reached)

    def test_functions_classes_and_objects_that_are_had_by_name(self) -> None:
        logger = logging.getLogger("worn.test")
        self.addCleanup(vars(logger).pop, "room", None)
        for code, words in (
            ("json.dumps.calls = 1", "json.dumps.calls"),
            ("setattr(json.dumps, 'calls', 1)", "json.dumps"),
            ("logger.room = 2", "logging.Logger 'worn.test'.room"),
            ("def f(one): one.calls = 2\nf(json.dumps)", "json.dumps.calls"),
            ("vars(json.dumps)['calls'] = 3", "json.dumps"),
        ):
            attributes.noter.begin_chunk()
            with self.subTest(code):
                self.assertIn(words, self.left(code, set(), logger=logger))
        self.assertEqual(dict(attributes.hung())["json.dumps.calls"], 3)

    def test_what_the_pages_names_hold_is_the_pages(self) -> None:
        for code in (
            "class A: pass\nA.x = A().y = 1\ndef f(): pass\nf.n = 1",
            "import argparse\none = argparse.Namespace()\none.x = 1",
            "import types\none = types.SimpleNamespace()\none.x = 1",
            "json.more = 1\ndel json.more",
        ):
            with self.subTest(code):
                self.assertEqual(self.left(code, set()), "")

    def test_what_goes_with_the_chunk_is_nothing_left(self) -> None:
        self.assertEqual(
            self.left("import argparse\ndef f():\n    one = argparse.Namespace()\n    one.me = one\nf()", set()), ""
        )
        kept = []
        self.assertIn(
            "argparse.Namespace",
            self.left(
                "import argparse\none = argparse.Namespace()\none.x = 1\nkept.append(one)\ndel one", set(), kept=kept
            ),
        )
        gc.collect()

    def test_tables_and_slots_that_a_library_holds(self) -> None:
        class Slotted:
            __slots__ = ("x",)

        with library(table={"a": [1]}, one=Slotted(), own=[]) as shelves:
            shelves.one.x = 1
            for code, words in (
                ("shelves.table['b'] = 1", "a table of worn_shelves"), ("shelves.own.append(1)", "a table of worn_shelves"),
                ("shelves.one.x = 2", "Slotted"), ("shelves.table['a'] = shelves.table['a']", ""), ("x = shelves.table['a']", ""),
            ):  # fmt: skip
                attributes.noter.begin_chunk()
                with self.subTest(code):
                    found = self.left(code, set(), shelves=shelves)
                    self.assertTrue(words in found if words else not found, found)

    def test_a_table_is_found_where_its_library_holds_it(self) -> None:
        with library(table={"a": 1}) as shelves:
            place = ("worn_shelves", "table")
            self.assertEqual(place_of("t", shelves.table, "from worn_shelves import table as t"), place)
            self.assertEqual(place_of("t", shelves.table, "import worn_shelves\nt = worn_shelves.table  # so"), place)
            self.assertEqual(place_of("t", shelves.table, "t = tables()[0] if x else None"), place)
            self.assertIsNone(place_of("t", {"a": 1}, "from worn_shelves import table as t"))


class Setters(unittest.TestCase):
    """Calls that set something in a library."""

    def setUp(self) -> None:
        setters.begin_chunk()
        self.addCleanup(setters.begin_chunk)

    def changed(self, code: str, body: str) -> str:
        """What is told of code that uses a library with this body."""
        with library() as shelves:
            exec(body, shelves.__dict__)
            with suppress(ValueError):
                run(code, shelves=shelves)
            return setters.changed()

    def test_what_a_setter_has_changed_is_told(self) -> None:
        table = "t = {}\ndef set_it(v):\n    t['k'] = v\n"
        for body, code in (
            (table, "shelves.set_it(1)"),
            ("n = 0\ndef use_more():\n    global n\n    n += 1\n", "shelves.use_more()"),
            (
                "class A: pass\ndef register(name):\n    return lambda kind: setattr(A, name, kind)\n",
                "@shelves.register('own')\nclass B: pass",
            ),
            (
                "class A:\n    t = {}\ndef add_kind(f):\n    A.t[f.__name__] = f\n    return f\n",
                "@shelves.add_kind\ndef f(): pass",
            ),
            ("class A:\n    def enable(self, v): self.v = v\na = A()\n", "shelves.a.enable(3)"),
            ("from threading import local\nl = local()\ndef set_it(v): l.v = v\n", "shelves.set_it(3)"),
            (
                "from contextvars import ContextVar\nc = ContextVar('c')\ndef set_it(v): c.set(v)\n",
                "shelves.set_it(object())",
            ),
            (table + "def set_wrong():\n    t['k'] = 1\n    raise ValueError\n", "shelves.set_wrong()"),
            (table + "def make(): return 3", "shelves.set_it(shelves.make())"),
        ):
            setters.begin_chunk()
            with self.subTest(body):
                self.assertIn("worn_shelves", self.changed(code, body))

    def test_what_sets_nothing_is_not(self) -> None:
        for body, code in (
            ("t = {}\ndef set_it(v): t['k'] = v\n", "shelves.set_it"),
            ("t = {}\ndef get(v): t[v] = v\n", "shelves.get(1)"),  # what a library remembers for speed
            ("t = {'k': 1}\ndef set_it(v): t['k'] = v\n", "shelves.set_it(1)"),
            ("class A:\n    def set_it(self, v): self.v = v\n", "a = shelves.A()\na.set_it(3)"),
            ("def add_all(v): return [v]\n", "x = shelves.add_all(3)\ns = set()\ns.add(1)"),
            ("", "def set_it(v): return v\nset_it(3)"),
            (
                "",
                "class P:\n    def __getattr__(self, name): raise ValueError(name)\n    def __call__(self): return 3\nset_it = P()\nfound = set_it()",
            ),
        ):
            setters.begin_chunk()
            with self.subTest(body):
                self.assertEqual(self.changed(code, body), "")

    def test_the_page_itself_is_not_looked_through(self) -> None:
        class Page(types.ModuleType):
            @property
            def __dict__(self) -> dict[str, Any]:  # type: ignore[override]
                raise AssertionError("every name of the page would count as read")

        page = Page("__main__")
        with mock.patch.dict(sys.modules, {"__main__": page}):
            run("class A:\n    def set_it(self, v): self.v = v\na = A()\na.set_it(3)")
        self.assertEqual(setters.changed(), "")

    def test_names_that_set_something(self) -> None:
        for name in (
            "set_config",
            "register",
            "disable_max_rows",
            "setLevel",
            "useTheme",
            "add_constructor",
            "seterr",
            "config",
        ):
            self.assertTrue(setters.looks_like_one(name), name)
        for name in ("settle", "address", "add", "reuse", "get", "asset", "user"):
            self.assertFalse(setters.looks_like_one(name), name)


if __name__ == "__main__":
    unittest.main()
