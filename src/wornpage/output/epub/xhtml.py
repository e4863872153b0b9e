"""HTML as our writer makes it, as XHTML: every element closed, every attribute with a value."""

from __future__ import annotations

import re
from html import escape

from wornpage.output.html.rewriting import Attributes, Rewriter

_VOID = frozenset("area base br col embed hr img input link meta source track wbr".split())
_SPACES = {"math": "http://www.w3.org/1998/Math/MathML", "svg": "http://www.w3.org/2000/svg"}
_NAME = re.compile(r"(?:(?:epub|xml|xlink):)?[A-Za-z_][\w.-]*", re.ASCII)
"""Of elements and attributes; others are left out."""
_CONTROLS = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ufdd0-\ufdef\ufffe\uffff]")


def as_xhtml(html: str) -> str:
    """A piece of HTML as a piece of XHTML."""
    return _CONTROLS.sub("\ufffd", _Writer().whole(html))


class _Writer(Rewriter):
    empty = _VOID

    def begun(self, tag: str, attrs: Attributes) -> str:
        if not _NAME.fullmatch(tag):
            return ""
        given = ({"xmlns": _SPACES[tag]} if tag in _SPACES else {}) | dict(attrs)
        made = "".join(
            f' {name}="{escape(name if value is None else value)}"'
            for name, value in given.items()
            if _NAME.fullmatch(name)
        )
        return f"{tag}{made}{'/' if tag in _VOID else ''}"
