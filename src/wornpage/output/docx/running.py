"""Running text: letters in their looks, links, fields that point, notes, formulas and pictures among words."""

from __future__ import annotations

import unicodedata
from collections.abc import Callable
from typing import assert_never

from msgspec.structs import replace

from wornpage.output.docx.carrying import Carrier
from wornpage.output.docx.pictures import Pictures
from wornpage.output.docx.places import Bookmarks, bookmark
from wornpage.output.docx.remarks import around
from wornpage.output.docx.xml import PLAIN, Look, field, run
from wornpage.output.links import is_safe
from wornpage.output.ooxml.formulas import equation
from wornpage.output.ooxml.package import Relations
from wornpage.output.pointing import Goal, ends_with_number
from wornpage.tree import nodes as n
from wornpage.tree.walk import words_of

_TALLEST_AMONG_WORDS = 4.0
"""Centimetres of a picture among words."""


class Running:
    """Writes running text into one part of the document; each part has relations of its own."""

    def __init__(
        self,
        ids: dict[str, str],
        goals: dict[str, Goal],
        bookmarks: Bookmarks,
        pictures: Pictures,
        relations: Relations,
        note: Callable[[n.Footnote], str],
        left_out: Callable[[n.RawHtmlInline], None],
        carrier: Carrier,
        rtl: bool,
    ) -> None:
        self.ids, self.goals, self.bookmarks, self.pictures = ids, goals, bookmarks, pictures
        self.note, self.left_out, self.carrier, self.rtl = note, left_out, carrier, rtl
        self.relations = relations
        self.takes_comments = True
        """Whether there can be comments in this part: in notes there are none."""
        self.room = 16.0
        """Centimetres from side to side where the text now stands."""

    def words(self, inlines: n.Inlines, look: Look = PLAIN) -> str:
        """Running text as runs and what stands among them."""
        return "".join(self.word(inline, look) for inline in inlines)

    def block(self, inlines: n.Inlines, look: Look = PLAIN) -> str:
        """The running text of a paragraph, in a bookmark that says where it is written."""
        if not inlines:
            return ""
        span = inlines[0].span
        made = self.bookmarks.around(self.carrier.block(span), self.words(inlines, look))
        for thread in self.carrier.remarks(span) if self.takes_comments else ():
            made = around(made, thread)
        return made

    def marked(self, node: n.Inline, inner: str) -> str:
        """What a mark has become, in a bookmark that says where it is written."""
        return self.bookmarks.around(self.carrier.mark(node.span), inner)

    def text(self, text: str, look: Look = PLAIN) -> str:
        """Letters in a look."""
        if not self.rtl or look.is_code:
            return run(text, look.properties())
        return "".join(run(part, replace(look, rtl=is_rtl).properties()) for part, is_rtl in _by_direction(text))

    def word(self, node: n.Inline, look: Look) -> str:
        """One node."""
        match n.composed_inline(node):
            case n.Text(text=text):
                return self.text(text, look)
            case n.Emphasis(children=children):
                return self.words(children, replace(look, italic=True))
            case n.Strong(children=children):
                return self.words(children, replace(look, bold=True))
            case n.Strike(children=children):
                return self.words(children, replace(look, strike=True))
            case n.SmallCaps(children=children):
                return self.words(children, replace(look, small_caps=True))
            case n.Raised(children=children, below=below):
                return self.words(children, replace(look, height="subscript" if below else "superscript"))
            case n.Superscript(text=text):
                return self.text(text, replace(look, height="superscript"))
            case n.Code(text=text):
                return self.text(text, replace(look, style=self.ids["CodeText"], is_code=True))
            case n.Citation(anchor=anchor, children=children):
                return self.marked(node, self.bookmarks.around(bookmark(anchor), self.words(children, look)))
            case n.Answered(children=children, raw=raw):
                inner = self.words(children, look)
                return self.marked(node, inner) if raw else inner
            case n.Link() as link:
                return self.link(link, look)
            case n.SoftBreak():
                return self.text(" ", look)
            case n.HardBreak():
                return f"<w:r>{look.properties()}<w:br/></w:r>"
            case n.Math(formula=formula):
                return self.marked(node, equation(formula))
            case n.InlinePicture(picture=picture):
                return self.marked(node, self.picture(picture))
            case n.Footnote() as note:
                return self.marked(node, self.note(note))
            case n.Anchor(label=label):
                return self.bookmarks.around(bookmark(label), "<w:r/>")
            case n.RawHtmlInline(html=html) as tag:
                if html.lower().startswith("<br"):
                    return "<w:r><w:br/></w:r>"
                self.left_out(tag)
                return ""
            case never:
                assert_never(never)

    def picture(self, picture: n.Picture) -> str:
        """A picture among words; words in its place where it cannot be shown."""
        if not self.pictures.can_show(picture):
            return self.text(f"[{picture.alt}]" if picture.alt else "")
        return self.pictures.drawing(picture, self.relations, self.room, _TALLEST_AMONG_WORDS)

    # --- links --------------------------------------------------------------------------------

    def link(self, node: n.Link, look: Look) -> str:
        """To a place of the document, as a field where it says a number; or to an address."""
        if node.to and not node.page:
            return self.pointer(node, look)
        inner = self.words(node.children, replace(look, style=self.ids["Hyperlink"]))
        if node.to or not node.address or not inner or not is_safe(node.address):
            return self.words(node.children, look)
        return f'<w:hyperlink r:id="{self.relations.address(node.address)}" w:history="1">{inner}</w:hyperlink>'

    def pointer(self, node: n.Link, look: Look) -> str:
        """Words that lead to a label; the number in them follows when things are moved."""
        goal, name = self.goals.get(node.to), bookmark(node.to)
        if goal is None:
            return self.words(node.children, look)
        words = words_of(node.children)
        head, code, rest = _as_field(words, goal, node.to)
        if not code:
            return f'<w:hyperlink w:anchor="{name}" w:history="1">{self.words(node.children, look)}</w:hyperlink>'
        told = words[len(head) : len(words) - len(rest)]
        made = field(code, self.text(told, look), look.properties())
        before, after = self._leading(name, head, look), self._leading(name, rest, look)
        return before + made + after

    def _leading(self, name: str, words: str, look: Look) -> str:
        return f'<w:hyperlink w:anchor="{name}" w:history="1">{self.text(words, look)}</w:hyperlink>' if words else ""


