"""The words inside `{insert …}`."""

import unittest

from wornpage.source.marks.insert import insert_mark
from wornpage.source.pieces import Piece
from wornpage.tree import nodes as n
from wornpage.tree.span import Span

PIECE = Piece("mark", "", Span("p.md", 3))


class InsertMarks(unittest.TestCase):
    def insert(self, words: str) -> n.Insert:
        made, problem = insert_mark(PIECE, f"{{insert {words}}}")
        assert isinstance(made, n.Insert), problem
        return made

    def test_values_stay_as_they_are_written(self) -> None:
        for words, values in {
            'a.md x="1"': {"x": '"1"'},
            "a.md x=\"a  b   c\" y=' q '": {"x": '"a  b   c"', "y": "' q '"},
            "a.md x=[1, 2] y={'k': (3, 4)}": {"x": "[1, 2]", "y": "{'k': (3, 4)}"},
            'a.md x=f(a, "b c")[0]': {"x": 'f(a, "b c")[0]'},
            'a.md x="say \\"no  no\\""': {"x": '"say \\"no  no\\""'},
            "a.md\n  x=1\n  y=[2,\n     3]": {"x": "1", "y": "[2, 3]"},
            "a.md straße=1": {"straße": "1"},
        }.items():
            with self.subTest(words):
                made = self.insert(words)
                self.assertEqual({one.name: one.expression for one in made.arguments}, values)

    def test_files_may_have_spaces(self) -> None:
        self.assertEqual(self.insert('"my parts/a b.md" x=1').file, "my parts/a b.md")
        self.assertEqual(self.insert("parts/for.md").file, "parts/for.md")

    def test_what_it_is_repeated_for(self) -> None:
        for words, target, items in (
            ("a.md for x in xs", "x", "xs"),
            ("a.md deeper=2 for x in range(3)", "x", "range(3)"),
            ("a.md for x,  y in zip(a, b)", "x, y", "zip(a, b)"),
            ("a.md for x in ['p  q', 'in for']", "x", "['p  q', 'in for']"),
            ("a.md for x in xs if x > 3", "x", "[x for x in xs if x > 3]"),
            ("a.md for x, y in xs if x in y", "x, y", "[(x, y) for x, y in xs if x in y]"),
            ("a.md for x in a if b else c", "x", "a if b else c"),
        ):
            with self.subTest(words):
                made = self.insert(words)
                self.assertEqual((made.target, made.items), (target, items))
        self.assertEqual(self.insert("a.md deeper=2 for x in xs").deeper, 2)

    def test_faults_say_what_to_write(self) -> None:
        for words, what, hint in (
            ("", "names no file", "Write `{insert part.md"),
            ("a.md b", "'b' has no place", "Write `{insert part.md"),
            ("a.md x = 1", "'x' has no place", "without spaces"),
            ("a.md x=1 x=2", "given twice", "Keep one"),
            ("a.md deeper=9", "`deeper` cannot be 9", "0 to 5"),
            ("a.md for x", "does not say what it is repeated for", ""),
            ("a.md for 3 in x", "'3' is no name", ""),
        ):
            with self.subTest(words):
                made, problem = insert_mark(PIECE, f"{{insert {words}}}")
                assert problem is not None
                self.assertIsNone(made)
                self.assertIn(what, problem.what)
                self.assertIn(hint, problem.hint)
                self.assertEqual(problem.span.line, 3)

    def test_code_of_a_file(self) -> None:
        made, problem = insert_mark(PIECE, '{insert code "my lib.py" part="fit all" run #fit width=12cm}')
        assert isinstance(made, n.InsertedCode), problem
        self.assertEqual((made.file, made.part, made.runs, made.label), ("my lib.py", "fit all", True, "fit"))
        self.assertEqual([(option.key, option.value) for option in made.options], [("width", "12cm")])
