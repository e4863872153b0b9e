"""HTML read and written anew, every element closed: for those who let less through, or write otherwise."""

from __future__ import annotations

from html import escape
from html.parser import HTMLParser

Attributes = list[tuple[str, str | None]]


class Rewriter(HTMLParser):
    """Reads pieces; what it has written is in `out`. A subclass says how an element begins (`begun`)."""

    empty: frozenset[str] = frozenset()
    """Elements that hold nothing."""

    def __init__(self) -> None:
        super().__init__(convert_charrefs=True)
        self.out: list[str] = []
        self.open: list[str] = []

    def begun(self, tag: str, attrs: Attributes) -> str:
        """The tag that an element begins with, without its brackets; nothing for one that is left out."""
        raise NotImplementedError

    def whole(self, html: str) -> str:
        """A piece, written anew."""
        self.feed(html)
        self.close()
        return "".join(self.out) + "".join(f"</{name}>" for name in reversed(self.open))

    def handle_starttag(self, tag: str, attrs: Attributes) -> None:
        if begun := self.begun(tag, attrs):
            self.out.append(f"<{begun}>")
            if tag not in self.empty:
                self.open.append(tag)

    def handle_startendtag(self, tag: str, attrs: Attributes) -> None:
        self.handle_starttag(tag, attrs)
        if self.open[-1:] == [tag]:
            self.handle_endtag(tag)

    def handle_endtag(self, tag: str) -> None:
        if tag not in self.open:
            return
        while (last := self.open.pop()) != tag:
            self.out.append(f"</{last}>")
        self.out.append(f"</{tag}>")

    def handle_data(self, data: str) -> None:
        self.out.append(escape(data, quote=False))
