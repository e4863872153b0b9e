"""What goes into a source in reStructuredText comes out of its reader as the same words."""

from __future__ import annotations

import re
import unittest

from hypothesis import given
from hypothesis import strategies as st

from tests.output.rst.reader import read
from wornpage.output.picture_files import PictureFiles
from wornpage.output.rst.grid import grid
from wornpage.output.rst.running import Running
from wornpage.output.rst.writer import _directive
from wornpage.tree import nodes as n
from wornpage.tree.span import Span

HERE = Span("page.md", 1)
AWKWARD = st.text(st.sampled_from("ab1 -*_`|:\\.+=~#<>[]()/\"'!?\u00a0é漢xiv\t&"), max_size=14) | st.sampled_from(
    ["1. x", "- ", "..", ".. note:: x", "a::", "__", "x_", "_x_", "`", "``", "*", "====", "+---+", ">>> f()", ":a: b", "-x  y", "http://a.b/c_", "|a|", "[1]_", "(a) b", "\\"]
)  # fmt: skip
INLINE = st.one_of(
    AWKWARD.map(lambda text: n.Text(HERE, text)),
    AWKWARD.map(lambda text: n.Code(HERE, text)),
    AWKWARD.map(lambda text: n.Emphasis(HERE, (n.Text(HERE, text),))),
    AWKWARD.map(lambda text: n.Strong(HERE, (n.Emphasis(HERE, (n.Text(HERE, text),)), n.Text(HERE, text)))),
    AWKWARD.map(lambda text: n.Raised(HERE, (n.Text(HERE, text),))),
    AWKWARD.map(lambda text: n.Link(HERE, "https://marlow.example/a_", "", (n.Text(HERE, text),))),
    st.just(n.SoftBreak(HERE)),
)
INLINES = st.lists(INLINE, max_size=5).map(tuple)


def running() -> Running:
    return Running(
        frozenset(), PictureFiles("x-files", lambda one: (one.data, one.format)), lambda _: "", lambda _: None
    )


def said(text: str) -> str:
    """What a source says; what is wrong with it, where something is."""
    found = read(text)
    return "; ".join(found.wrong) or found.text


def plain(words: str) -> str:
    return re.sub(r"\s+", "", words)


def words(inlines: tuple[n.Inline, ...]) -> str:
    made = ""
    for one in inlines:
        match one:
            case n.Text(text=text) | n.Code(text=text):
                made += text
            case n.SoftBreak():
                made += "\n"
            case _:
                made += words(one.children)  # type: ignore[attr-defined]
    return made


class Letters(unittest.TestCase):
    @given(INLINES)
    def test_running_text_is_read_as_it_was(self, inlines: tuple[n.Inline, ...]) -> None:
        made = running().words(inlines)
        self.assertEqual(said(f"Before.\n\n{made.strip()}\n\nBehind."), plain(f"Before.{words(inlines)}Behind."), made)

    @given(st.lists(st.lists(INLINES, min_size=3, max_size=3), min_size=1, max_size=3))
    def test_cells_of_a_table_are_read_as_they_were(self, rows: list[list[tuple[n.Inline, ...]]]) -> None:
        heads = ((n.HeadCell((n.Text(HERE, "wide"),), 2), n.HeadCell((n.Text(HERE, "c"),))), tuple(n.HeadCell((n.Text(HERE, one),)) for one in "xyz"))  # fmt: skip
        table = n.TextTable(heads, ("left", "right", "left"), ((rows[0][0],), *map(tuple, rows)), kinds=("group",))
        writer = running()
        drawn = grid(table, lambda cell: [line] if (line := writer.line(cell)) else [])
        expected = "wideC".lower() + "xyz" + words(rows[0][0]) + "".join(words(cell) for row in rows for cell in row)
        self.assertEqual(said("\n".join(drawn)), plain(expected), "\n".join(drawn))

    def test_output_keeps_its_depth(self) -> None:
        source = _directive("code-block", "text", {"class": "output"}, ["    deep", "", "  less", "*"])
        self.assertEqual(read(source).words, ["    deep", "", "  less", "*"])
