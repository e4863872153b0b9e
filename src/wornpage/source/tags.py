"""Tags of HTML that people write in running text where Markdown has nothing, as what they mean in every output."""

from __future__ import annotations

import re
from collections.abc import Callable

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
