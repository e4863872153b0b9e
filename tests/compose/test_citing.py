"""Citations of a page: in brackets, in notes, in files that list their own, and what is wrong with them."""

import unittest

from tests.compose.drafts import ComposeCase, paragraphs_of
from wornpage.compose.citing import Notes, anchor_of, set_close
from wornpage.tree import nodes as n
from wornpage.tree.span import Span
from wornpage.tree.walk import walk, words_of

SPAN = Span("page.md", 1)
BOOKS = """
@book{reed, author = {Reed, Ann}, title = {Damp}, year = {2001}, publisher = {Quay}}
@book{moss:2002/a, author = {Moss, Bob}, title = {Acid}, year = {2002}, publisher = {Quay}}
"""
NOTES = """<style xmlns="http://purl.org/net/xbiblio/csl" class="note" version="1.0"><citation><layout suffix="." delimiter="; ">
<choose><if position="ibid"><text term="ibid"/></if><else-if position="subsequent"><names variable="author"><name form="short"/></names></else-if>
<else><group delimiter=", "><names variable="author"/><text variable="title" font-style="italic"/></group></else></choose><text variable="locator" prefix=", "/>
</layout></citation></style>"""


class Citations(ComposeCase):
    def cited(self, text: str, style: str = "author-year") -> n.Composed:
        self.write("b.bib", BOOKS)
        self.write("notes.csl", NOTES)
        return self.sound(f"---\nbibliography: b.bib\ncitation-style: {style}\n---\n{text}")

    def test_the_list_has_a_heading_and_stands_before_the_appendix(self) -> None:
        page = self.cited("# One\n\n{cite reed}\n\n{appendix}\n\n# More\n\n{cite moss:2002/a}\n")
        self.assertEqual(
            [(one.number, one.label) for one in page.contents], [("1", "one"), ("", "references"), ("A", "more")]
        )
        (listed,) = [node for node in walk(page.blocks) if isinstance(node, n.ReferenceList)]
        self.assertEqual([entry.anchor for entry in listed.entries], ["ref-moss:2002-a", "ref-reed"])
        targets = [node.to for node in walk(page.blocks) if isinstance(node, n.Link)]
        self.assertEqual(targets, ["ref-reed", "ref-moss:2002-a"])

    def test_notes_are_close_to_their_words_and_said_within_notes_that_are_there(self) -> None:
        page = self.cited(
            "So {cite reed p. 4} and\n{cite reed p. 4}.[^a] Or {cite moss:2002/a}.[^b]\n\n[^a]: See {cite reed p. 7}, {cite reed}, {cite reed}.\n[^b]: {cite moss:2002/a}, says {cite reed}.\n",
            "notes.csl",
        )
        notes = [node for node in walk(page.blocks) if isinstance(node, n.Footnote)]
        said = {
            note.number: words_of(note.blocks[0].children) for note in notes if isinstance(note.blocks[0], n.Paragraph)
        }
        self.assertEqual(said[1], "Ann Reed, Damp, 4.")
        self.assertEqual(said[2], "Ibid., 4.")
        self.assertEqual(said[3], "See ibid., 7, Reed, ibid.")
        self.assertEqual(said[5], "Ibid., says Reed.")
        text = next(node for node in page.blocks if isinstance(node, n.Paragraph)).children
        plain = [node.text for node in text if isinstance(node, n.Text)]
        self.assertEqual(plain[:2], ["So", " and"])

    def test_authors_and_years_alone_make_no_notes(self) -> None:
        page = self.cited("{cite reed as author} ({cite reed as year}) says.\n", "notes.csl")
        self.assertEqual(paragraphs_of(page)[0], "Reed (2001) says.")

    def test_no_stop_stands_twice(self) -> None:
        self.write(
            "b.bib",
            "@book{many, author = {Reed, A. and Moss, B. and Berg, C. and Ide, D. and Lee, E.}, title = {T}, year = {2001}}",
        )
        page = self.sound(
            "---\nbibliography: b.bib\n---\nSays {cite many as author}. And {cite many as author}... {cite many}.\n"
        )
        self.assertEqual(paragraphs_of(page)[0], "Says Reed et al. And Reed et al.... (Reed et al. 2001).")

    def test_faults_are_told_where_they_are(self) -> None:
        self.write("b.bib", BOOKS)
        for head, text, what, hint in (
            ("bibliography: b.bib", "{cite red}", "no entry has the key 'red'", "reed"),
            ("bibliography: b.bib", "{cite moss-acid}", "no entry has the key", "moss:2002/a"),
            ("title: T", "{cite reed}", "names no bibliography", "bibliography:"),
            ("bibliography: b.bib\ncitation-style: author-yaer", "{cite reed}", "no citation style", "author-year"),
            ("bibliography: b.bib", "{cite reed}\n\n{references}\n\n{references}", "stand already in line", "once"),
        ):  # fmt: skip
            with self.subTest(text):
                _, problems = self.composed(f"---\n{head}\n---\n{text}\n")
                self.assertEqual([what in one.what and hint in one.hint for one in problems], [True], problems)


class Pieces(unittest.TestCase):
    def test_anchors_hold_no_sign_that_an_address_could_not(self) -> None:
        self.assertEqual(anchor_of("Müller/2001 a&b"), "ref-Müller-2001-a-b")

    def test_notes_count_by_their_first_call(self) -> None:
        def note(key: str, *inner: n.Inline) -> n.Footnote:
            return n.Footnote(SPAN, key, (n.Paragraph(SPAN, inner),))

        tree = (note("b"), note("a", note("c")), note("b"), note("d"))
        made = Notes().numbered(tree)
        self.assertEqual([(one.number, one.first) for one in made], [(1, True), (2, True), (1, False), (4, True)])

    def test_only_high_citations_come_close(self) -> None:
        high = n.Citation(SPAN, "c", (n.Link(SPAN, "", "", (n.Raised(SPAN, (n.Text(SPAN, "1"),), False),), "ref-a"),))
        plain = n.Citation(SPAN, "c", (n.Text(SPAN, "[1]"),))
        for node, expected in ((high, "word"), (plain, "word  ")):
            text = n.Text(SPAN, "word  ")
            (paragraph,) = set_close((n.Paragraph(SPAN, (text, node)),))
            self.assertEqual(paragraph.children[0].text, expected)
        same = (n.Paragraph(SPAN, (n.Text(SPAN, "a "), plain)),)
        self.assertIs(set_close(same), same)


if __name__ == "__main__":
    unittest.main()
