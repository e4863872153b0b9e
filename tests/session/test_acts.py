"""Calls for what they do in libraries that keep it out of sight, and what libraries look for there."""

import ast
import unittest
from unittest.mock import patch

from wornpage.session.python import acts
from wornpage.session.python.marking import compile_telling
from wornpage.session.python.scans import is_pattern


def keep(*_: object) -> None:
    """Stands for a function of a library that is not Python."""


def show(*_: object) -> None:
    """The same, by a name that says that it writes or shows."""


def give(*_: object) -> int:
    return 1


def set_limit(*_: object) -> int:
    return 1


class Library:
    keep, show, give, set_limit = map(staticmethod, (keep, show, give, set_limit))


class Acts(unittest.TestCase):
    def done(self, code: str) -> bool:
        """Whether a chunk's code has left something behind in the library; its last expression is shown."""
        acts.begin_chunk()
        tree = ast.parse(code)
        last = ast.Expression(tree.body.pop().value)  # type: ignore[attr-defined]
        names = {"lib": Library, "text": "insert into loans values (1)", "loans": [1]}
        with (
            patch.object(acts, "_library_of", lambda one: "lib" if one.__module__ == __name__ else ""),
            patch.object(acts, "_is_out_of_sight", lambda _: True),
        ):
            exec(compile_telling(tree, "chunk:a", "exec"), names)
            eval(compile_telling(last, "chunk:a", "eval"), names)
            return bool(acts.done())

    def test_a_call_for_itself_has_left_something(self) -> None:
        self.assertTrue(self.done("lib.keep('a')"))
        self.assertTrue(self.done("lib.give(1); 0"))
        self.assertTrue(self.done("def within():\n    lib.keep('a')\nwithin()"))

    def test_what_is_used_shown_or_changes_what_it_was_handed_has_not(self) -> None:
        for code in ("lib.give(1)", "x = lib.give(1); x", "lib.show('a'); 0", "lib.keep(loans); 0", "lib.keep([1]); 0"):
            self.assertFalse(self.done(code), code)

    def test_what_says_that_it_sets_or_changes_something_has(self) -> None:
        for code in ("lib.set_limit(loans)", "lib.give('create table x (n int)', loans)", "x = lib.give(f'drop table {text}'); x", "lib.give(text); 0"):  # fmt: skip
            self.assertTrue(self.done(code), code)

    def test_statements_that_change_a_database_or_its_connection_are_told_from_others(self) -> None:
        for text in ("set TimeZone = 'UTC'", "SET threads TO 1;", "reset threads", "pragma threads=1", "use other", "attach 'o.db' as o", "load spatial", "begin transaction", "commit", "select 1; drop table x", "-- first\ninsert into x values (1)"):  # fmt: skip
            self.assertTrue(acts.changes_something(text), text)
        for text in ("select x from t", "Set of papers", "Use the reading room well", "load of paper", "begin here", "from t select offset", "a; set aside", "Reset all the counters", "describe t"):  # fmt: skip
            self.assertFalse(acts.changes_something(text), text)

    def test_patterns_of_files_are_told_from_other_texts(self) -> None:
        for text in ("*.csv", "data/*.parquet", "a/**/b?.txt", "year-[0-9]*.csv"):
            self.assertTrue(is_pattern(text), text)
        for text in ("a.csv", "2 * 3", "* one", r"\d*\.csv", "SELECT * FROM x", "**bold**"):
            self.assertFalse(is_pattern(text), text)
