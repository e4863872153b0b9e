"""Figures that live in the page: in a frame of their own, with the libraries that they need once a page; and pictures that follow one another.

Where there is no script the still picture stands there, as in print.
"""

from __future__ import annotations

import base64
import json
import zlib
from html import escape

from blake3 import blake3

from wornpage.output.html.scripts import own_script
from wornpage.output.livepage import head
from wornpage.tree.nodes import Picture

_SIGNS = ('class="live"', 'class="moving"', 'class="framed"')


class Libraries:
    """The libraries that the figures of a page need, each once."""

    def __init__(self) -> None:
        self.packed: dict[str, str] = {}
        """By a name that tells them apart."""

    def named(self, script: bytes) -> str:
        """The name of a library, which is in the page from now on."""
        name = str(blake3(script).hexdigest()[:16])
        if name not in self.packed:
            self.packed[name] = packed(script)
        return name


def living(picture: Picture, still: str, libraries: Libraries, scaled: bool = False) -> str:
    """A figure that lives, around its still picture; `still` is empty where there is none.

    `scaled` is for figures that are as large as the room they stand in, and not as they were made.
    """
    live = picture.live
    assert live is not None
    words = escape(picture.alt or "")
    shape = (
        f"aspect-ratio:{picture.width:.3f}/{picture.height:.3f}"
        if picture.width and picture.height
        else "min-height:16rem"
    )
    size = f"width:{picture.width:.3f}cm;{shape}" if picture.width else shape
    if live.frames:
        frames = json.dumps([base64.b64encode(one).decode() for one in live.frames])
        return f'<div class="moving" data-words="{words}" data-seconds="{live.interval:g}">{still}<script type="text/plain">{frames}</script></div>'
    told = {
        "head": head(live),
        "html": live.html.decode("utf-8", "replace"),
        "scripts": [libraries.named(script) for script in live.scripts],
    }
    page = packed(json.dumps(told, ensure_ascii=False).encode("utf-8", "replace"))
    fits = (" data-fits" if live.fits else "") + (" data-scaled" if scaled else "")
    shown = still or f'<p class="no-still">{words}</p>'
    return f'<div class="live" data-words="{words}"{fits} style="{size}">{shown}<script type="text/plain">{page}</script></div>'


def live_script(html: str, libraries: dict[str, str]) -> str:
    """What makes the figures in `html` live; empty where none does."""
    if not any(sign in html for sign in _SIGNS):
        return ""
    held = "".join(f'<script type="text/plain" id="live-{name}">{text}</script>' for name, text in libraries.items())
    script = own_script("live.js")
    return f'{held}<script id="live-script">{script}</script>'


def packed(data: bytes) -> str:
    """Data as a page can hold it and browsers unpack it."""
    made = zlib.compressobj(9, zlib.DEFLATED, -15)
    return base64.b64encode(made.compress(data) + made.flush()).decode()
