"""Footnotes that lead nowhere are told of; what only looks like one is left in peace."""

import unittest

from wornpage.source.builder import build
from wornpage.tree import nodes as n
from wornpage.tree.problem import Severity
from wornpage.tree.walk import walk


class Notes(unittest.TestCase):
    def told(self, text: str) -> list[tuple[int, int, str]]:
        """Line, column and the words of each complaint."""
        return [(one.span.line, one.span.column, one.what) for one in build(text, "p.md").problems]

    def test_notes_that_lead_nowhere(self) -> None:
        for text, line, column, words in (
            ("One[^a].\n\n[^a]: Words.\n\n[^b]: More.\n", 5, 1, "nothing calls the note 'b'"),
            ("One[^a] and [^c].\n\n[^a]: Words.\n", 1, 13, "there is no note 'c'"),
            ("One[^a].\n\n[^a]: Words.\n\n[^a]: Again.\n", 5, 1, "the note 'a' is written in line 3 already"),
            ("> - One[^a] two\n>   three [^c]\n\n[^a]: Words.\n", 2, 11, "there is no note 'c'"),
            ("# Head [^c]\n", 1, 8, "there is no note 'c'"),
            ("| a |\n|---|\n| [^c] |\n", 3, 3, "there is no note 'c'"),
        ):
            with self.subTest(text):
                ((at, offset, what),) = self.told(text)
                self.assertEqual((at, offset), (line, column))
                self.assertIn(words, what)

    def test_only_a_note_written_twice_is_an_error(self) -> None:
        found = build("[^a] [^c]\n\n[^a]: One.\n\n[^a]: Two.\n\n[^b]: Three.\n", "p.md").problems
        self.assertEqual(sorted(one.severity for one in found), [Severity.ERROR, Severity.WARNING, Severity.WARNING])

    def test_notes_may_call_notes_that_are_written_below_or_themselves(self) -> None:
        built = build("One[^a].\n\n[^a]: Two[^b].\n\n[^b]: Three[^a].\n", "p.md")
        found = [node for node in walk(built.blocks) if isinstance(node, n.Footnote)]
        said = ["".join(one.text for one in walk(note.blocks) if isinstance(one, n.Text)) for note in found[:2]]
        self.assertEqual(said, ["TwoThree..", "Three."])

    def test_a_near_miss_is_named(self) -> None:
        (problem,) = build("One[^frist][^first].\n\n[^first]: Words.\n", "p.md").problems
        self.assertEqual(problem.hint, "Did you mean 'first'?")

    def test_what_only_looks_like_one(self) -> None:
        for text in (
            "One[^a][^a].\n\n[^a]: Words, and [^b].\n\n[^b]: In a note.\n",
            "Escaped \\[^a] and `[^a]` and $x[^a]$.\n",
            "```text\n[^a]: in code\n[^b]\n```\n",
            '```python run\nre.sub("[^a-z]", "", "x")\n```\n',
            "    [^a]: in code\n",
            "<div>\n[^a]: x\n</div>\n",
            "A class such as [^a b] has spaces.\n",
            "> One[^q].\n>\n> [^q]: In a quote.\n",
            "- One[^q].\n\n  [^q]: In a list.\n",
        ):
            with self.subTest(text):
                self.assertEqual(self.told(text), [])
