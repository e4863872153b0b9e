"""Running text. Markup does not nest here: of looks within each other the inner ones count, and every word stays."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import assert_never

from wornpage.output.links import is_safe
from wornpage.output.picture_files import PictureFiles
from wornpage.output.rst import letters
from wornpage.tree import nodes as n
from wornpage.tree.walk import words_of

BREAK = "\x00"
"""Where a line ends to the reader: what stands around words knows how that is said there."""
_BEHIND = " \n.,;!?" + BREAK
_TALLEST_AMONG_WORDS = 4.0
"""Centimetres of a picture among words."""
Piece = tuple[bool, str]
"""Whether it is markup, which must not touch letters; and what is written."""


class Running:
    """Writes running text, and gathers what stands at the end of the file for it."""

    def __init__(
        self,
        goals: frozenset[str],
        pictures: PictureFiles,
        blocks: Callable[[n.Blocks], str],
        left_out: Callable[[n.RawHtmlInline], None],
    ) -> None:
        self.goals, self.pictures, self._blocks, self.left_out = goals, pictures, blocks, left_out
        self.at_end: dict[str, str] = {}
        """Notes and pictures among words, by what calls them."""

    def words(self, inlines: n.Inlines, at_beginning: bool = True) -> str:
        """Running text; `at_beginning` says that it begins a line."""
        made = "" if at_beginning else "x"
        touches = False
        for is_markup, written in self._pieces(inlines, ""):
            opens = not made or made[-1] in "\n" + BREAK
            piece = letters.at_beginning(written) if opens and not is_markup else written
            if not piece:
                continue
            apart = (touches and piece[0] not in _BEHIND) or (is_markup and not opens and made[-1] not in " \n")
            made += "\\ " * apart + piece
            touches = is_markup
        return made if at_beginning else made[1:]

    def line(self, inlines: n.Inlines) -> str:
        """Running text in one line."""
        return " ".join(self.words(inlines).replace(BREAK, " ").split("\n")).strip()

    # --- pieces -------------------------------------------------------------------------------

    def _pieces(self, inlines: n.Inlines, look: str) -> Iterator[Piece]:
        for node in inlines:
            yield from self._of(node, look)

    def _of(self, node: n.Inline, look: str) -> Iterator[Piece]:
        match n.composed_inline(node):
            case n.Text(text=text):
                yield from _looking(text, look)
            case n.Emphasis(children=children):
                yield from self._pieces(children, look or "*")
            case n.Strong(children=children):
                yield from self._pieces(children, "**")
            case n.Strike(children=children) | n.SmallCaps(children=children) | n.Citation(children=children):
                yield from self._pieces(children, look)
            case n.Answered(children=children):
                yield from self._pieces(children, look)
            case n.Raised(children=children, below=below):
                yield True, letters.role("sub" if below else "sup", words_of(children))
            case n.Superscript(text=text):
                yield True, letters.role("sup", text)
            case n.Code(text=text):
                yield True, letters.literal(text)
            case n.Link() as link:
                yield from self._link(link, look)
            case n.SoftBreak():
                yield False, "\n"
            case n.HardBreak():
                yield False, BREAK
            case n.Math(alt=alt, latex=latex):
                latex = " ".join(latex.split())
                yield (False, letters.text(alt)) if not latex or "`" in latex else (True, f":math:`{latex}`")
            case n.InlinePicture(picture=picture):
                yield True, self._picture(picture)
            case n.Footnote() as note:
                yield True, self._footnote(note)
            case n.Anchor():
                pass
            case n.RawHtmlInline(html=html) as tag:
                if html.lower().startswith("<br"):
                    yield False, BREAK
                else:
                    self.left_out(tag)
            case never:
                assert_never(never)

    def _link(self, node: n.Link, look: str) -> Iterator[Piece]:
        words = words_of(node.children).strip()
        leads = node.to in self.goals and not node.page if node.to else bool(node.address) and is_safe(node.address)
        if not leads or not words:
            yield from self._pieces(node.children, look)
            return
        goal = f"{node.to}_" if node.to else _address(node.address)
        said = letters.text(words).replace("<", "\\<").replace("\n", " ")
        yield True, f"`{said} <{goal}>`__"

    def _picture(self, picture: n.Picture) -> str:
        path = self.pictures.file(picture, "among-words")
        name = f"|worn-{len(self.at_end) + 1}|"
        height = min(picture.height or 1.0, _TALLEST_AMONG_WORDS)
        self.at_end[name] = (
            f".. {name} image:: {path}\n   :alt: {option(picture.alt) or 'picture'}\n   :height: {height:.3g}cm"
        )
        return name

    def _footnote(self, note: n.Footnote) -> str:
        name = f"[#worn-note-{note.number}]"
        if name not in self.at_end:
            self.at_end[name] = ""  # a note within it comes after it
            body = self._blocks(note.blocks)
            self.at_end[name] = f".. {name} {indented(body, 3).lstrip() or '..'}"
        return f"{name}_"


def _looking(text: str, look: str) -> Iterator[Piece]:
    """Words in a look, which must not begin or end with a space."""
    inner = text.strip()
    if not look or not inner:
        yield False, letters.text(text)
        return
    before, _, behind = text.partition(inner)
    yield False, letters.text(before)
    yield True, f"{look}{letters.text(inner)}{look}"
    yield False, letters.text(behind)


def _address(address: str) -> str:
    made = letters.clean(address).replace(" ", "%20").replace("<", "%3C").replace(">", "%3E").replace("`", "%60")
    made = made.replace("\\", "%5C").replace("\n", "")
    return made[:-1] + "\\_" if made.endswith("_") else made


def option(words: str) -> str:
    """Words as the value of a directive's option."""
    return " ".join(letters.clean(words).split())


def indented(text: str, by: int) -> str:
    """Lines further in; empty ones stay empty."""
    return "\n".join(" " * by + line if line else "" for line in text.split("\n"))
