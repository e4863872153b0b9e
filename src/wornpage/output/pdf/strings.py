"""Text as the typesetter's string literals: nothing a page says can be taken for markup."""

from __future__ import annotations

_ESCAPES = str.maketrans({"\\": "\\\\", '"': '\\"', "\n": "\\n", "\t": "\\t", "\r": "", "\0": ""})


def string(text: str) -> str:
    """`text` as a string literal."""
    return f'"{text.translate(_ESCAPES)}"'


def code_text(text: str) -> str:
    """Code as a string literal whose spaces all stay."""
    expanded = text.expandtabs(4)
    stripped = expanded.lstrip(" ")
    kept = "\u00a0" * (len(expanded) - len(stripped)) + stripped.replace("  ", "\u00a0\u00a0")
    return string(kept)
