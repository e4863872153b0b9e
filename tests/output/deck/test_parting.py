"""Where slides begin, what they hold, and what comes in which step."""

from hypothesis import given
from hypothesis import strategies as s

from tests.output.deck.made import DeckCase, told
from wornpage.compose.language import language_of
from wornpage.output.deck.options import DeckPress
from wornpage.output.deck.parting import deck_of
from wornpage.tree import nodes as n
from wornpage.tree.span import Span
from wornpage.tree.walk import walk, words_of


class Parting(DeckCase):
    def test_a_slide_at_each_heading_down_to_a_level_and_where_one_is_asked_for(self) -> None:
        page = """
            ---
            title: T
            ---

            Before any heading.

            # Part

            ## One

            Words.

            ### Below

            More.

            {new slide}

            Goes on.

            ### Deep, but a slide of its own {slide=yes}

            ## Out {slide=no}

            Only in the notes.

            ### Out too

            # Last

            {new slide title=no background=#123456}

            The end.
            """
        self.assertEqual(
            self.slides(page),
            [
                "title T: ",
                "plain T: Before any heading.",
                "section Part: ",
                "plain One 1/2: Words. | # Below | More.",
                "plain One 2/2: Goes on.",
                "section Deep, but a slide of its own: ",
                "section Last: ",
                "plain Last: The end.",
            ],
        )
        last = self.deck(page)[0].slides[-1]
        self.assertEqual((last.look.titled, last.look.background), (False, "#123456"))
        deeper = page.replace(
            "title: T", "title: T\npress: {slides: {new-slide-at: 3}}".replace("\n", "\n            ")
        )
        self.assertIn("plain Below 1/2: More.", self.slides(deeper))
        self.assertIn("plain Below 2/2: Goes on.", self.slides(deeper))

    def test_what_is_for_slides_alone_leaves_no_trace_in_others(self) -> None:
        page = """
            # One {background=teal steps=yes}

            - a
            - b

            {steps=no}

            ::: speaker
            Say *this*.
            :::

            ::::: side-by-side
            :::: column
            left

            ::: step
            lefter
            :::
            ::::
            right
            :::::

            ::: not in slides
            Only notes.
            :::

            ::: in slides
            Only slides.
            :::

            {new slide}

            x
            """
        html = self.html(page)
        for absent in ("Say", "Only slides", "steps", "new slide", "teal"):
            self.assertNotIn(absent, html)
        self.assertIn("Only notes.", html)
        self.assertEqual(html.count("<div><p>"), 2, "two columns, as written")
        self.assertEqual(self.slides(page)[0], "plain One 1/2 +1: a | b | left | lefter | right | Only slides.")

    def test_what_is_said_within_a_list_is_said_to_the_speaker(self) -> None:
        (slide,) = self.deck("# A\n\n- one\n\n  ::: speaker\n  Said.\n  :::\n\n- two\n")[0].slides
        self.assertEqual(told(slide), "plain A: one | two")
        self.assertEqual(
            [words_of(node.children) for node in walk(slide.speaker) if isinstance(node, n.Paragraph)], ["Said."]
        )

    def test_headings_and_figures_that_code_makes_are_parted_too(self) -> None:
        page = """
            # Loop

            ```python run show=output
            for name in ("north", "south"):
                page.heading(name.title(), level=2)
                page.prose(f"About {name}.")
            ```
            """
        self.assertEqual(
            self.slides(page), ["section Loop: ", "plain North: About north.", "plain South: About south."]
        )

    def test_where_output_goes(self) -> None:
        def of(goes: str) -> list[str]:
            return self.slides(f"# A\n\n```python run #a output-goes={goes} show=all\n1 + 1\n```\n")

        self.assertEqual(of("below"), ["plain A: code | > 2"])
        self.assertEqual(of("next-step"), ["plain A +1: code | > 2"])
        self.assertEqual(of("next-slide"), ["plain A 1/2: code", "plain A 2/2: > 2"])
        deck, _ = self.deck("# A\n\n```python run #a output-goes=beside show=all\n1 + 1\n```\n")
        columns = deck.slides[0].blocks[0]
        assert isinstance(columns, n.Container)
        self.assertEqual((columns.kind, len(columns.blocks)), ("side-by-side", 2))

    def test_steps_are_counted_in_the_order_of_reading(self) -> None:
        page = """
            # A

            - one
            - two

            {steps=yes}

            ```python run #a show=all pick-out="1 then 2 then all" output-goes=next-step
            x = 1
            x
            ```

            ::: step
            after
            :::
            """
        deck, _ = self.deck(page)
        slide = deck.slides[0]
        self.assertEqual(slide.steps, 6)
        items = next(node for node in walk(slide.blocks) if isinstance(node, n.List)).items
        self.assertEqual([item.step for item in items], [1, 2])
        code = next(node for node in walk(slide.blocks) if isinstance(node, n.CodeBlock))
        self.assertEqual((code.step, code.turns, [line.turns for line in code.lines]), (2, 3, [(1, 3), (2, 3)]))
        coming = [node.step for node in walk(slide.blocks) if isinstance(node, n.Container) and node.kind == "step"]
        self.assertEqual(coming, [5, 6])

    def test_code_is_shown_by_the_slides_own_default_unless_a_chunk_says_otherwise(self) -> None:
        page = """
            ---
            title: T
            chunks: {all: {show: output}, b: {show: output}}
            press: {slides: {chunks: {show: all}}}
            ---

            ```python run #a
            1
            ```

            ```python run #b
            2
            ```

            ```python run #c show=nothing
            3
            ```
            """
        self.assertEqual(self.slides(page)[1], "plain T: code | > 1 | > 2")
        self.assertNotIn("<code>", self.html(page), "the page itself has its own")

    def test_mistakes_have_a_place_and_say_what_is_meant(self) -> None:
        for written, place, what in (
            ("# A {background=greenish}", "page.md:1:6", "write a colour"),
            ("# A {vertical=middle}", "page.md:1:6", "top, centre"),
            ("{new slide backgruond=#fff}", "page.md:1:12", "background"),
            ("# A {background=none.png}", "page.md:1:5", "cannot be read"),
            ("# A\n\n{steps=yes}", "page.md:3:1", "no block above"),
            ("::: speeker\nx\n:::", "page.md:1:1", "speaker"),
            ("::: in slidse\nx\n:::", "page.md:1:1", "slides"),
            ("- a\n\n  {new slide}\n\n- b", "page.md:3:3", "within a list"),
            ("words {new slide} words", "page.md:1:7", "alone in a paragraph"),
        ):
            with self.subTest(written):
                try:
                    found = [str(one) for one in self.deck(written)[1]]
                except Exception as error:  # an error, where it is none but a warning
                    found = [str(one) for one in error.problems]  # type: ignore[attr-defined]
                self.assertTrue(any(one.startswith(place) and what in one for one in found), found)


