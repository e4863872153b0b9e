"""The HTML that values make of themselves: written anew from what is allowed; what needs more gets a frame of its own.

A frame is sandboxed and may load nothing: whatever is in it reaches neither the page nor the network.
"""

from __future__ import annotations

from html import escape

from wornpage.output.html import allowed
from wornpage.output.html.rewriting import Attributes, Rewriter

_POLICY = "default-src 'none'; script-src 'unsafe-inline'; style-src 'unsafe-inline'; img-src data:; font-src data:"
_TELLS = '<script>{const tell=()=>parent.postMessage({worn:{height:document.body.getBoundingClientRect().bottom+parseFloat(getComputedStyle(document.body).marginBottom)}},"*");new ResizeObserver(tell).observe(document.documentElement);addEventListener("load",tell);addEventListener("message",tell)}</script>'
"""How high it is, so that the frame can be as high."""
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
    try:
        return _Reader().whole(html)
    except (_NotAllowed, AssertionError, ValueError):
        return _framed(html, words)


def _framed(html: str, words: str) -> str:
    inner = f'<!DOCTYPE html><meta charset="utf-8"><meta http-equiv="Content-Security-Policy" content="{_POLICY}">{html}{_TELLS}'
    title = escape(" ".join(words.split())[:120] or "an interactive result")
    return f'<iframe class="framed" sandbox="allow-scripts" title="{title}" srcdoc="{escape(inner)}"></iframe>'


class _NotAllowed(Exception):
    """Something that may not stand in the page itself."""


class _Reader(Rewriter):
    empty = allowed.EMPTY_ELEMENTS

    def begun(self, tag: str, attrs: Attributes) -> str:
        if tag not in allowed.RICH_ELEMENTS:
            raise _NotAllowed(tag)
        while self.open and self.open[-1] in _CLOSES.get(tag, ()):
            self.out.append(f"</{self.open.pop()}>")
        return tag + "".join(self._attribute(tag, name, value or "") for name, value in attrs)

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

    def handle_decl(self, decl: str) -> None:
        raise _NotAllowed(decl)

    def unknown_decl(self, data: str) -> None:
        raise _NotAllowed(data)

    def handle_pi(self, data: str) -> None:
        raise _NotAllowed(data)
