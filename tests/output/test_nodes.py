"""Each node as HTML and as what the typesetter is given: data is never markup in either."""

import unittest

from wornpage.compose.language import language_of
from wornpage.output.html.writer import HtmlWriter
from wornpage.output.pdf.strings import string
from wornpage.tree import nodes as n
from wornpage.tree.span import Span

SPAN = Span("page.md", 1)
EVIL = "<b>&\"'"


def text(words: str = "w") -> tuple[n.Text, ...]:
    return (n.Text(SPAN, words),)


def inline(node: n.Inline, titled: bool = False) -> str:
    return HtmlWriter(language_of("en"), titled).inline(node)


def block(node: n.Block, titled: bool = False) -> str:
    return HtmlWriter(language_of("en"), titled).block(node)


class Running(unittest.TestCase):
    """Running text."""

    def test_looks(self) -> None:
        for node, html in (
            (n.Emphasis(SPAN, text()), "<em>w</em>"), (n.Strong(SPAN, text()), "<strong>w</strong>"), (n.Strike(SPAN, text()), "<s>w</s>"),
            (n.Raised(SPAN, text(), True), "<sub>w</sub>"), (n.Raised(SPAN, text()), "<sup>w</sup>"), (n.SmallCaps(SPAN, text()), '<span class="small-caps">w</span>'),
            (n.HardBreak(SPAN), "<br>\n"), (n.SoftBreak(SPAN), "\n"), (n.Answered(SPAN, text(), "{= w}"), "w"),
            (n.Answered(SPAN, text("0.33"), "", "0.3333"), '<data value="0.3333" title="0.3333">0.33</data>'),
        ):  # fmt: skip
            self.assertEqual(inline(node), html)

    def test_data_is_never_markup(self) -> None:
        for node in (
            n.Text(SPAN, EVIL),
            n.Code(SPAN, EVIL),
            n.Superscript(SPAN, EVIL),
            n.Answered(SPAN, text(EVIL), "", EVIL),
            n.Link(SPAN, "https://a.example/" + EVIL, EVIL, text(EVIL)),
        ):
            html = inline(node)
            self.assertNotIn("<b>", html)
            self.assertNotIn('="https://a.example/<', html)

    def test_links_lead_where_readers_may_go(self) -> None:
        for address, to, href in (
            ("https://a.example/x?a=1&b", "", "https://a.example/x?a=1&amp;b"), ("", "damp", "#damp"), ("javascript:alert(1)", "", ""), ("JaVaScRiPt:x", "", ""),
            ("data:text/html,x", "", ""), ("page.html#x", "", "page.html#x"), ("mailto:a@b.example", "", "mailto:a@b.example"),
        ):  # fmt: skip
            with self.subTest(address):
                self.assertIn(f'<a href="{href}"', inline(n.Link(SPAN, address, "", text(), to)))

    def test_notes_stand_once_and_lead_back(self) -> None:
        writer = HtmlWriter(language_of("en"), False)
        inner = n.Footnote(SPAN, "b", (n.Paragraph(SPAN, text("inner")),), number=2)
        note = n.Footnote(SPAN, "a", (n.Paragraph(SPAN, (*text("outer"), inner)),), number=1)
        called = writer.inlines((note, note))
        self.assertEqual([f'id="call-1{more}"' in called for more in ("", "-2", "-3")], [True, True, False])
        notes = writer.notes()
        self.assertEqual([notes.count(f'<li id="note-{number}"') for number in (1, 2)], [1, 1])
        self.assertLess(notes.index("outer"), notes.index("inner"))


