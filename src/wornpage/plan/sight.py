"""What code of a page asks for beyond what things hold."""

from __future__ import annotations

from msgspec import Struct


class Sight(Struct, frozen=True):
    """What code of a page asks for, as far as can be told by reading it: then it is noted for all.

    A chunk that newly asks has changed itself, or reads a function that has; so what was noted without it still holds.
    Identity alone is known only to those who made the things: they must have noted it.
    """

    identity: bool = False
    """Whether two things are one object."""
    lines: bool = False
    """On which line code stands, in which chunk, and how it is written."""
    times: bool = False
    """When files were changed."""
    rights: bool = False
    """Whose files are, and who may do what with them."""
    listings: bool = False
    """What is in folders."""
