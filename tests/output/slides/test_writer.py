"""What stands on slides in the browser, piece by piece."""

import re
import unittest

from tests.support import FolderCase
from wornpage.compose.language import TABLE, language_of
from wornpage.output.slides.writer import SlideWriter
from wornpage.press import press
from wornpage.tree import nodes as n
from wornpage.tree.span import Span

SPAN = Span("p.md", 1)


class Pieces(unittest.TestCase):
    def setUp(self) -> None:
        self.writer = SlideWriter(language_of("en"), 2, "p.md")
        self.writer.begin()

    def test_what_comes_with_a_step_says_with_which(self) -> None:
        text = n.Paragraph(SPAN, (n.Text(SPAN, "x"),), True)
        it = n.List(SPAN, (n.Item(SPAN, (text,), step=1), n.Item(SPAN, (text,), done=False, step=2)), ordered=False)
        made = self.writer.blocks((it, n.Container(SPAN, "step", n.Attributes("here"), (text,), step=3)))
        self.assertEqual(re.findall(r'data-step="(\d)"', made), ["1", "2", "3"])
        self.assertIn('class="task" data-step="2"', made)
        self.assertIn('class="step" id="here"', made)

    def test_lines_say_in_which_turns_they_are_picked(self) -> None:
        lines = (n.CodeLine((n.Token("a", ""),), True, 0, (1, 3)), n.CodeLine((n.Token("b", ""),), True, 0, (2, 3)))
        made = self.writer.blocks((n.CodeBlock(SPAN, "", lines, step=4),))
        self.assertIn('data-after="4" data-turns="3"', made)
        self.assertEqual(re.findall(r'class="line picked"[^>]*data-turns="([^"]*)"', made), ["1 3", "2 3"])
        plain = self.writer.blocks((n.CodeBlock(SPAN, "", (n.CodeLine((), True),)),))
        self.assertNotIn("turns", plain)

    def test_a_note_stands_on_each_slide_that_calls_it_and_has_its_place_once(self) -> None:
        note = n.Footnote(SPAN, "a", (n.Paragraph(SPAN, (n.Text(SPAN, "Said."),)),), 1)
        first = self.writer.inlines((note, note)) + self.writer.notes_below()
        self.writer.begin()
        second = self.writer.inlines((note,)) + self.writer.notes_below()
        self.assertEqual([first.count("Said."), second.count("Said.")], [1, 1])
        ids = re.findall(r'id="([^"]+)"', first + second)
        self.assertEqual(len(ids), len(set(ids)))
        self.writer.begin()
        self.assertEqual(self.writer.notes_below(), "")

    def test_headings_within_a_slide_are_deeper_than_its_title(self) -> None:
        made = [
            self.writer.block(n.Heading(SPAN, level, (n.Text(SPAN, "h"),), label=f"h{level}")) for level in (1, 3, 6)
        ]
        self.assertEqual([one[:3] for one in made], ["<h3", "<h3", "<h6"])

    def test_every_language_has_all_words(self) -> None:
        wanted = set(language_of("en").slides)
        for code in TABLE:
            with self.subTest(code):
                words = language_of(code).slides
                self.assertEqual(set(words), wanted)
                self.assertTrue(all(words.values()))


class Files(FolderCase):
    def test_the_same_bytes_and_nothing_from_elsewhere(self) -> None:
        page = (
            "---\ntitle: T & <b>\nlanguage: de\npress: {slides: {footer: '<i>'}}\n---\n\n# A {background=#fff}\n\nx\n\n# B {fit=shrink}\n\n"
            + "y\n\n" * 30
        )
        press(self.write("a.md", page), ["slides"])
        made = (self.folder / "a.slides.html").read_bytes()
        press(self.write("a.md", page.replace("x", "z")), ["slides"])
        press(self.write("a.md", page), ["slides"])
        self.assertEqual((self.folder / "a.slides.html").read_bytes(), made)
        text = made.decode()
        self.assertEqual(re.findall(r'(?:src|href)="(?!data:|#)[^"]*"', text.partition("<body")[2]), [])
        self.assertIn('class="slide of-plain light"', text)
        self.assertRegex(text, r'style="--scale: 0\.\d+"')
        self.assertIn("&lt;i&gt;", text)
        self.assertIn('aria-roledescription="Folie"', text)

    def test_a_stationery_and_further_sheets_change_the_looks(self) -> None:
        self.write("house/stationery.toml", 'base = "report"\n')
        self.write("house/slides.css", ".slide { --ground: #fafafa; background: url(logo.svg) }")
        self.write("house/logo.svg", '<svg xmlns="http://www.w3.org/2000/svg"/>')
        self.write("more.css", "h2 { color: red } @import 'x';")
        page = "---\nstationery: house\npress: {slides: {stylesheets: [more.css]}}\n---\n\n# A\n"
        pressing = press(self.write("a.md", page), ["slides"])
        text = (self.folder / "a.slides.html").read_text(encoding="utf-8")
        self.assertLess(text.index("--ground: #ffffff"), text.index("--ground: #fafafa"))
        self.assertIn("data:image/svg+xml;base64", text)
        self.assertIn("h2 { color: red }", text)
        self.assertIn("imports no other", str(pressing.warnings[0]))
