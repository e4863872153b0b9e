"""Names that code binds, and definitions that may be run again, told by reading."""

import unittest
from functools import partial
from typing import Any

from wornpage.session.bindings import names_written
from wornpage.session.python.definitions import is_plain_definition
from wornpage.session.python.running import compile_chunk


class Written(unittest.TestCase):
    def test_every_way_of_binding_a_name(self) -> None:
        for code, names in {
            "a = b = 1; c: int = 2; d += 1": "a b c d",
            "(a, *b), [c, d] = x": "a b c d",
            "x.a = 1; x['b'] = 2": "",
            "for a, (b, c) in x: d = 1\nelse: e = 2": "a b c d e",
            "with x as a, y as (b, c): pass": "a b c",
            "import a.b, c as d\nfrom e import f as g, h\nfrom i import *": "a d g h",
            "if (a := 1) > [b := 2][0]: pass": "a b",
            "[a for a in x]; {b: c for b, c in x}; [d := e for e in x]": "d",
            "lambda a: (b := a)": "",
            "def a(b): c = 1\nasync def d(): pass\nclass e: f = 1": "a d e",
            "def a():\n    global b, c\n    b = 1\n    print(c)": "a b",
            "class a:\n    def m(self):\n        global b\n        b = 1": "a b",
            "match x:\n    case {'k': a, **b}: c = 1\n    case [d, *e] | P(f=[d, *e]): pass\n    case _: pass": "a b c d e",
            "try: a = 1\nexcept E as gone: b = 2\nfinally: c = 3": "a b c",
            "while x: a = 1": "a",
            "del a": "",
            "this is no code": "",
        }.items():
            with self.subTest(code):
                self.assertEqual(names_written(code), set(names.split()))

    def test_what_python_itself_cannot_read_binds_nothing(self) -> None:
        self.assertEqual(names_written("a = " + " + ".join(["1"] * 500)), {"a"})
        self.assertEqual(names_written("a = " + " + ".join(["1"] * 99_000)), set())
        self.assertEqual(names_written("a = 1\0"), set())


class Definitions(unittest.TestCase):
    """Whether running a statement again gives the same and does nothing else."""

    def is_plain(self, code: str, name: str = "f") -> bool:
        names: dict[str, Any] = {"shared": [1], "seven": 7, "partial": partial}
        exec(compile(code, "t", "exec"), names)
        return is_plain_definition(code, name, names[name])

    def test_functions(self) -> None:
        for code, plain in {
            "def f(x, y=1, *, z='a'): return x": True,
            "def f(x=seven): pass": True,
            "def f(x=(1, -2), y=[]): pass": True,
            "async def f(): pass": True,
            "def f(x=shared): pass": False,
            "def f(x=[1]): pass": False,
            "def f(x=len('a')): pass": False,
            "def g(h): return h\n@g\ndef f(): pass": False,
            "def g():\n    n = 1\n    def f(): return n\n    return f\nf = g()": False,
            "def f(): pass\nf = 3": False,
            "def f(): pass\ndef f(): return 2": True,
            "f = lambda: 1": False,
        }.items():
            with self.subTest(code):
                self.assertEqual(self.is_plain(code), plain)

    def test_classes(self) -> None:
        for body, plain in {
            "    x = 1\n    y: int = 2\n    def m(self): return 1": True,
            "    'words'\n    @property\n    def m(self): return 1\n    @m.setter\n    def m(self, v): pass": True,
            "    @staticmethod\n    def m(): return 1": True,
            "    x = []": True,
            "    x = shared": False,
            "    x = print()": False,
            "    for i in range(3): pass": False,
            "    @partial\n    def m(self): pass": False,
        }.items():
            with self.subTest(body):
                self.assertEqual(self.is_plain(f"class f:\n{body}\n"), plain)
        self.assertTrue(self.is_plain("from dataclasses import dataclass\n@dataclass\nclass f:\n    x: int = 1"))
        self.assertFalse(self.is_plain("class M(type): pass\nclass f(metaclass=M): pass"))
        self.assertFalse(self.is_plain("class B:\n    def __init_subclass__(cls): shared.append(1)\nclass f(B): pass"))


class Compiled(unittest.TestCase):
    """A chunk's last expression is its value."""

    def test_what_is_shown_and_what_is_not(self) -> None:
        for code, has_last, hidden, caller in (
            ("1 + 1", True, False, ""),
            ("x = 1", False, False, ""),
            ("x = 1; x", True, False, ""),
            ("x;", True, True, ""),
            ("x  ;  # words", True, True, ""),
            ("'ü'; ax.set_title('ü;')", True, False, "ax"),
            ("ax.plot([1])[0].set(a=1)", True, False, "ax"),
            ("ax.get_title()", True, False, ""),
            ("", False, False, ""),
            ("for i in x: i", False, False, ""),
        ):
            with self.subTest(code):
                made = compile_chunk(code, "it")
                self.assertEqual((made.last is not None, made.is_hidden, made.caller), (has_last, hidden, caller))
                self.assertEqual(made.body.co_filename, "chunk:it")
