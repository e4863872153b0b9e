"""The HTML that values make of themselves: written anew from what is allowed; what needs more gets a frame of its own.

A frame is sandboxed and may load nothing: whatever is in it reaches neither the page nor the network.
"""

from __future__ import annotations

from html import escape
from html.parser import HTMLParser

from wornpage.output.html import allowed

_POLICY = "default-src 'none'; script-src 'unsafe-inline'; style-src 'unsafe-inline'; img-src data:; font-src data:"
_CLOSES = {
    "p": {"p"},
    "li": {"li"},
    "td": {"td", "th"},
    "th": {"td", "th"},
    "tr": {"tr", "td", "th"},
    "dt": {"dt", "dd"},
    "dd": {"dt", "dd"},
}


def rich(html: str, words: str) -> str:
    """`html` as part of the page, or in a frame; `words` say what it is to those who cannot see it."""
    reader = _Reader()
    try:
        reader.feed(html)
        reader.close()
        return reader.finished()
    except (_NotAllowed, AssertionError, ValueError):
        return _framed(html, words)


def _framed(html: str, words: str) -> str:
    inner = (
        f'<!DOCTYPE html><meta charset="utf-8"><meta http-equiv="Content-Security-Policy" content="{_POLICY}">{html}'
    )
    title = escape(" ".join(words.split())[:120] or "an interactive result")
    return f'<iframe class="framed" sandbox="allow-scripts" title="{title}" srcdoc="{escape(inner)}"></iframe>'


class _NotAllowed(Exception):
    """Something that may not stand in the page itself."""


class _Reader(HTMLParser):
    def __init__(self) -> None:
        super().__init__(convert_charrefs=True)
        self.out: list[str] = []
        self.open: list[str] = []

    def finished(self) -> str:
        """What was read, with every element closed."""
        return "".join(self.out) + "".join(f"</{name}>" for name in reversed(self.open))

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        if tag not in allowed.RICH_ELEMENTS:
            raise _NotAllowed(tag)
        while self.open and self.open[-1] in _CLOSES.get(tag, ()):
            self.out.append(f"</{self.open.pop()}>")
        made = "".join(self._attribute(tag, name, value or "") for name, value in attrs)
        self.out.append(f"<{tag}{made}>")
        if tag not in allowed.EMPTY_ELEMENTS:
            self.open.append(tag)

    def handle_startendtag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.handle_starttag(tag, attrs)
        if tag not in allowed.EMPTY_ELEMENTS:
            self.handle_endtag(tag)

    def _attribute(self, tag: str, name: str, value: str) -> str:
        if name in allowed.DROPPED_RICH or name.startswith(("aria-", "data-")):
            return ""
        if name not in allowed.RICH_ATTRIBUTES:
            raise _NotAllowed(name)
        if name == "style":
            style = allowed.safe_style(value)
            if style is None:
                raise _NotAllowed(value)
            value = style
        fits = {"href": allowed.is_link, "src": allowed.is_picture, "cite": allowed.is_link}.get(name)
        if fits is not None and not fits(value):
            raise _NotAllowed(value)
        return f' {name}="{escape(value)}"'

    def handle_endtag(self, tag: str) -> None:
        if tag not in self.open:
            return
        while self.open:
            last = self.open.pop()
            self.out.append(f"</{last}>")
            if last == tag:
                return

    def handle_data(self, data: str) -> None:
        self.out.append(escape(data, quote=False))

    def handle_decl(self, decl: str) -> None:
        raise _NotAllowed(decl)

    def unknown_decl(self, data: str) -> None:
        raise _NotAllowed(data)

    def handle_pi(self, data: str) -> None:
        raise _NotAllowed(data)
