"""What the document can lead to: a bookmark for each label."""

from __future__ import annotations

import re

from wornpage.store.hashes import hash128

_LONGEST = 40
"""Letters of a bookmark's name."""
_FORBIDDEN = re.compile(r"[^A-Za-z0-9_]")


class Bookmarks:
    """Bookmarks with ids and names that nothing else of the document has."""

    def __init__(self, first: int) -> None:
        self._next = first
        self._set: set[str] = set()

    def around(self, name: str, inner: str) -> str:
        """`inner` within a bookmark; a name that is there already is not set twice."""
        if not name or name in self._set:
            return inner
        self._set.add(name)
        number = self._next
        self._next += 1
        return f'<w:bookmarkStart w:id="{number}" w:name="{name}"/>{inner}<w:bookmarkEnd w:id="{number}"/>'


def bookmark(label: str, prefix: str = "to") -> str:
    """The name of the bookmark for a label: letters that every program takes, and no more than it may have."""
    plain = _FORBIDDEN.sub("_", label)
    name = f"{prefix}_{plain}"
    if plain == label and len(name) <= _LONGEST:
        return name
    told = hash128(label.encode("utf-8", "surrogatepass")).hexdigest()[:8]
    return f"{prefix}_{plain[: _LONGEST - len(prefix) - 10]}_{told}"
