"""What a chunk shows as blocks: code, outputs in order, and captions that find what they belong to."""

import unittest
from typing import Any

from wornpage.compose.language import language_of
from wornpage.compose.results import Captioned, show_chunk
from wornpage.session import results as r
from wornpage.session.failures import Failure, Frame, Places, Raised
from wornpage.settings.models import ChunkOptions
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span
from wornpage.tree.table import Column, Kind, TableData, Told
from wornpage.tree.walk import words_of

SPAN = Span("page.md", 4)
SVG = b'<svg xmlns="http://www.w3.org/2000/svg" width="96" height="48"></svg>'


class Plain:
    """Says the words of chunks as they are."""

    def words(self, inlines: n.Inlines) -> n.Inlines:
        return inlines

    def inlines(self, told: Told, span: Span) -> n.Inlines:
        return (n.Text(span, told.text),)

    def blocks(self, told: Told, span: Span) -> n.Blocks:
        return (n.Paragraph(span, self.inlines(told, span)),)

    def label(self, wished: str, words: n.Inlines) -> str:
        return wished or words_of(words).lower()


def figure(**more: Any) -> r.ShownFigure:
    return r.ShownFigure(**{"format": "svg", "data": SVG, "width": 8.0, "height": 6.0, "alt": "", **more})


def table(*cells: int, **more: Any) -> r.ShownTable:
    return r.ShownTable(TableData((Column(("n",), Kind.NUMBER, cells),), **more))


def caption(words: str, kind: str = "") -> Captioned:
    return Captioned((n.Text(SPAN, words),), kind, Span("page.md", 9))


def shown(
    *items: r.Shown,
    captions: tuple[Captioned, ...] = (),
    failure: Failure | None = None,
    apart: str = "",
    **options: Any,
) -> tuple[list[n.Block], list[Problem]]:
    """The blocks behind the code, and what is wrong."""
    chunk = n.Chunk(SPAN, "python", "wear", True, (), "x = 1\n", 5, "```python run #wear", apart=apart)
    view, problems = show_chunk(
        chunk, r.ChunkResult(items, failure, 0.0), ChunkOptions(**{"show": "output", **options}), captions,
        language_of("en"), Places("page.md", {"wear": chunk}), Plain(),
    )  # fmt: skip
    return list(view.blocks), problems


class Captions(unittest.TestCase):
    """Captions under a chunk go to what it shows."""

    def labels(self, *items: r.Shown, captions: tuple[Captioned, ...], **more: Any) -> list[tuple[str, str, str]]:
        """Kind, label and caption of each result."""
        blocks, problems = shown(*items, captions=captions, **more)
        self.assertEqual(problems, [])
        found = [block for block in blocks if isinstance(block, n.Figure | n.TableBlock)]
        return [(type(one).__name__[:3], one.label, words_of(one.caption)) for one in found]

    def test_one_caption_takes_all_figures_as_parts(self) -> None:
        blocks, _ = shown(figure(), r.Printed("a\n", "output"), figure(), captions=(caption("Both."),))
        self.assertEqual([type(block) for block in blocks], [n.Figure, n.OutputText])
        (both,) = [block for block in blocks if isinstance(block, n.Figure)]
        self.assertEqual([picture.alt for picture in both.pictures], ["Both.", "Both."])

    def test_several_captions_go_in_order_and_the_first_has_the_chunks_label(self) -> None:
        self.assertEqual(
            self.labels(figure(), table(1), figure(), captions=(caption("A."), caption("B."), caption("C."))),
            [("Fig", "wear", "A."), ("Tab", "wear.2", "B."), ("Fig", "wear.3", "C.")],
        )

    def test_kinds_find_their_own(self) -> None:
        wanted = (caption("T.", "table"), caption("F.", "figure"))
        self.assertEqual(
            self.labels(figure(), table(1), captions=wanted), [("Fig", "wear", "F."), ("Tab", "wear.2", "T.")]
        )
        self.assertEqual(self.labels(figure(), table(1), captions=wanted[:1]), [("Fig", "", ""), ("Tab", "wear", "T.")])

    def test_what_code_has_labelled_is_let_be(self) -> None:
        own = figure(caption=Told("Own."), label="own")
        self.assertEqual(
            self.labels(own, figure(), captions=(caption("Other."),), apart="quay"),
            [("Fig", "own.quay", "Own."), ("Fig", "wear", "Other.")],
        )
        unlabelled = [table(1, caption=Told("One.")), table(2, caption=Told("Two."))]
        self.assertEqual([label for _, label, _ in self.labels(*unlabelled, captions=())], ["wear", "wear.2"])

    def test_captions_that_fit_nothing_are_told_at_their_lines(self) -> None:
        for items, captions, what in (
            ((), (caption("A."),), "shows no figure and no table"),
            ((figure(), table(1)), (caption("A."),), "could be for either"),
            ((figure(),), (caption("A."), caption("B.")), "fewer figures and tables"),
            ((figure(),), (caption("A.", "table"),), "fewer figures and tables"),
        ):
            with self.subTest(what):
                _, (problem,) = shown(*items, captions=captions)
                self.assertIn(what, problem.what)
                self.assertEqual(problem.span.line, 9)
        _, (problem,) = shown(figure(), captions=(caption("A."),), show="nothing")
        self.assertEqual(problem.severity.value, "warning")


