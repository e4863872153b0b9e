"""Names that code uses before anything has written them: what is found, and above all what is not."""

import ast
import os
import unittest
from pathlib import Path

from tests.support import FolderCase
from wornpage.check import check_page
from wornpage.check.names import Reading

_MODULES = {"__file__", "__path__", "__spec__", "__loader__", "__package__", "__cached__", "__warningregistry__"}
"""What modules have and pages have not."""
_ODD = {"ssl", "turtle"}
"""They make names by code that cannot be read."""


def missing(code: str) -> tuple[list[str], list[str]]:
    """Names that are missing at once, and those that functions would miss when they are called."""
    reading = Reading()
    reading.read(ast.parse(code))
    later = [name for name, _, _ in reading.later if name not in reading.known | reading.gone]
    return [name for name, _, _ in reading.missing], later


class Names(unittest.TestCase):
    def test_the_standard_library_has_none(self) -> None:
        paths = sorted(Path(os.__file__).parent.glob("*.py"))
        self.assertGreater(len(paths), 100)
        for path in paths:
            reading = Reading(_MODULES)
            reading.read(ast.parse(path.read_bytes()))
            if reading.is_open or path.stem in _ODD:
                continue
            later = [use for use in reading.later if use[0] not in reading.known | reading.gone]
            self.assertEqual((path.stem, reading.missing, later), (path.stem, [], []))

    def test_what_is_there(self) -> None:
        for code in (
            "def f():\n    async def inner(): pass\n    return inner",
            "def f(x):\n    match x:\n        case [a, *b]: return a, b\n        case {'k': c, **d}: return c, d",
            "class A:\n    def m(self): return __class__",
            "from __future__ import annotations\nclass A:\n    b: A\n    c: list[B] = []",
            "def f():\n    x: Unknown = 1\n    return x",
            "try:\n    unicode\nexcept NameError:\n    unicode = str",
            "def f():\n    try:\n        get_ipython()\n    except NameError:\n        pass",
            "def once(x): return x\ndef f(): return once(1)\ny = f()\ndel once",
            "def f():\n    global np\n    import numpy as np\ndef g(): return np",
            "def f():\n    def a(): return b()\n    def b(): return 1\n    return a()",
            "x = [y for y in range(3) if (z := y)]\nz",
            "class A:\n    n = 1\n    m = [n for _ in range(3)]",
            "for i in range(3): pass\nelse: i\ni",
            "with open('x') as (a, b): a, b",
            "def f(a, /, b, *c, d=1, **e): return a, b, c, d, e",
        ):
            with self.subTest(code):
                self.assertEqual(missing(code), ([], []))

    def test_what_is_not(self) -> None:
        for code, at_once, later in (
            ("x", ["x"], []),
            ("x += 1", ["x"], []),
            ("x = 1\ndel x\nx", ["x"], []),
            ("def f(): return x", [], ["x"]),
            ("lambda: x", [], ["x"]),
            ("def f(a=x): pass", ["x"], []),
            ("@x\nclass A(y, metaclass=z): pass", ["x", "y", "z"], []),
            ("[a for a in b]", ["b"], []),
            ("[a for a in []]\na", ["a"], []),
            ("try:\n    x\nexcept ValueError:\n    pass", ["x"], []),
            ("x: y = 1", ["y"], []),
            ("def f():\n    try:\n        x\n    except ValueError:\n        z", [], ["x", "z"]),
        ):
            with self.subTest(code):
                found_at_once, found_later = missing(code)
                self.assertEqual((sorted(found_at_once), sorted(found_later)), (at_once, later))


class Places(FolderCase):
    def test_columns_count_letters_and_not_bytes(self) -> None:
        page = self.write("p.md", """\
            ```python run #a show=nothing
            größe = "äöü" + undefiniert; z = open("fehlt.csv"); import numpi
            ```

            - In a list:

              ```python run #b show=nothing
              ää = nichts
              ```
            """)  # fmt: skip
        found = {one.rule: one.problem for one in check_page(page, "p.md") if one.problem.span.line == 2}
        line = page.read_text(encoding="utf-8").splitlines()[1]
        for rule, words in (("names", "undefiniert"), ("files", '"fehlt'), ("packages", "import numpi")):
            self.assertEqual(found[rule].span.column, line.index(words) + 1)
        self.assertEqual(found["packages"].hint, "Did you mean 'numpy'?")
        in_list = [one.problem.span.column for one in check_page(page, "p.md") if one.problem.span.line == 8]
        self.assertEqual(in_list, [8])
