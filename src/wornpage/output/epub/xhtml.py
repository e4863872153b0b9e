"""HTML as our writer makes it, as XHTML: every element closed, every attribute with a value."""

from __future__ import annotations

import re
from html import escape
from html.parser import HTMLParser

_VOID = frozenset("area base br col embed hr img input link meta source track wbr".split())
_MATHML = "http://www.w3.org/1998/Math/MathML"
_CONTROLS = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ufdd0-\ufdef\ufffe\uffff]")


def as_xhtml(html: str) -> str:
    """A piece of HTML as a piece of XHTML."""
    writer = _Writer()
    writer.feed(html)
    writer.close()
    return _CONTROLS.sub("\ufffd", writer.finished())


class _Writer(HTMLParser):
    def __init__(self) -> None:
        super().__init__(convert_charrefs=True)
        self.out: list[str] = []
        self.open: list[str] = []

    def finished(self) -> str:
        return "".join(self.out) + "".join(f"</{name}>" for name in reversed(self.open))

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        made = "".join(f' {name}="{escape(name if value is None else value)}"' for name, value in dict(attrs).items())
        space = f' xmlns="{_MATHML}"' if tag == "math" else ""
        if tag in _VOID:
            self.out.append(f"<{tag}{made}/>")
        else:
            self.out.append(f"<{tag}{space}{made}>")
            self.open.append(tag)

    def handle_startendtag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.handle_starttag(tag, attrs)
        if tag not in _VOID:
            self.handle_endtag(tag)

    def handle_endtag(self, tag: str) -> None:
        if tag not in self.open:
            return
        while True:
            last = self.open.pop()
            self.out.append(f"</{last}>")
            if last == tag:
                return

    def handle_data(self, data: str) -> None:
        self.out.append(escape(data, quote=False))
