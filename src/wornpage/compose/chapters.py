"""What a page is in a volume: which chapter, and how it counts what it holds."""

from __future__ import annotations

from msgspec import Struct

TOP = "text"
"""The place that leads to a page as a whole."""


class Chapter(Struct, frozen=True):
    """A page's place in a volume."""

    key: str
    """What pointers call the page: the name of its file, or what tells it from another of that name."""
    order: int
    number: str = ""
    """`3`, or `B` in the appendix; empty for pages without numbers."""
    is_appendix: bool = False
    by_chapter: bool = True
    """Whether figures and the like count anew in it (3.1, 3.2), and not right through."""
