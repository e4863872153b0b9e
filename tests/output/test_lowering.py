"""A new output that knows the simple nodes alone can write every page that ours can."""

import unittest
from pathlib import Path
from typing import get_args

from wornpage.output.lowering import SimpleBlock, SimpleInline, lower
from wornpage.press import Order, proof_of
from wornpage.tree import nodes as n
from wornpage.tree.span import Span
from wornpage.tree.walk import walk, words_of

EVERYTHING = Path(__file__).parent / "everything.md"
SIMPLE = {*get_args(SimpleBlock), *get_args(SimpleInline), n.Item}


def words(blocks: n.Blocks) -> str:
    """All words, without how they are parted."""
    return "".join(words_of([node]) for node in walk(blocks) if isinstance(node, n.Text | n.Code)).replace(" ", "")


class Lowering(unittest.TestCase):
    def test_everything_becomes_simple_and_keeps_its_words(self) -> None:
        page = proof_of(Order(EVERYTHING, "everything.md", store=Path("/nonexistent/store"))).composed
        simple = lower(page.blocks)
        left = {type(node).__name__ for node in walk(simple) if type(node) not in SIMPLE}
        self.assertEqual(left, set())
        said = (node.text for node in walk(page.blocks) if isinstance(node, n.Text))
        kept = words(simple)
        lost = [text for text in said if text.replace(" ", "") not in kept]
        self.assertEqual(lost, [])

    def test_what_only_slides_know_leaves_no_trace(self) -> None:
        span = Span("p.md", 1)

        def said(kind: str) -> n.Container:
            return n.Container(span, kind, n.NO_ATTRIBUTES, (n.Paragraph(span, (n.Text(span, kind),)),))

        simple = lower((n.SlideBreak(span), *map(said, ("speaker", "step", "steps", "column", "in slides"))))
        self.assertEqual([words_of([node]) for node in simple], ["step", "steps", "column"])

    def test_what_a_mark_became_keeps_the_mark(self) -> None:
        page = proof_of(Order(EVERYTHING, "everything.md", store=Path("/nonexistent/store"))).composed
        raws = {node.raw for node in walk(page.blocks) if isinstance(node, n.Answered | n.Citation)} - {
            ""
        }  # cells have none
        self.assertTrue(raws)
        for raw in raws:
            self.assertRegex(raw, r"(?s)^\{(=|see|cite).*\}$")


if __name__ == "__main__":
    unittest.main()