_WORD = s.sampled_from(["alpha", "beta", "gamma", "delta"])


@s.composite
def _pages(draw: s.DrawFn) -> n.Blocks:
    """Blocks of any kind that part slides, in any order."""
    made: list[n.Block] = []
    for at in range(draw(s.integers(0, 12))):
        span, words = Span("p.md", at + 1), (n.Text(Span("p.md", at + 1), f"{draw(_WORD)}{at}"),)
        made.append(
            draw(
                s.sampled_from(
                    [
                        n.Heading(span, draw(s.integers(1, 4)), words, label=f"h{at}"),
                        n.SlideBreak(span, n.SlideLook(titled=draw(s.booleans()))),
                        n.SheetBreak(span),
                        n.Container(span, "speaker", n.NO_ATTRIBUTES, (n.Paragraph(span, words),)),
                        n.Paragraph(span, words),
                        n.ChunkView(
                            span, f"c{at}", (n.Heading(span, 2, words, label=f"i{at}"), n.Paragraph(span, words))
                        ),
                    ]
                )
            )
        )
    return tuple(made)


class Law(DeckCase):
    @given(_pages())
    def test_nothing_is_lost_nothing_doubled_and_addresses_are_unique(self, blocks: n.Blocks) -> None:
        page = n.Composed(n.TitleBlock(), blocks, (), "p", language_of("en"))
        deck, _ = deck_of(page, DeckPress(), "slides")
        labels = [slide.label for slide in deck.slides]
        self.assertEqual(len(labels), len(set(labels)))
        wanted = [words_of(node.children) for node in walk(blocks) if isinstance(node, n.Paragraph)]
        seen = [
            words_of(node.children)
            for slide in deck.slides
            for node in walk((*slide.blocks, *slide.speaker))
            if isinstance(node, n.Paragraph)
        ]
        self.assertEqual(sorted(seen), sorted(wanted))
        titles = [words_of(slide.title) for slide in deck.slides]
        within = [words_of(x.children) for slide in deck.slides for x in walk(slide.blocks) if isinstance(x, n.Heading)]
        for node in walk(blocks):
            if isinstance(node, n.Heading):
                self.assertIn(words_of(node.children), titles + within)