class Outputs(unittest.TestCase):
    """Texts, failures, formulas and pictures."""

    def test_neighbouring_texts_of_one_kind_are_one(self) -> None:
        blocks, _ = shown(
            r.Printed("a\n", "output"),
            r.ShownText("b"),
            r.Printed("c\n", "notice"),
            r.Printed("\n", "output"),
            r.Printed("d\n", "output"),
        )
        self.assertEqual(
            [(block.role, block.text) for block in blocks if isinstance(block, n.OutputText)],
            [("output", "a\nb"), ("notice", "c"), ("output", "d")],
        )
        self.assertEqual(shown(r.Printed("c\n", "notice"), notices=False), ([], []))

    def test_long_texts_are_cut_and_it_is_said_how_much(self) -> None:
        (block,), _ = shown(r.Printed("\n".join(map(str, range(50))), "output", lines_cut=1000), max_lines=10)
        assert isinstance(block, n.OutputText)
        self.assertEqual(block.text.split("\n")[-1], "9")
        self.assertIn("1,040", block.cut)
        (wide,), _ = shown(r.Printed("x" * 3000, "output"))
        assert isinstance(wide, n.OutputText)
        self.assertLess(len(wide.text), 2010)

    def test_failures_stand_last_with_lines_of_the_page(self) -> None:
        failed = Failure(
            "error", (Raised("ValueError", "no", (Frame("chunk:wear", 1, "<module>", "x = 1"),)),), "", "", ""
        )
        blocks, _ = shown(r.Printed("a\n", "output"), failure=failed)
        assert isinstance(blocks[-1], n.OutputText)
        self.assertEqual(blocks[-1].role, "error")
        self.assertIn("page.md:5", blocks[-1].text)
        self.assertIn("ValueError: no", blocks[-1].text)

    def test_values_that_draw_themselves_keep_their_shape(self) -> None:
        for width, expected in ((None, (2.54, 1.27)), (10.0, (10.0, 5.0))):
            (block,), _ = shown(figure(width=0.0, height=0.0), width=width)
            assert isinstance(block, n.Figure)
            (picture,) = block.pictures
            self.assertAlmostEqual(picture.width, expected[0], 2)
            self.assertAlmostEqual(picture.height, expected[1], 2)
        (block,), _ = shown(figure(), scale=0.5, align="left")
        assert isinstance(block, n.Figure)
        self.assertEqual((block.pictures[0].width, block.align), (4.0, "left"))

    def test_every_figure_has_words_for_those_who_cannot_see_it(self) -> None:
        (block,), _ = shown(figure())
        assert isinstance(block, n.Figure)
        self.assertIn("wear", block.pictures[0].alt)
        (block,), _ = shown(figure(alt="Loans by year"), alt="Mine")
        assert isinstance(block, n.Figure)
        self.assertEqual(block.pictures[0].alt, "Mine")

    def test_what_is_wrong_with_a_figure_or_a_table_is_told(self) -> None:
        _, problems = shown(
            figure(remark="has too little room", advice="Make it wider."), table(1, remark="lost its colours")
        )
        self.assertEqual([one.hint for one in problems], ["Make it wider.", ""])
        self.assertEqual({one.severity.value for one in problems}, {"warning"})

    def test_formulas_are_formulas_if_they_can_be(self) -> None:
        blocks, _ = shown(r.ShownFormula("x^2", "x**2"), r.ShownFormula("\\nosuch{x", "as text"))
        self.assertIsInstance(blocks[0], n.MathBlock)
        assert isinstance(blocks[1], n.OutputText)
        self.assertEqual(blocks[1].text, "as text")

    def test_prose_and_headings_take_their_place(self) -> None:
        blocks, _ = shown(r.ShownHeading(Told("Quay"), 2, "q"), r.ShownProse(Told("So.")), table(1), apart="x")
        assert isinstance(blocks[0], n.Heading)
        self.assertEqual((blocks[0].level, blocks[0].label), (2, "q.x"))
        self.assertEqual([type(block) for block in blocks[1:]], [n.Paragraph, n.TableBlock])

    def test_code_can_show_its_fence_and_be_a_listing(self) -> None:
        blocks, _ = shown(captions=(caption("How."),), show="source", fence=True, pick_out=((1,),))
        (code,) = blocks
        assert isinstance(code, n.CodeBlock)
        lines = ["".join(token.text for token in line.tokens) for line in code.lines]
        self.assertEqual(lines, ["```python run #wear", "x = 1", "```"])
        self.assertEqual(
            (code.label, words_of(code.caption), [line.picked for line in code.lines]),
            ("wear", "How.", [False, True, False]),
        )


if __name__ == "__main__":
    unittest.main()
