"""What is lifted out of a page's text before Markdown's own rules see it."""

from __future__ import annotations

from msgspec import Struct

from wornpage.tree.span import Span


class Piece(Struct, frozen=True):
    """Something lifted out of the text."""

    kind: str
    """`mark`, `math`, `display` or `attributes`."""
    raw: str
    """As written, braces and dollars included."""
    span: Span
