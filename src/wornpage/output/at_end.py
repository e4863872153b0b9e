"""Figures and tables at the end of a page, as some journals want them, with words where they were."""

from __future__ import annotations

from wornpage.tree import nodes as n
from wornpage.tree.language import Language
from wornpage.tree.walk import rewrite


def without_floats(blocks: n.Blocks, language: Language) -> tuple[n.Blocks, list[n.Block]]:
    """Blocks with words in place of each captioned figure and table, and those in order."""
    moved: list[n.Block] = []

    def change(node: n.Node) -> n.Node | None:
        if not isinstance(node, n.Figure | n.TableBlock) or not node.number:
            return None
        moved.append(node)
        return n.AboutHere(node.span, language.about_here.format(what=f"{node.word} {node.number}"))

    body: n.Blocks = rewrite(blocks, change)
    return body, moved
