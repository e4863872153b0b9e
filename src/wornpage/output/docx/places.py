"""What the document can lead to: a bookmark for each label, and what fields say of it."""

from __future__ import annotations

import re

from msgspec import Struct

from wornpage.store.hashes import hash128
from wornpage.tree import nodes as n
from wornpage.tree.walk import walk, words_of

_LONGEST = 40
"""Letters of a bookmark's name."""
_FORBIDDEN = re.compile(r"[^A-Za-z0-9_]")


class Goal(Struct, frozen=True):
    """Something with a label."""

    kind: str
    """`captioned`, `equation`, `heading` or `place`."""
    number: str = ""
    word: str = ""
    words: str = ""
    """Of a heading that is of letters alone."""


def goals_of(blocks: n.Blocks) -> dict[str, Goal]:
    """Everything in `blocks` that links can lead to, by label."""
    found: dict[str, Goal] = {}
    for node in walk(blocks):
        match node:
            case n.Heading():
                word = (
                    "" if node.is_chapter and node.number.isdigit() else node.word
                )  # which is no part of its number there
                found[node.label] = Goal("heading", node.number, word, _letters_of(node.children))
            case n.Figure() | n.TableBlock() | n.CodeBlock() if node.label:
                found[node.label] = Goal("captioned" if node.number else "place", node.number, node.word)
            case n.MathBlock() if node.label:
                found[node.label] = Goal("equation" if node.number else "place", node.number)
            case n.Container(attributes=attributes) if attributes.label:
                found[attributes.label] = Goal("place")
            case n.Citation(anchor=anchor):
                found[anchor] = Goal("place")
            case n.ReferenceList(entries=entries):
                found.update({entry.anchor: Goal("place") for entry in entries})
    return found


def _letters_of(inlines: n.Inlines) -> str:
    """What running text says where nothing but letters stands in it."""
    return (
        words_of(inlines)
        if not any(isinstance(node, n.Math | n.InlinePicture | n.Footnote) for node in walk(inlines))
        else ""
    )


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
