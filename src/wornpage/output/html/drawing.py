"""SVG drawings made fit to stand inside a page: own ids, no script, no style that leaks."""

from __future__ import annotations

import base64
import re
from functools import lru_cache
from html import escape

from wornpage.tree.nodes import Picture

_MIME = {"svg": "image/svg+xml", "png": "image/png", "jpeg": "image/jpeg", "gif": "image/gif", "webp": "image/webp"}
_PLAIN_STYLE = re.compile(r"<style[^>]*>\s*\*\{stroke-linejoin: round; stroke-linecap: butt\}\s*</style>")
_UNSAFE = re.compile(
    r"<script|<style|<foreignObject|<!ENTITY|\son\w+\s*=|javascript:|@import|href=\"(?!#|data:image)", re.I
)
_ROOT = re.compile(r"<svg\b[^>]*>", re.DOTALL)
_METADATA = re.compile(r"\s*<metadata>.*?</metadata>", re.DOTALL)
_ID = re.compile(r"(\bid=\"|\bhref=\"#|url\(#)([^\")]+)")
_EMPTY_DEFS = re.compile(r"\s*<defs>\s*</defs>")


def drawing(picture: Picture, number: int) -> str:
    """An `<svg>` or `<img>` element for `picture`, the `number`th of the page."""
    if picture.format == "svg":
        inline = _inline(picture, number)
        if inline:
            return inline
    data = base64.b64encode(picture.data).decode()
    return f'<img src="data:{_MIME[picture.format]};base64,{data}" alt="{escape(picture.alt)}"{_size(picture)}>'


def _size(picture: Picture) -> str:
    return f' style="width:{picture.width:.4g}cm"' if picture.width else ""


@lru_cache(maxsize=64)
def _inline(picture: Picture, number: int) -> str:
    """The drawing as an element of the page; empty if it holds what only a file of its own may hold."""
    text = picture.data.decode("utf-8", "replace")
    root = _ROOT.search(text)
    if root is None:
        return ""
    box = re.search(r'viewBox="([^"]+)"', root[0])
    end = text.rfind("</svg>")
    body = _METADATA.sub("", text[root.end() : end] if end >= 0 else "")
    body = body.replace("xlink:href=", "href=")
    plain = _PLAIN_STYLE.search(body)
    body = _EMPTY_DEFS.sub("", _PLAIN_STYLE.sub("", body))
    if _UNSAFE.search(body) or not box:
        return ""
    body = re.sub(r"<!--.*?-->\s*", "", body, flags=re.DOTALL)
    body = re.sub(r"<path (?![^>]*\bd=)", '<path d="M0 0" ', body)  # Matplotlib's empty glyphs
    body = _ID.sub(lambda match: f"{match[1]}d{number}-{match[2]}", body)
    body = re.sub(r' id="d\d+-(?:figure|axes|patch|line2d|text|matplotlib\.axis|xtick|ytick|legend|PathCollection|'
                  r'PolyCollection|FillBetweenPolyCollection|LineCollection|QuadMesh|table|annotation)_\d+"', "", body)  # fmt: skip
    look = "stroke-linejoin:round;stroke-linecap:butt" if plain else ""
    width = f"width:{picture.width:.4g}cm" if picture.width else ""
    style = ";".join(part for part in (width, look) if part)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{box[1]}" role="img" aria-label="{escape(picture.alt)}"'
        f' style="{style}">{body.strip()}</svg>'
    )