def _as_field(words: str, goal: Goal, label: str) -> tuple[str, str, str]:
    """What stands before, the code of, and what stands behind the field that says what a pointer says; no code for none."""
    whole = f"{goal.word}\u00a0{goal.number}"
    match goal.kind:
        case "captioned" if words.startswith(whole) and len(words) - len(whole) <= 2:
            return "", f"REF {bookmark(label, 'ref')} \\h", words[len(whole) :]
        case "captioned" | "equation" if ends_with_number(words, goal.number):
            place = words.rindex(goal.number)
            return words[:place], f"REF {bookmark(label, 'num')} \\h", words[place + len(goal.number) :]
        case "heading" if goal.number and goal.word and words == whole:
            return "", f"REF {bookmark(label)} \\r \\h", ""
        case "heading" if (
            goal.number and not goal.word and words.endswith(goal.number) and len(words) < len(goal.number) + 20
        ):
            return words[: -len(goal.number)], f"REF {bookmark(label)} \\r \\h", ""
        case "heading" if words == goal.words and words:
            return "", f"REF {bookmark(label)} \\h", ""
    return "", "", ""


def _by_direction(text: str) -> list[tuple[str, bool]]:
    """Stretches of text, and whether each runs from right to left; what has no direction goes with what is before it."""
    parts: list[tuple[str, bool]] = []
    for letter in text:
        kind = unicodedata.bidirectional(letter)
        is_rtl = kind in {"R", "AL", "AN"} or (kind not in {"L", "EN"} and (parts[-1][1] if parts else True))
        if parts and parts[-1][1] is is_rtl:
            parts[-1] = (parts[-1][0] + letter, is_rtl)
        else:
            parts.append((letter, is_rtl))
    return parts
