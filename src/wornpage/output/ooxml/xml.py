"""Letters and lengths as XML parts of a package have them."""

from __future__ import annotations

from html import escape

HEAD = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n'
R = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
A = "http://schemas.openxmlformats.org/drawingml/2006/main"
M = "http://schemas.openxmlformats.org/officeDocument/2006/math"

_ILLEGAL = dict.fromkeys([*range(9), 11, 12, *range(14, 32), *range(127, 160), 65534, 65535], "\ufffd")
_ILLEGAL |= dict.fromkeys(range(0xD800, 0xE000), "\ufffd") | dict.fromkeys(range(64976, 65008), "\ufffd")


def escaped(text: str) -> str:
    """`text` as XML has it, in elements and attributes; letters that no XML may hold as replacement signs."""
    return escape(text.translate(_ILLEGAL))


def emus(centimetres: float) -> int:
    """A length as drawings have it."""
    return round(centimetres * 360_000)
