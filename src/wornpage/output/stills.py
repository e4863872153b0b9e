"""Still pictures of figures whose library could not draw them: by a browser found on this machine, else a frame with words."""

from __future__ import annotations

import os
import shutil
import struct
import subprocess
import tempfile
import zlib
from collections.abc import Callable
from html import escape
from pathlib import Path

from msgspec.structs import replace

from wornpage.output.livepage import to_draw
from wornpage.store.blocks import FileCache
from wornpage.tree import nodes as n
from wornpage.tree.live import Live
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span
from wornpage.tree.walk import rewrite

_NAMES = ("chromium", "chromium-browser", "google-chrome", "google-chrome-stable", "chrome", "microsoft-edge", "msedge")
"""Programs that draw a page without a window, and go by the same options."""
_PATIENCE = 60
_SHARP = 3
"""Dots of the picture for one of the screen, of which there are 96 to the inch."""
_TIME = 6_000
"""Milliseconds, as the page counts them, that its scripts have to draw."""
_ROOM = 300
"""Pixels that a window may need for itself."""
_kept = FileCache("stills")
_USUAL = (18.5, 11.9)
"""Centimetres of a figure that says nothing of its size."""


class Stills:
    """Draws the pictures that a page lacks, and remembers what is to be said of those that it cannot draw."""

    def __init__(self, lacks: Callable[[n.Picture], bool], needed: bool = True) -> None:
        """`needed` says that figures which live cannot be seen without a picture."""
        self._lacks, self._needed = lacks, needed
        self.problems: list[Problem] = []
        self.looked_for: list[Path] = []

    def drawn(self, page: n.Composed) -> n.Composed:
        """The page with a picture for each figure."""
        return replace(page, blocks=rewrite(page.blocks, self._change))

    def _change(self, node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
        if not isinstance(node, n.Figure) or not any(map(self._lacks, node.pictures)):
            return None
        return replace(node, pictures=tuple(self._picture(one, node.span) for one in node.pictures))

    def _picture(self, picture: n.Picture, span: Span) -> n.Picture:
        if not self._lacks(picture):
            return picture
        width, height = picture.width or _USUAL[0], picture.height or _USUAL[1]
        browser = _browser()
        why = "there is no browser on this machine"
        if picture.live is not None and browser is not None:
            self.looked_for.append(browser)
            data, why = _shot(picture.live, width, height, browser)
            if data:
                return replace(picture, format="png", data=data, width=width, height=height)
        if picture.live is not None and not self._needed:
            return picture
        what = f"this figure cannot be drawn as a picture: {picture.undrawn}; and {why}."
        hint = (
            "Install Chromium, or what the library draws itself with. In HTML the figure is there, as it can be moved."
        )
        self.problems.append(Problem(span, what, hint, Severity.WARNING))
        return replace(picture, format="svg", data=_box(picture.alt, width, height), width=width, height=height)


def _browser() -> Path | None:
    found = next((path for name in _NAMES if (path := shutil.which(name))), None)
    return Path(found) if found else None


def _shot(live: Live, width: float, height: float, browser: Path) -> tuple[bytes, str]:
    """The page of a figure as a picture (PNG), and why there is none. Kept, since it takes a second or two."""
    across, down = (max(1, round(size / 2.54 * 96)) for size in (width, height))
    page = to_draw(live, across, down)
    source, about = page.encode("utf-8", "replace"), f"{across}x{down} {browser}"
    if (kept := _kept.get(source, about)) is not None:
        return kept, ""
    with tempfile.TemporaryDirectory(prefix="worn-") as name:
        place = Path(name)
        (place / "page.html").write_bytes(source)
        command = [
            str(browser), "--headless", "--disable-gpu", "--hide-scrollbars", "--no-first-run", "--disable-background-networking", "--disable-sync",
            f"--user-data-dir={place / 'profile'}", f"--window-size={across},{down + _ROOM}", f"--force-device-scale-factor={_SHARP}",
            f"--virtual-time-budget={_TIME}", f"--screenshot={place / 'shot.png'}", *(["--no-sandbox"] if os.geteuid() == 0 else []),
            (place / "page.html").as_uri(),
        ]  # fmt: skip
        try:
            subprocess.run(command, capture_output=True, timeout=_PATIENCE, check=False, stdin=subprocess.DEVNULL)
            data = (place / "shot.png").read_bytes()
        except subprocess.TimeoutExpired:
            return b"", f"the browser took longer than {_PATIENCE} seconds for it"
        except OSError:
            return b"", "the browser could not draw it"
    data = _first_rows(data, down * _SHARP)
    _kept.put(data, source, about)
    return data, ""


def _first_rows(data: bytes, count: int) -> bytes:
    """The first rows of a picture (PNG, W3C Recommendation, third edition: what a row says hangs on those above it alone)."""
    at, chunks = 8, []
    while at + 12 <= len(data):
        length, kind = struct.unpack(">I4s", data[at : at + 8])
        chunks.append((kind, data[at + 8 : at + 8 + length]))
        at += 12 + length
    width, height, depth, colours = struct.unpack(">IIBB", chunks[0][1][:10])
    if height <= count:
        return data
    row = 1 + (width * depth * {0: 1, 2: 3, 3: 1, 4: 2, 6: 4}[colours] + 7) // 8
    rows = zlib.decompress(b"".join(body for kind, body in chunks if kind == b"IDAT"))[: row * count]
    head = struct.pack(">II", width, count) + chunks[0][1][8:]
    before = [(kind, body) for kind, body in chunks[1:] if kind not in {b"IDAT", b"IEND"}]
    made = [(b"IHDR", head), *before, (b"IDAT", zlib.compress(rows, 9)), (b"IEND", b"")]
    return data[:8] + b"".join(
        struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body)) for kind, body in made
    )


def _box(words: str, width: float, height: float) -> bytes:
    """A frame with words, as large as the figure."""
    across, down = width / 2.54 * 96, height / 2.54 * 96
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}cm" height="{height}cm" viewBox="0 0 {across:.0f} {down:.0f}">'
        f'<rect x="1" y="1" width="{across - 2:.0f}" height="{down - 2:.0f}" fill="#f4f4f1" stroke="#8a8a85" stroke-dasharray="6 5"/>'
        f'<text x="{across / 2:.0f}" y="{down / 2 - 4:.0f}" text-anchor="middle" font-family="sans-serif" font-size="17" fill="#333">{escape(words[:60])}</text>'
        f'<text x="{across / 2:.0f}" y="{down / 2 + 24:.0f}" text-anchor="middle" font-family="sans-serif" font-size="14" fill="#555">no still picture of it here</text>'
        "</svg>"
    ).encode()
