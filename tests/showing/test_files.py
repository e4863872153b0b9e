"""What files say, whatever is in them."""

from __future__ import annotations

import io
import unittest
import zipfile

from hypothesis import given
from hypothesis import strategies as st

from wornpage.showing.files import READ, said_in


class Said(unittest.TestCase):
    def test_pages_say_their_text_and_not_how_they_are_made(self) -> None:
        page = b"<html><head><title>t</title><style>.a{}</style></head><body><nav>no</nav><p>Of <b>2</b> rooms&nbsp;&amp; one.</p><script>x()</script><ul><li>a<li>b</ul><svg><title>no</title><text>drawn</text></svg></body></html>"  # fmt: skip
        self.assertEqual(
            [" ".join(one.split()) for one in said_in(".html", page)], ["Of 2 rooms & one.", "a", "b", "drawn"]
        )

    def test_texts_are_parted_at_empty_lines(self) -> None:
        for suffix in (".tex", ".rst", ".md", ".txt"):
            self.assertEqual(said_in(suffix, b"one\ntwo\n\n\nthree"), ["one\ntwo", "three"])
        with self.assertRaises(ValueError):
            said_in(".txt", b"\xff\xfe")

    @given(st.sampled_from(sorted(READ)), st.binary(max_size=200))
    def test_damage_is_a_value_error_and_nothing_else(self, suffix: str, data: bytes) -> None:
        try:
            said_in(suffix, data)
        except ValueError as error:
            self.assertTrue(str(error))

    @given(st.sampled_from([".docx", ".pptx", ".epub", ".xlsx"]), st.dictionaries(st.sampled_from(["word/document.xml", "ppt/slides/slide1.xml", "a.opf", "xl/workbook.xml", "[Content_Types].xml"]), st.sampled_from([b"", b"<a/>", b"<!DOCTYPE a [<!ENTITY b SYSTEM 'file:///etc/passwd'>]><a>&b;</a>", b"no"]), max_size=3))  # fmt: skip
    def test_packages_of_nonsense_say_nothing_of_other_files(self, suffix: str, parts: dict[str, bytes]) -> None:
        held = io.BytesIO()
        with zipfile.ZipFile(held, "w") as archive:
            for name, data in parts.items():
                archive.writestr(name, data)
        try:
            said = said_in(suffix, held.getvalue())
        except ValueError:
            return
        self.assertNotIn("root:", " ".join(said))
