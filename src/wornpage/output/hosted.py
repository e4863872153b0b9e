"""Results for a page in a language other than Markdown, by the places that they go to."""

from __future__ import annotations

from collections.abc import Callable

from wornpage.tree import nodes as n
from wornpage.tree.span import Span
from wornpage.tree.walk import walk

Write = Callable[[n.Block], str]


def results_of(page: n.Composed, write: Write) -> dict[Span, str]:
    """What `write` makes of each chunk and value of the page."""
    made = {block.span: write(block) for block in page.blocks}
    for node in walk(page.blocks):
        if isinstance(node, n.Answered):
            made.setdefault(node.span, write(n.Paragraph(node.span, (node,))))
    return made
