"""A page as HTML, but for what hangs on its looks and on what stands around it."""

from __future__ import annotations

from typing import Any

from msgspec import Struct


class Body(Struct, frozen=True):
    """All of a page but what hangs on its looks and on what stands around it."""

    pieces: dict[str, str]
    """HTML by the frame's names, but for the blocks."""
    blocks: tuple[str, ...]
    """HTML of the page's own blocks."""
    values: dict[str, Any]
    """Plain values by the frame's names."""
    sections: str
    """Its own contents, as beside a volume's."""
    said: dict[str, Any]
    """What machines are told of it (`around.told`)."""
    has_contents: bool
    libraries: dict[str, str] = {}
    """Scripts that figures in it need, packed."""
    origins: str = ""
    """What tells where things in it come from: a script with all that it needs."""


def all_of(body: Body) -> str:
    """All HTML of a page that shows."""
    return "".join((*body.blocks, *body.pieces.values()))
