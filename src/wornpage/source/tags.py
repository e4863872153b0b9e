"""Tags of HTML that people write in running text where Markdown has nothing, as what they mean in every output."""

from __future__ import annotations

import re
from collections.abc import Callable
from html import unescape

from msgspec.structs import replace

from wornpage.source.attributes import in_centimetres
from wornpage.tree import nodes as n
from wornpage.tree.span import Span
from wornpage.tree.walk import words_of

_TAG = re.compile(r"<(/?)([a-z]+)\s*/?>", re.IGNORECASE)
Make = Callable[[Span, n.Inlines], n.Inline]

_MEANINGS: dict[str, Make] = {
    "b": n.Strong,
    "strong": n.Strong,
    "i": n.Emphasis,
    "em": n.Emphasis,
    "s": n.Strike,
    "del": n.Strike,
    "sub": lambda span, words: n.Raised(span, words, below=True),
    "sup": n.Raised,
    "code": lambda span, words: n.Code(span, words_of(words)),
    "kbd": lambda span, words: n.Code(span, words_of(words)),
}
"""Tags without attributes that come in pairs; all others stay what they are."""


def with_meanings(inlines: n.Inlines) -> n.Inlines:
    """`inlines` with nodes for the tags that every output can show, each pair within one run of text."""
    if not any(isinstance(node, n.RawHtmlInline) for node in inlines):
        return inlines
    made: list[n.Inline] = []
    opened: list[tuple[str, int]] = []
    """Tags that are open, and where each stands in `made`."""
    for node in inlines:
        match = _TAG.fullmatch(node.html) if isinstance(node, n.RawHtmlInline) else None
        name = match[2].lower() if match else ""
        if name == "br" and match and not match[1]:
            made.append(n.HardBreak(node.span))
            continue
        made.append(node)
        if match is None or name not in _MEANINGS:
            continue
        if not match[1]:
            opened.append((name, len(made) - 1))
        elif opened and opened[-1][0] == name:
            _, start = opened.pop()
            words = tuple(made[start + 1 : -1])
            made[start:] = [_MEANINGS[name](made[start].span, words)]
    return tuple(made)


_IMAGE = re.compile(r"""<img\s+((?:[^"'<>]|"[^"]*"|'[^']*')+?)\s*/?>""", re.IGNORECASE)
_PAIR = re.compile(r"""([\w-]+)\s*=\s*(?:"([^"]*)"|'([^']*)'|([^\s"'>]+))""")
_TAKEN = {"src", "alt", "title", "id", "width", "height", "style", "align", "loading", "decoding"}
_STYLE = re.compile(r"\s*(width|height)\s*:\s*([\d.]+\s*(?:px|%|cm|mm|in|pt))\s*;?\s*")


_AROUND = re.compile(
    r"""<(p|div|center)(?:\s+align\s*=\s*["']?(left|right|center)["']?)?\s*>\s*(<img\b.*)</\1\s*>""",
    re.IGNORECASE | re.DOTALL,
)
"""What people put around an image to move it."""


def _aligned(attributes: n.Attributes, align: str) -> n.Attributes:
    return replace(attributes, pairs=(*attributes.pairs, ("align", align)))


def image_of(html: str, span: Span) -> n.Image | None:
    """The image that an `<img>` of a file beside the page stands for; None for one that asks for more than images here can."""
    if around := _AROUND.fullmatch(html.strip()):
        inner = image_of(around[3], span)
        align = around[2] or ("center" if around[1].lower() == "center" else "left")
        return replace(inner, attributes=_aligned(inner.attributes, align.lower())) if inner else None
    match = _IMAGE.fullmatch(html.strip())
    if match is None or _PAIR.sub("", match[1]).strip():
        return None
    given = {one[1].lower(): unescape(one[2] or one[3] or one[4] or "").strip() for one in _PAIR.finditer(match[1])}
    sizes = {name: given.get(name, "") for name in ("width", "height")}
    style = given.get("style", "")
    sizes |= {one[1]: one[2] for one in _STYLE.finditer(style)}
    sizes["height"] = "" if sizes["height"] == "auto" else sizes["height"]
    source = given.get("src", "")
    is_elsewhere = re.match(r"(?!data:)[a-z][a-z0-9+.-]*:|//", source, re.IGNORECASE)
    rest = re.sub(r"\s*(?:height|width)\s*:\s*auto\s*;?\s*", "", _STYLE.sub("", style)).strip()
    if not source or is_elsewhere or rest or not given.keys() <= _TAKEN:
        return None
    pairs = {name: in_centimetres(size) or size for name, size in sizes.items() if size}
    if given.get("align") in {"left", "right", "center"}:
        pairs["align"] = given["align"]
    alt = (n.Text(span, given["alt"]),) if given.get("alt") else ()
    attributes = n.Attributes(given.get("id", ""), (), tuple(pairs.items()), span)
    return n.Image(span, source, given.get("title", ""), alt, attributes)