class Blocks(unittest.TestCase):
    """Blocks."""

    def test_headings_are_one_deeper_below_a_title_and_never_deeper_than_six(self) -> None:
        heading = n.Heading(SPAN, 2, text(EVIL), label='a"b', number="1.2", word="Appendix")
        self.assertTrue(
            block(heading).startswith('<h2 id="a&quot;b"><span class="number">Appendix\u00a01.2</span>&lt;b&gt;')
        )
        self.assertTrue(block(heading, titled=True).startswith("<h3"))
        self.assertTrue(block(n.Heading(SPAN, 6, text(), label="x"), titled=True).startswith("<h6"))

    def test_lists(self) -> None:
        def item(words: str, done: bool | None = None, tight: bool = True) -> n.Item:
            return n.Item(SPAN, (n.Paragraph(SPAN, text(words), tight),), done)

        self.assertEqual(block(n.List(SPAN, (item("a"), item("b")), False)), "<ul>\n<li>a</li>\n<li>b</li>\n</ul>")
        self.assertEqual(
            block(n.List(SPAN, (item("a", tight=False),), True, 3)), '<ol start="3">\n<li><p>a</p></li>\n</ol>'
        )
        task = block(n.List(SPAN, (item("buy " + EVIL, True),), False))
        self.assertIn(
            ' class="task"><input type="checkbox" disabled checked aria-label="buy &lt;b&gt;&amp;&quot;&#x27;">', task
        )

    def test_boxes_and_columns(self) -> None:
        box = n.Container(SPAN, 'odd "kind"', n.Attributes(label="x"), (n.Paragraph(SPAN, text()),), text("T"))
        html = block(box)
        self.assertIn('class="box of-odd--kind-" id="x" role="note" aria-label="T"', html)
        beside = n.Container(
            SPAN, "side-by-side", n.Attributes(), (n.Paragraph(SPAN, text("a")), n.Paragraph(SPAN, text("b")))
        )
        self.assertEqual(block(beside).count("<div><p>"), 2)
        self.assertEqual(block(n.Container(SPAN, "in html", n.Attributes(), (n.Paragraph(SPAN, text()),))), "<p>w</p>")

    def test_code_and_output(self) -> None:
        line = n.CodeLine((n.Token(EVIL, "name"), n.Token("()", "")), True, "a")
        code = n.CodeBlock(SPAN, "python", (line,), asides=(text("why"),), first_number=0)
        html = block(code)
        self.assertIn('<span class="line picked" data-line="">', html)
        self.assertIn('<span class="aside">a</span>', html)
        self.assertIn('<ol class="asides"><li>why</li></ol>', html)
        self.assertNotIn("<b>", html)
        self.assertIn("<details", block(n.CodeBlock(SPAN, "python", (line,), tucked=True, name="load")))
        self.assertIn(
            '<figure class="listing" id="l">', block(n.CodeBlock(SPAN, "", (line,), label="l", caption=text("C")))
        )
        self.assertIn("&lt;b&gt;", block(n.OutputText(SPAN, EVIL, "output", "3 more")))

    def test_simple_ones(self) -> None:
        for node, html in (
            (n.Quote(SPAN, (n.Paragraph(SPAN, text()),)), "<blockquote>\n<p>w</p>\n</blockquote>"), (n.Rule(SPAN), "<hr>"), (n.AppendixBreak(SPAN), ""),
            (n.Definitions(SPAN, (n.Definition(SPAN, text("t"), ((n.Paragraph(SPAN, text("m"), True),),)),)), "<dl>\n<dt>t</dt>\n<dd>m</dd>\n</dl>"),
            (n.AboutHere(SPAN, EVIL), '<p class="about-here">&lt;b&gt;&amp;"\'</p>'),
        ):  # fmt: skip
            self.assertEqual(block(node), html)


class Typeset(unittest.TestCase):
    """What the typesetter is given."""

    def test_texts_are_strings_that_nothing_ends(self) -> None:
        for words in ('a"b', "a\\b", "#set x", "$x$", "line\nbreak", "\\u{0}", 'end"; #panic("x")'):
            made = string(words)
            self.assertEqual((made[0], made[-1]), ('"', '"'))
            inner = made[1:-1]
            self.assertNotRegex(inner.replace("\\\\", ""), r'(?<!\\)"')
            self.assertNotIn("\n", inner)


if __name__ == "__main__":
    unittest.main()
