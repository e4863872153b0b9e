"""What links of a page lead to, and the number in their words that follows when things are moved."""

from __future__ import annotations

import re

from msgspec import Struct

from wornpage.tree import nodes as n
from wornpage.tree.walk import walk, words_of


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


def ends_with_number(words: str, number: str) -> bool:
    """Whether words end with a number, and a letter of a part perhaps."""
    return bool(number) and re.fullmatch(rf"(?:.*\D)?{re.escape(number)}[a-z]{{0,2}}", words) is not None
