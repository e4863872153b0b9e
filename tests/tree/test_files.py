"""Files that somebody has named: read if they are ordinary ones of a size that a page can have."""

import os
import unittest

from hypothesis import given
from hypothesis import strategies as st

from tests.support import FolderCase
from wornpage.tree.files import as_json, as_utf8, file_bytes, file_text, no_name


class Files(FolderCase):
    def test_ordinary_files_are_read(self) -> None:
        self.assertEqual(file_text(self.write("a.md", b"\xef\xbb\xbfW\xc3\xb6rter")), "Wörter")
        self.assertEqual(file_bytes(self.write("b", b"\x00\xff")), b"\x00\xff")
        with self.assertRaises(UnicodeDecodeError):
            file_text(self.folder / "b")

    def test_what_is_none_is_refused_without_being_opened(self) -> None:
        os.mkfifo(self.folder / "pipe")
        self.write("large", b"x" * 11)
        for name, reason in (
            ("pipe", "no ordinary file"),
            (".", "folder"),
            ("large", "more than"),
            ("a\0b", "no file's name"),
            ("none", "No such file"),
        ):
            with self.subTest(name), self.assertRaises(OSError) as caught:
                file_bytes(self.folder / name, most=10)
            self.assertIn(reason, str(caught.exception.strerror))
        with self.assertRaisesRegex(OSError, "no ordinary file"):
            file_bytes(type(self.folder)("/dev/zero"))

    def test_names_that_no_file_can_have(self) -> None:
        for name in ("a\0b", "a" * 256, "a/" * 2_500, "ü" * 128):
            self.assertTrue(no_name(name))
            with self.assertRaises((OSError, ValueError)):
                (self.folder / name).write_text("x")
        self.assertEqual([no_name(name) for name in ("a", "ü" * 127, "a/b.c", "\udcff")], [""] * 4)


class Texts(unittest.TestCase):
    @given(st.text(st.characters(codec=None), max_size=12) | st.just("\ud800a\udfff") | st.just("\ud83d\ude00"))
    def test_any_text_becomes_bytes_that_are_utf_8(self, text: str) -> None:
        self.assertIsInstance(as_utf8(text).decode(), str)
        self.assertIsInstance(as_json(text).decode(), str)
        if text.isprintable() and not any("\ud800" <= letter <= "\udfff" for letter in text):
            self.assertEqual((as_utf8(text).decode(), as_json(text).decode()), (text, text))


if __name__ == "__main__":
    unittest.main()
