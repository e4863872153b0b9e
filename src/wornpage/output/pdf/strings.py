"""Text as the typesetter's string literals: nothing a page says can be taken for markup."""

from __future__ import annotations

import re

_ESCAPES = str.maketrans({"\\": "\\\\", '"': '\\"', "\n": "\\n", "\t": "\\t", "\r": "", "\0": ""})


def string(text: str) -> str:
    """`text` as a string literal."""
    return f'"{text.translate(_ESCAPES)}"'


_ENDLESS = re.compile(r"[^\s\u00a0]{32,}")
_PLACES = re.compile(r"[^\W_]{12}|[^\w\s]+(?=\w)|_+(?=[^\W_])")


def code_text(text: str) -> str:
    """Code as a string literal whose spaces all stay."""
    expanded = text.expandtabs(4)
    stripped = expanded.lstrip(" ")
    kept = "\u00a0" * (len(expanded) - len(stripped)) + stripped.replace("  ", "\u00a0\u00a0")
    return string(breakable(kept))


def breakable(text: str) -> str:
    """`text` with places to break what would stand over the edge: letters without a space that go on for long."""
    return _ENDLESS.sub(_with_places, text)


def _with_places(match: re.Match[str]) -> str:
    return _PLACES.sub("\\g<0>\u200b", match[0])
