"""Names that are hidden until they are used: every use is seen, none is made up."""

import sys
import unittest
from typing import Any

from wornpage.session.python.names import Names, names_in, new_names, run_exec


class Source:
    """Hidden names in a dictionary, with a log of what was asked."""

    is_looking = False

    def __init__(self, **hidden: Any) -> None:
        self.hidden = hidden
        self.asked: list[str] = []
        self.deleted: list[str] = []

    def fetch(self, name: str) -> Any:
        self.asked.append(name)
        return self.hidden[name]

    def knows(self, name: str) -> bool:
        return name in self.hidden

    def listing(self) -> list[str]:
        self.asked.append("which there are")
        return [*self.hidden, *dict.keys(self.names)]

    def fetch_all(self) -> None:
        for name in self.hidden:
            self.names[name]

    def forget(self, name: str) -> bool:
        self.deleted.append(name)
        return self.hidden.pop(name, None) is not None

    names: Names


class NamesCase(unittest.TestCase):
    def setUp(self) -> None:
        main = sys.modules["__main__"]
        self.addCleanup(sys.modules.__setitem__, "__main__", main)

    def run_code(self, code: str, **hidden: Any) -> Source:
        """Run code over hidden names; returns who was asked."""
        source = Source(**hidden)
        source.names = new_names(source)
        run_exec(compile(code, "chunk:t", "exec"), source.names)
        return source


class Seen(NamesCase):
    def test_each_way_of_using_a_name_is_seen(self) -> None:
        ways = {
            "plain": "r = x",
            "in a function": "def f():\n    return x\nr = f()",
            "in a method of a class": "class C:\n    def m(self):\n        return x\nr = C().m()",
            "in a class body": "class C:\n    y = x\nr = C.y",
            "in a comprehension": "r = [x for _ in range(1)][0]",
            "by eval": "r = eval('x')",
            "by eval inside a function": "def f():\n    local = 1\n    return eval('x')\nr = f()",
            "by exec with names of its own": "own = {}\nexec('r = x', globals(), own)\nr = own['r']",
            "by key": "r = globals()['x']",
            "by get": "r = globals().get('x')",
            "through main": "import __main__\nr = __main__.x",
            "in a copy": "r = globals().copy()['x']",
            "as a default": "def f(v=x):\n    return v\nr = f()",
            "in a generator": "r = next(x for _ in range(1))",
            "by a lambda": "r = (lambda: x)()",
        }
        for way, code in ways.items():
            with self.subTest(way):
                source = self.run_code(code, x=41, other=1)
                self.assertEqual(dict.get(source.names, "r"), 41)
                self.assertIn("x", source.asked)
                self.assertNotIn("other", source.asked)

    def test_looking_at_all_names_asks_for_all(self) -> None:
        for code in ("r = dict(globals())", "r = {**globals()}", "r = globals() | {}", "r = {} | globals()",
                     "r = list(globals().values())", "r = sorted(globals().items(), key=str)"):  # fmt: skip
            with self.subTest(code):
                source = self.run_code(code, x=1, y=2)
                self.assertLessEqual({"x", "y"}, set(source.asked))

    def test_asking_which_names_there_are_asks_for_none_of_them(self) -> None:
        for code in ("r = list(globals())", "r = len(globals())", "r = dir()", "r = list(reversed(globals()))",
                     "import __main__\nr = list(vars(__main__))"):  # fmt: skip
            with self.subTest(code):
                asked = set(self.run_code(code, x=1, y=2).asked)
                self.assertIn("which there are", asked)
                self.assertFalse(asked & {"x", "y"})

    def test_builtins_are_found_and_a_hidden_name_shadows_them(self) -> None:
        self.assertEqual(dict.get(self.run_code("r = len('ab')").names, "r"), 2)
        self.assertEqual(dict.get(self.run_code("r = len", len="mine").names, "r"), "mine")

    def test_a_name_that_is_nowhere_is_a_name_error(self) -> None:
        for code in ("x", "def f():\n    return x\nf()", "del x"):
            with self.assertRaises(NameError):
                self.run_code(code)

    def test_writing_asks_for_nothing(self) -> None:
        source = self.run_code("x = 1\nimport sys as y\ndef z(): pass\nfor w in (1,): pass", x=0, y=0, z=0, w=0)
        self.assertEqual(source.asked, [])

    def test_deleting_a_hidden_name_is_told(self) -> None:
        source = self.run_code("del x", x=1)
        self.assertEqual(source.deleted, ["x"])

    def test_the_methods_of_a_dictionary_behave(self) -> None:
        code = (
            "g = globals()\na = g.pop('x', None)\nb = g.setdefault('y', 9)\nc = g.setdefault('n', 3)\nd = 'y' in g, 'q' in g\n"
            "e = g.get('q', 5)\nf = g == g"
        )
        names = self.run_code(code, x=1, y=2).names
        self.assertEqual([dict.get(names, n) for n in "abcdef"], [1, 2, 3, (True, False), 5, True])
        with self.assertRaises(TypeError):
            names.__reduce__()

    def test_names_in_code_are_found_in_what_it_holds(self) -> None:
        code = compile("def f():\n    class C:\n        y = inner\n    return outer", "t", "exec")
        self.assertLessEqual({"inner", "outer"}, names_in(code))
