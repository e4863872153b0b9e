"""Pages that a tool changes while people write them."""

from __future__ import annotations

from tests.support import FolderCase
from wornpage.output.atomic import write_file
from wornpage.source.editing import write_page
from wornpage.tree.problem import UsageError


class Editing(FolderCase):
    def test_line_ends_links_and_marks_stay(self) -> None:
        for before, after in (
            (b"a\r\nb\r\n", b"a\r\nc\r\n"),
            (b"\xef\xbb\xbfa\nb\n", b"\xef\xbb\xbfa\nc\n"),
            (b"a\rb\r", b"a\rc\r"),
        ):
            real = self.write("real.md", before)
            link = self.folder / "page.md"
            link.unlink(missing_ok=True)
            link.symlink_to(real)
            write_page(link, "a\nb\n", "a\nc\n", write_file)
            self.assertEqual(real.read_bytes(), after)
            self.assertTrue(link.is_symlink())

    def test_a_page_that_is_another_meanwhile_stays_as_it_is(self) -> None:
        page = self.write("page.md", b"a\nbb\n")
        with self.assertRaisesRegex(UsageError, "changed meanwhile"):
            write_page(page, "a\nb\n", "a\nc\n", write_file)
        mixed = self.write("mixed.md", b"a\r\nb\n")
        with self.assertRaisesRegex(UsageError, "line"):
            write_page(mixed, "a\nb\n", "a\nc\n", write_file)
        self.assertEqual((page.read_bytes(), mixed.read_bytes()), (b"a\nbb\n", b"a\r\nb\n"))
