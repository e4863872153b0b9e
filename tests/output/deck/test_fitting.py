"""What does not fit is told, and made smaller where that is asked for; what fits is left alone."""

from tests.output.deck.made import DeckCase
from wornpage.output.deck.letters import lines_of, width_of
from wornpage.output.deck.measuring import figure_rooms, height_of
from wornpage.output.deck.model import SHAPES
from wornpage.tree import nodes as n
from wornpage.tree.span import Span
from wornpage.tree.walk import walk

LONG = "## Long\n\n" + "\n".join(f"- item {number} of many, with some words in it" for number in range(20)) + "\n"


class Fitting(DeckCase):
    def test_a_tall_slide_is_told_with_its_place_and_how_tall_it_is(self) -> None:
        (problem,) = self.deck(f"Words.\n\n{LONG}")[1]
        self.assertRegex(str(problem), r"^page\.md:3:1: warning: this slide is \d+ % too tall\. .*fit=shrink")

    def test_it_is_made_smaller_where_that_is_asked_for(self) -> None:
        deck, problems = self.deck(LONG.replace("## Long", "## Long {fit=shrink}"))
        self.assertEqual(problems, [])
        self.assertTrue(0.5 <= deck.slides[0].scale < 0.9)
        self.assertLessEqual(height_of(deck.slides[0], deck.shape).share, 1)
        deck, problems = self.deck(
            f"---\npress: {{slides: {{fit: shrink}}}}\n---\n\n{LONG * 4}".replace("## Long", "", 0)
        )
        self.assertIn("even with the smallest letters", str(self.deck("## A {fit=shrink}\n\n" + "x\n\n" * 60)[1][0]))

    def test_a_table_that_is_too_wide_is_told(self) -> None:
        head = "|" + "|".join(f"column {number}" for number in range(20)) + "|\n" + "|---" * 20 + "|\n"
        (problem,) = self.deck("## Wide\n\n" + head + "|" + "|".join("1,234.56" for _ in range(20)) + "|\n")[1]
        self.assertRegex(str(problem), r"page\.md:1:1: warning: this slide is \d+ % too wide")

    def test_figures_share_what_is_left_and_keep_their_shape(self) -> None:
        span = Span("p.md", 1)
        wide, tall = (n.Figure(span, (n.Picture("svg", b"", 20, height, ""),)) for height in (5.0, 20.0))
        words = n.Paragraph(span, (n.Text(span, "Some words."),))
        slide = self.deck("## A\n\nx")[0].slides[0]
        slide = type(slide)(span, "a", True, "plain", slide.title, blocks=(words, wide, tall))
        rooms = figure_rooms(slide, SHAPES["16:9"])
        used = sum(rooms[id(one)][1] for one in (wide, tall))
        self.assertLess(used, 720 - 44 - 46 - 42 - 20 - 29)
        self.assertGreater(used, 400)
        self.assertLess(rooms[id(wide)][1], 1152 / 4 + 1, "no more than it can use")

    def test_letters_are_measured_in_any_script(self) -> None:
        words = (n.Text(Span("p.md", 1), "paper " * 20),)
        self.assertEqual(lines_of(words, width_of("paper ") * 5), 4)
        self.assertEqual(lines_of((n.Text(Span("p.md", 1), "紙" * 30),), 10.5), 3)
        self.assertEqual(
            lines_of((n.Text(Span("p.md", 1), "a" * 400),), 20.0), -(-int(width_of("a" * 400) * 10) // 200)
        )
        self.assertEqual(lines_of((), 10), 1)

    def test_every_slide_of_the_deck_is_measured(self) -> None:
        deck, _ = self.deck(
            "# A\n\n$$ x = \\frac{a}{b} $$\n\n> quoted\n\n::: note Title\nx\n:::\n\nTerm\n: meaning[^1]\n\n[^1]: Note.\n"
        )
        needs = height_of(deck.slides[0], deck.shape)
        self.assertTrue(0.2 < needs.share < 1)
        self.assertTrue(any(isinstance(node, n.Footnote) for node in walk(deck.slides[0].blocks)))
