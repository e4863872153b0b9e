"""Which lines are a block, and writing other ones in their place."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.support import FolderCase
from wornpage.proof.editing import opened, write_block
from wornpage.source import read_page
from wornpage.tree.problem import UsageError

BLOCKS = (
    "# One {#a}", "A paragraph\nof two lines.[^n]", "- a\n\n  b\n- c", "| a |\n|---|\n| 1 |\n\nCaption: T", "```python run #CHUNK\n1\n\n2\n```\nCaption: F\nLabel: lCHUNK",
    "> quote\n>\n> more", "::: note T\nin\n\nit\n:::", "Term\n: meaning", "$$ x $$\nLabel: mCHUNK", "Setext\n======", "{contents}", "~~~\ncode\n\n# no heading\n~~~", "1. x\n2. y\n\n{steps=yes}",
)  # fmt: skip


class Blocks(FolderCase):
    @given(st.lists(st.sampled_from(BLOCKS), min_size=1, max_size=8), st.integers(1, 3))
    @settings(max_examples=80, deadline=None)
    def test_each_is_opened_whole_and_alone(self, blocks: list[str], gap: int) -> None:
        texts = [block.replace("CHUNK", f"c{at}") for at, block in enumerate(blocks)]
        path = self.write(
            "page.md", ("---\ntitle: T\n---\n\n" + ("\n" * gap + "\nBetween.\n\n").join(texts) + "\n").encode()
        )
        page = read_page(path, "page.md")
        lines = page.text.split("\n")
        for text in texts:
            first = (
                next(at for at in range(len(lines)) if lines[at : at + text.count("\n") + 1] == text.split("\n")) + 1
            )
            self.assertEqual(opened(page, first).text, text)

    def test_notes_and_front_matter_are_no_part_of_it(self) -> None:
        path = self.write("page.md", "---\ntitle: T\n---\n\nWords.[^n]\n\n[^n]: A note.\n\nMore.\n")
        page = read_page(path, "page.md")
        self.assertEqual(opened(page, 5).text, "Words.[^n]")
        with self.assertRaises(UsageError):
            opened(page, 2)

    def test_writing_keeps_everything_else(self) -> None:
        before = b"---\r\ntitle: T\r\n---\r\n\r\nOne.\r\n\r\nTwo.  \r\n\r\n\r\nThree."
        path = self.write("page.md", before)
        page = read_page(path, "page.md")
        write_block(path, page, 7, "Two.  ", "2\n\nand a half\n\n")
        self.assertEqual(path.read_bytes(), before.replace(b"Two.  ", b"2\r\n\r\nand a half"))
        with self.assertRaisesRegex(UsageError, "meanwhile"):
            write_block(path, page, 7, "Two.  ", "again")
