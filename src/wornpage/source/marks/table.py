"""Who reads which mark."""

from __future__ import annotations

from collections.abc import Callable

from wornpage.source.marks.cite import cite_mark
from wornpage.source.marks.index import index_mark
from wornpage.source.marks.see import pointer_mark
from wornpage.source.marks.value import value_mark
from wornpage.source.pieces import Piece
from wornpage.tree.nodes import Inline
from wornpage.tree.problem import Problem

READERS: dict[str, Callable[[Piece, str], tuple[Inline, Problem | None]]] = {
    "=": value_mark,
    "see": pointer_mark,
    "cite": cite_mark,
    "index": index_mark,
}
"""By verb (`verbs.ANSWERED`): what stands in a sentence, and what is wrong with it."""
