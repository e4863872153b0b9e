"""Running text: letters in their looks, links, pointers, citations, notes, formulas and pictures among words."""

from __future__ import annotations

from collections.abc import Callable
from typing import assert_never

from wornpage.output.links import is_safe
from wornpage.output.picture_files import PictureFiles
from wornpage.output.pointing import Goal, ends_with_number
from wornpage.output.tex import formulas, letters
from wornpage.output.tex.citing import Cites
from wornpage.tree import nodes as n
from wornpage.tree.walk import words_of

_TALLEST_AMONG_WORDS = 4.0
"""Centimetres of a picture among words."""


class Running:
    """Writes running text."""

    def __init__(
        self,
        goals: dict[str, Goal],
        pictures: PictureFiles,
        cites: Cites | None,
        blocks: Callable[[n.Blocks], str],
        left_out: Callable[[n.RawHtmlInline], None],
    ) -> None:
        self.goals, self.pictures, self.cites, self.left_out = goals, pictures, cites, left_out
        self._blocks = blocks
        self._numbers: dict[int, int] = {}
        self._waiting: list[str] | None = None
        self.in_note = False
        """Whether what is written now stands in a note."""

    def words(self, inlines: n.Inlines) -> str:
        """Running text."""
        made = "".join(self.word(inline) for inline in inlines)
        return "{[}" + made[1:] if made.startswith("[") else made

    def word(self, node: n.Inline) -> str:
        """One node."""
        match n.composed_inline(node):
            case n.Text(text=text):
                return letters.text(text)
            case n.Emphasis(children=children):
                return rf"\emph{{{self.words(children)}}}"
            case n.Strong(children=children):
                return rf"\textbf{{{self.words(children)}}}"
            case n.Strike(children=children):
                return " ".join(rf"\wornstruck{{{letters.text(one)}}}" for one in words_of(children).split())
            case n.SmallCaps(children=children):
                return rf"\textsc{{{self.words(children)}}}"
            case n.Raised(children=children, below=below):
                return rf"\text{'sub' if below else 'super'}script{{{self.words(children)}}}"
            case n.Superscript(text=text):
                return rf"\rlap{{\textsuperscript{{{letters.text(text)}}}}}"
            case n.Code(text=text):
                return rf"\texttt{{{letters.text(text, is_literal=True)}}}"
            case n.Citation() as it:
                return self.citation(it)
            case n.Answered(children=children):
                return self.literal(children)
            case n.Link() as link:
                return self.link(link)
            case n.SoftBreak():
                return "\n"
            case n.HardBreak():
                return "\\\\\n"
            case n.Math() as it:
                return formulas.within(it)
            case n.InlinePicture(picture=picture):
                return self.picture(picture)
            case n.Footnote() as note:
                return self.footnote(note)
            case n.Anchor(label=label):
                return rf"\phantomsection\label{{{letters.label(label)}}}"
            case n.RawHtmlInline(html=html) as tag:
                if html.lower().startswith("<br"):
                    return "\\\\\n"
                self.left_out(tag)
                return ""
            case never:
                assert_never(never)

    def literal(self, inlines: n.Inlines) -> str:
        """What code has given: its letters stay as they are."""
        texts = (
            letters.text(one.text, is_literal=True) if isinstance(one, n.Text) else self.word(one) for one in inlines
        )
        return "".join(texts)

    def picture(self, picture: n.Picture) -> str:
        """A picture among words."""
        height = min(picture.height or 1.0, _TALLEST_AMONG_WORDS)
        path = self.pictures.file(picture, "among-words")
        return rf"\includegraphics[height={height:.3g}cm{alternative(picture)}]{{{path}}}"

    # --- links --------------------------------------------------------------------------------

    def link(self, node: n.Link) -> str:
        """To a place of the document, where it says a number as a pointer; or to an address."""
        words = self.words(node.children)
        if node.to and not node.page:
            return self.pointer(node, words)
        if node.to or not node.address or not words or not is_safe(node.address):
            return words
        return rf"\href{{{letters.address(node.address)}}}{{{words}}}"

    def pointer(self, node: n.Link, words: str) -> str:
        """Words that lead to a label; LaTeX writes the number in them."""
        goal, label = self.goals.get(node.to), letters.label(node.to)
        if goal is None:
            return words
        plain = words_of(node.children)
        if goal.kind != "place" and ends_with_number(plain, goal.number):
            at = plain.rindex(goal.number)
            before, behind = plain[:at], plain[at + len(goal.number) :]
            return rf"{letters.text(before)}\ref{{{label}}}{letters.text(behind)}"
        return rf"\hyperref[{label}]{{{words}}}"

    def citation(self, node: n.Citation) -> str:
        """A citation: as a command, or in words."""
        made = self.cites.command(node) if self.cites is not None else ""
        if made:
            return made
        return rf"\phantomsection\label{{{letters.label(node.anchor)}}}{self.words(node.children)}"

    # --- notes --------------------------------------------------------------------------------

    def footnote(self, node: n.Footnote) -> str:
        """A note where it is first called, its number where it is called again."""
        if self.cites is not None and node.is_citation:
            return self.words(_citation_in(node))
        known = self._numbers.get(node.number)
        if known is not None:
            return rf"{'' if self._waiting is None else chr(92) + 'protect'}\footnotemark[{known}]"
        number = self._numbers[node.number] = len(self._numbers) + 1
        outer, self.in_note = self.in_note, True
        body = self._blocks(node.blocks)
        self.in_note = outer
        if self._waiting is None and not outer:
            return rf"\footnote{{{body}}}"
        (self._waiting if self._waiting is not None else []).append(
            rf"\stepcounter{{footnote}}\footnotetext[{number}]{{{body}}}"
        )
        return rf"\protect\footnotemark[{number}]" if self._waiting is not None else rf"\footnote{{{body}}}"

    def with_notes_below(self, write: Callable[[], str]) -> str:
        """What `write` gives, with its notes behind it: no note can be called within what floats."""
        if self._waiting is not None:
            return write()
        self._waiting = []
        made = write()
        waiting, self._waiting = self._waiting, None
        return "\n".join([made, *waiting])


def _citation_in(node: n.Footnote) -> n.Inlines:
    """The citation that a style has put into a note of its own."""
    first = node.blocks[0] if node.blocks else None
    return first.children if isinstance(first, n.Paragraph) else ()


def alternative(picture: n.Picture) -> str:
    """What is said of a picture to those who cannot see it, as an option."""
    return f", alt={{{letters.text(picture.alt)}}}" if picture.alt else ""
