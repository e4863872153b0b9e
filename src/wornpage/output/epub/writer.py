"""The text of a book: as in HTML, with pictures as files, notes that open where they are called, and links from file to file."""

from __future__ import annotations

import re
from html import escape

from wornpage.output.epub.xhtml import as_xhtml
from wornpage.output.html.drawing import inner_drawing
from wornpage.output.html.writer import HtmlWriter
from wornpage.output.left_out import left_out
from wornpage.output.raster import as_png
from wornpage.store.hashes import hash128
from wornpage.tree import nodes as n
from wornpage.tree.language import Language
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span

_FORBIDDEN = re.compile(r"[^A-Za-z0-9_.-]")


def place_name(label: str) -> str:
    """A label as every reading program takes it."""
    plain = _FORBIDDEN.sub("-", label)
    if plain == label and label[:1].isalpha():
        return label
    return f"p-{plain}-{hash128(label.encode('utf-8', 'surrogatepass')).hexdigest()[:6]}"


class EpubWriter(HtmlWriter):
    """Writes the nodes of one file of a book."""

    def __init__(self, language: Language, file: str, places: dict[str, str], pictures: dict[str, bytes]) -> None:
        super().__init__(language, titled=False)
        self.file, self.places, self.pictures = file, places, pictures
        self.problems: list[Problem] = []

    def xhtml(self, blocks: n.Blocks) -> str:
        """Blocks with the notes that they call."""
        body = self.blocks(blocks)
        return as_xhtml(body + self.notes())

    def label(self, label: str) -> str:
        return place_name(label)

    def place(self, label: str, page: str) -> str:
        file = self.places.get(label, self.file)
        return f"{'' if file == self.file else file}#{place_name(label)}"

    def drawn_as(self, picture: n.Picture) -> str:
        """A picture as a file of the book."""
        size = f' style="width:{picture.width:.4g}cm"' if picture.width else ""
        suffix, data = picture.format, picture.data
        if suffix == "svg":
            drawn = inner_drawing(picture)
            made = drawn or as_png([("svg", picture.data, picture.width or 14.0)])[0]
            suffix, data = ("svg", drawn.encode()) if drawn else ("png", made if isinstance(made, bytes) else b"")
        if not data:
            return f"<em>{escape(picture.alt)}</em>"
        name = f"pictures/{hash128(data).hexdigest()[:16]}.{'jpg' if suffix == 'jpeg' else suffix}"
        self.pictures[name] = data
        return f'<img src="{name}" alt="{escape(picture.alt)}"{size}>'

    noteref = ' epub:type="noteref"'

    def note(self, number: int, body: str) -> str:
        """A note, which opens where it is called."""
        back = f'<a href="#call-{number}" role="doc-backlink">{number}</a> '
        body = f"<p>{back}{body[3:]}" if body.startswith("<p>") else f"<p>{back}</p>{body}"
        return f'<aside id="note-{number}" epub:type="footnote" role="doc-footnote">{body}</aside>'

    def item(self, node: n.Item) -> str:
        body = self.blocks(node.blocks)
        if node.done is None:
            return body
        box = "☑ " if node.done else "☐ "
        return f"<p>{box}{body.removeprefix('<p>')}" if body.startswith("<p>") else box + body

    def raw(self, span: Span, html: str) -> str:
        """Tags that are meant for HTML alone."""
        told = left_out(span, html, "EPUB")
        self.problems += [told] if told else []
        return ""

    def inline(self, node: n.Inline) -> str:
        if isinstance(node, n.RawHtmlInline):
            return "<br>" if node.html.lower().startswith("<br") else self.raw(node.span, node.html)
        return super().inline(node)

    def block(self, node: n.Block) -> str:
        match node:
            case n.RawHtmlBlock(html=html):
                return self.raw(node.span, html)
            case n.RichHtml(text=text):
                return f'<pre class="output">{escape(text, quote=False)}</pre>'
            case n.SheetBreak():
                return ""
        return super().block(node)
