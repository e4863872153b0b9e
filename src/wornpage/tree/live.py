"""What a figure is in a browser, beside the still picture of it."""

from __future__ import annotations

from msgspec import Struct


class Live(Struct, frozen=True):
    """A page of its own, or pictures that follow one another."""

    html: bytes = b""
    """The page's body, with what begins it."""
    scripts: tuple[bytes, ...] = ()
    """Libraries that it needs, whole."""
    frames: tuple[bytes, ...] = ()
    """In place of a page: pictures (PNG), all of one size."""
    interval: float = 0.2
    """Seconds from one to the next."""
    fits: bool = False
    """Whether the page takes the room it is given; it is as high as what it holds otherwise."""
