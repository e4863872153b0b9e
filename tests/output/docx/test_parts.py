"""Parts of documents by themselves: numbers of headings, names of bookmarks, comments on their words."""

import re
import unittest

from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from wornpage.output.docx.numbering import NOWHERE, Numbering
from wornpage.output.docx.places import Bookmarks, bookmark
from wornpage.output.docx.remarks import Threaded, around
from wornpage.output.docx.xml import Look, field, run
from wornpage.source.comments import stretch

W = "http://schemas.openxmlformats.org/wordprocessingml/2006/main"
LETTERS = st.text(st.sampled_from("ab &<é😀."), min_size=1, max_size=6)


class Numbers(unittest.TestCase):
    def places(self, *headings: tuple[int, str], appendix: bool = False) -> list[tuple[int, int]]:
        """List and level of each heading, from its level and number."""
        numbering = Numbering(0, "Appendix", ())
        return [
            (one.list, one.level) for level, number in headings for one in [numbering.heading(level, number, appendix)]
        ]

    def test_headings_that_count_on_are_in_one_list(self) -> None:
        found = self.places((1, "1"), (2, "1.1"), (2, "1.2"), (1, "2"), (3, "2.0.1"), (2, "2.1"))
        self.assertEqual(len({number for number, _ in found}), 1)
        self.assertEqual([level for _, level in found], [0, 1, 1, 0, 2, 1])

    def test_a_number_that_jumps_begins_a_list(self) -> None:
        first, second, third = self.places((1, "1"), (1, "4"), (1, "5"))
        self.assertNotEqual(first[0], second[0])
        self.assertEqual(second[0], third[0])

    def test_appendices_count_by_themselves(self) -> None:
        self.assertNotEqual(self.places((1, "1"))[0][0], self.places((1, "A"), appendix=True)[0][0])
        self.assertIn('w:val="0"', NOWHERE.xml())


class Names(unittest.TestCase):
    @given(st.text(min_size=1, max_size=90), st.text(min_size=1, max_size=90))
    def test_every_label_has_a_name_of_its_own_that_programs_take(self, one: str, other: str) -> None:
        for label in (one, other):
            self.assertRegex(bookmark(label), r"^[A-Za-z_]\w*$")
            self.assertLessEqual(len(bookmark(label)), 40)
        if one != other:
            self.assertNotEqual(bookmark(one), bookmark(other))

    def test_a_name_is_set_once(self) -> None:
        marks = Bookmarks(7)
        self.assertIn('w:id="7" w:name="to_a"', marks.around("to_a", "x"))
        self.assertEqual(marks.around("to_a", "x"), "x")
        self.assertEqual(marks.around("", "x"), "x")


class Comments(unittest.TestCase):
    def read(self, made: str) -> tuple[str, str]:
        """What a paragraph says, and what in it is commented on."""
        root = etree.fromstring(f'<w:p xmlns:w="{W}" xmlns:r="r">{made}</w:p>')
        text, inside, is_inside = "", "", False
        for one in root.iter():
            name = etree.QName(one).localname
            is_inside = name == "commentRangeStart" or (is_inside and name != "commentRangeEnd")
            if name == "t":
                text += one.text or ""
                inside += (one.text or "") * is_inside
        return text, inside

    @given(st.lists(LETTERS, min_size=1, max_size=6), st.data())
    def test_a_comment_is_on_its_words_whatever_runs_they_stand_in(self, parts: list[str], data: st.DataObject) -> None:
        looks = [Look(), Look(bold=True), Look(style="CodeText")]
        made = "".join(run(part, looks[at % 3].properties()) for at, part in enumerate(parts))
        text = "".join(parts)
        begin = data.draw(st.integers(0, len(text) - 1))
        quote = text[begin : data.draw(st.integers(begin + 1, len(text)))]
        said, inside = self.read(around(made, Threaded((3,), quote)))
        self.assertEqual((said, inside), (text, quote))

    def test_words_of_fields_count_and_their_codes_do_not(self) -> None:
        made = run("see ") + field("REF to_x \\h", run("Figure 1")) + run(", said he")
        told = around(made, Threaded((0, 1), "Figure 1, said"))
        self.assertEqual(self.read(told), ("see Figure 1, said he", "Figure 1, said"))
        self.assertEqual(len(re.findall("commentReference", told)), 2, "an answer stands at the same words")

    def test_where_the_words_are_gone_it_is_on_all(self) -> None:
        self.assertEqual(self.read(around(run("Dry days."), Threaded((0,), "wet weeks")))[1], "Dry days.")

    def test_words_that_were_changed_a_little_are_found(self) -> None:
        text = "Damp rises from that river every autumn."
        for quote, found in {
            "rises from the river": "rises from that river", "from that river": "from that river", "a dry room": "", "": "",
        }.items():  # fmt: skip
            begin, end = stretch(text, quote)
            self.assertEqual(text[begin:end] if begin >= 0 else "", found, quote)
