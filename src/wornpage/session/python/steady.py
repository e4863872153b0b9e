"""HTML that values write of themselves, with names of places in it that do not hang on how often, or when, it was written."""

from __future__ import annotations

import re

_ID = re.compile(r"\bid=[\"']([^\"'\s]+)[\"']")
_CHANCE = r"[0-9a-f]{8}(?:-?[0-9a-f]{4}){3}-?[0-9a-f]{12}"
"""What a random identifier looks like (RFC 9562)."""
_PARTS = re.compile(rf"({_CHANCE})|(?<![0-9])([0-9]+)$")


def steady(html: str) -> str:
    """`html` with random identifiers, and running numbers at the ends of names of places, counted from 1."""
    counted: dict[str, dict[str, str]] = {}
    for name in dict.fromkeys(_ID.findall(html)):
        if match := _PARTS.search(name):
            before = "" if match[1] else name[: match.start()]
            seen = counted.setdefault(before, {})
            seen.setdefault(match[0], str(len(seen) + 1))
    for before, numbers in counted.items():
        if all(old == new for old, new in numbers.items()):
            continue
        pattern = rf"(?<![\w-]){re.escape(before)}([0-9]+)(?![\w-])" if before else f"({_CHANCE})"

        def put(match: re.Match[str], before: str = before, numbers: dict[str, str] = numbers) -> str:
            return before + numbers.get(match[1], match[1])

        html = re.sub(pattern, put, html)
    return html
