"""What was probably meant by code that failed, and errors as plain data."""

import os
import tempfile
import unittest
from pathlib import Path
from typing import Any

import pandas as pd

from wornpage.session.python.errors import describe_error, shorten
from wornpage.session.python.hints import hint_for


def failing(code: str, **names: Any) -> dict[str, Any]:
    """What is told of code that fails."""
    try:
        exec(compile(code, "chunk:it", "exec"), {"__name__": "__main__", **names})
    except BaseException as error:
        trace = error.__traceback__
        assert trace is not None
        return describe_error(error, trace.tb_next)
    raise AssertionError("it did not fail")


class Hints(unittest.TestCase):
    def test_what_was_probably_meant(self) -> None:
        frame = pd.DataFrame({"branch": [1], "leaves": [2]})
        for code, words in {
            "f['brnach']": "Did you mean 'branch'? The columns are: branch, leaves.",
            "f.groupby('brnach').sum()": "Did you mean 'branch'?",
            "f.brnach": "Did you mean the column 'branch'?",
            "f[['leavs']]": "The columns are: branch, leaves.",
            "d['folda']": "Did you mean 'folds'?",
            "'a'.uper()": "Did you mean 'upper'?",
            "open('dta.csv')": "Did you mean 'data.csv'?",
            "open('nowhere/data.csv')": "There is no folder 'nowhere'",
            "open('C:\\new.csv')": "a backslash begins a sign",
            "open('zzzzzz')": "Paths begin in the page's folder.",
            "raise EOFError": "Nobody is there to answer",
        }.items():
            with self.subTest(code):
                self.assertIn(words, failing(code, f=frame, d={"folds": 1})["hint"])

    def test_lines_of_other_tools_are_known(self) -> None:
        for code, words in (
            ("%matplotlib inline", "a command of notebooks"),
            ("!pip install x", "Install packages in the page's environment"),
            ("x = await y", "async def main"),
            ("x = = 1", ""),
        ):
            with self.subTest(code):
                try:
                    compile(code, "chunk:it", "exec")
                except SyntaxError as error:
                    self.assertIn(words, hint_for(error, None))
                    self.assertEqual(bool(words), bool(hint_for(error, None)))

    def test_an_object_that_objects_to_being_looked_at_gets_no_hint(self) -> None:
        class Shy:
            def __getattr__(self, name: str) -> Any:
                raise RuntimeError("no") if name == "columns" else AttributeError(name, name=name, obj=self)

        self.assertEqual(failing("s.word", s=Shy())["hint"], "")

    def setUp(self) -> None:
        place = tempfile.TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.addCleanup(os.chdir, Path.cwd())
        os.chdir(place.name)
        Path("data.csv").touch()


class Errors(unittest.TestCase):
    def test_a_chain_is_told_from_its_beginning(self) -> None:
        told = failing("try:\n    1 / 0\nexcept ZeroDivisionError as e:\n    raise KeyError('k') from e")
        self.assertEqual([one["kind"] for one in told["chain"]], ["ZeroDivisionError", "KeyError"])
        self.assertEqual([one["frames"][-1]["line"] for one in told["chain"]], [2, 4])
        hidden = failing("try:\n    1 / 0\nexcept ZeroDivisionError:\n    raise KeyError('k') from None")
        self.assertEqual([one["kind"] for one in hidden["chain"]], ["KeyError"])

    def test_a_circle_of_causes_ends(self) -> None:
        told = failing("a, b = ValueError('a'), ValueError('b')\na.__cause__, b.__cause__ = b, a\nraise a")
        self.assertEqual([one["message"] for one in told["chain"]], ["b", "a"])

    def test_endless_recursion_is_cut_in_its_middle(self) -> None:
        told = failing("def f(n):\n    return f(n + 1)\nf(0)")
        self.assertEqual(len(told["chain"][0]["frames"]), 60)

    def test_messages_without_what_changes_and_without_what_fails(self) -> None:
        self.assertNotRegex(failing("raise ValueError(object())")["chain"][0]["message"], r"0x[0-9a-f]{4}")
        told = failing("class E(Exception):\n    def __str__(self): raise TypeError\nraise E()")
        self.assertEqual(told["chain"][0]["message"], "(its message cannot be shown)")
        self.assertEqual(failing("open('a b')")["chain"][0]["message"], "No such file or directory: 'a b'")
        self.assertEqual(failing("raise SystemExit(3)")["status"], "3")
        self.assertEqual((failing("zzz")["name"], failing("1 / 0")["name"]), ("zzz", None))

    def test_paths_do_not_tell_of_this_machine(self) -> None:
        self.assertEqual(shorten("chunk:fit"), "chunk:fit")
        self.assertEqual(shorten(str(Path.cwd() / "lib/a.py")), "lib/a.py")
        self.assertEqual(shorten(pd.__file__), "library:pandas/__init__.py")
        self.assertEqual(shorten(os.__file__), "library:os.py")
        self.assertEqual(shorten("/somewhere/else/b.py"), "library:b.py")
        self.assertEqual(shorten("_core.pyx"), "library:_core.pyx")
